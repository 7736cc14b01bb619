import { refDebounced } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'

import type { Outline } from '../../api/client'
import { useDocument } from '../document'
import { useSelection } from '../selection'
import { subject } from '../subjects'
import { useTransient } from '../transient'
import { useTransport } from '../transport'

/** So long a frame stands, in ms, before it is asked where things are seen on it. */
const STANDS = 120

/**
 * Where layers are seen through mattes on the frame that is shown, as paths of the canvas by the layer's id. It is known a
 * moment after a frame stands still; until then a layer is taken to be seen in all of its box.
 */
export function useSeen(outlines: Ref<Outline[]>) {
  const doc = useDocument()
  const selection = useSelection()
  const transport = useTransport()
  const transient = useTransient()
  const paths = shallowRef(new Map<string, { d: string; box: Outline['box'] }>())
  const wanted = computed(() =>
    doc.face && !transport.playing && !transport.scrubbing && !transient.op && outlines.value.some((o) => o.cut)
      ? { kind: doc.face.kind, id: doc.face.id, revision: doc.face.revision, format: selection.format, frame: transport.frame }
      : null,
  )
  const key = computed(() => JSON.stringify(wanted.value))
  const still = refDebounced(key, STANDS)
  watch(key, () => (paths.value = new Map()))
  watch(
    still,
    async (k) => {
      const w = wanted.value
      if (!w || k !== key.value) return
      const seen = await subject(w.kind).seen(w.id, w.format, w.frame).catch(() => [])
      if (k !== key.value) return
      paths.value = new Map(
        seen.map((s) => {
          const lines = (s.lines ?? []).map((l) => l ?? [])
          const xs = lines.flat().map((p) => p.x)
          const ys = lines.flat().map((p) => p.y)
          const [x, y] = [Math.min(...xs), Math.min(...ys)]
          const d = lines.map((l) => `M${l.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`).join('')
          return [s.layer, { d, box: xs.length ? { x, y, w: Math.max(...xs) - x, h: Math.max(...ys) - y } : { x: 0, y: 0, w: 0, h: 0 } }]
        }),
      )
    },
    { immediate: true },
  )
  return paths
}
