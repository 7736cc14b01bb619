import { nextTick, onScopeDispose, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useDocument } from './document'
import { useLeaving } from './leaving'
import { useSelection } from './selection'
import { useTransport } from './transport'

/** How long things are quiet before the address follows, in ms. */
const QUIET = 250

/**
 * Keeps where somebody is in the address: format, frame, selection and panel, so that reloading the page, or passing
 * its address on, leads there again.
 */
export function usePlace<Panel extends string>(panel: Ref<Panel>, panels: Readonly<Ref<readonly Panel[]>>) {
  const route = useRoute()
  const router = useRouter()
  const doc = useDocument()
  const selection = useSelection()
  const transport = useTransport()
  const leaving = useLeaving()

  /** Goes where the address leads, as far as the document has it; what it does not say stays. */
  function go() {
    const face = doc.face
    if (!face) return
    const say = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : undefined)
    const format = face.formats.find((f) => f.id === say('format'))
    if (format) selection.format = format.id
    const frame = Number(say('frame') ?? NaN)
    if (Number.isInteger(frame) && frame >= 0) transport.frame = Math.min(frame, face.frames - 1)
    const layer = face.layers.find((y) => y.id === say('layer'))
    const pocket = face.pockets.find((p) => p.id === say('pocket'))
    if (layer) selection.layer = layer.id
    else if (pocket) selection.pocket = pocket.id
    const side = panels.value.find((p) => p === say('panel'))
    // Last, for a selection that changes may bring another panel up.
    if (side) void nextTick(() => (panel.value = side))
    return frame >= 0
  }

  let timer: ReturnType<typeof setTimeout> | undefined
  watch([() => doc.key, () => selection.format, () => transport.frame, () => transport.playing, () => transport.scrubbing, () => selection.layer, () => selection.pocket, panel], () => {
    clearTimeout(timer)
    if (!doc.face || transport.playing || transport.scrubbing) return
    timer = setTimeout(() => {
      if (leaving() || route.params.id !== doc.face?.id) return
      const query: Record<string, string> = { format: selection.format, frame: String(transport.frame), panel: panel.value }
      if (selection.layer) query.layer = selection.layer
      else if (selection.pocket) query.pocket = selection.pocket
      void router.replace({ query })
    }, QUIET)
  })
  onScopeDispose(() => clearTimeout(timer))
  return { go }
}
