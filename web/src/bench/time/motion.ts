import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import type { KeyLine, LayerLine, TrackLine } from '../../api/client'
import { useDocument } from '../../common/document'
import { useSelection } from '../../common/selection'

/** A key, where it is. */
export interface Keyed {
  path: string
  layer: LayerLine
  track: TrackLine
  key: KeyLine
}

/** The path of a key, by that of its property: layers/ring/place and k2 are layers/ring/motion/place/k2. */
export function keyPath(property: string, id: string): string {
  const i = property.lastIndexOf('/')
  return `${property.slice(0, i)}/motion${property.slice(i)}/${id}`
}

/** Keys that are worked on, and whether what is set becomes one. */
export const useMotion = defineStore('motion', () => {
  const doc = useDocument()
  const selection = useSelection()
  /** What is set becomes a key at the playhead. */
  const recording = ref(false)
  /** The keys that are picked, by their paths. */
  const picked = ref<string[]>([])
  /** A key whose easing was copied. */
  const copied = ref<KeyLine | null>(null)
  /** What is shown over the strip: bars, or curves. */
  const curves = useLocalStorage('ivy-curves', false)
  /** The layers whose properties have rows of their own, by draft and layer. */
  const opened = useLocalStorage<string[]>('ivy-tracks', [])

  const all = computed(() => {
    const out = new Map<string, Keyed>()
    for (const layer of doc.draft?.layers ?? []) {
      for (const track of layer.tracks) for (const key of track.keys) out.set(keyPath(track.path, key.id), { path: keyPath(track.path, key.id), layer, track, key })
    }
    return out
  })
  const chosen = computed(() => picked.value.map((p) => all.value.get(p)).filter((k): k is Keyed => !!k))
  const isPicked = computed(() => new Set(picked.value))
  /** The time that the picked keys take. */
  const span = computed(() => {
    const at = chosen.value.map((k) => k.key.at)
    return at.length ? { from: Math.min(...at), to: Math.max(...at) } : null
  })

  const name = (id: string) => `${doc.draft?.id} ${id}`
  const isOpen = (id: string) => opened.value.includes(name(id))
  function open(id: string, on = !isOpen(id)) {
    opened.value = on ? [...opened.value.slice(-400).filter((n) => n !== name(id)), name(id)] : opened.value.filter((n) => n !== name(id))
  }

  /** Picks keys, and the layers that they are of. */
  function pick(keys: string[], more = false) {
    picked.value = more ? [...new Set([...picked.value, ...keys])] : keys
    const layers = [...new Set(chosen.value.map((k) => k.layer.id))]
    if (layers.length && layers.some((id) => !selection.layers.includes(id))) selection.layers = more ? [...new Set([...selection.layers, ...layers])] : layers
  }
  function turn(key: string) {
    if (isPicked.value.has(key)) picked.value = picked.value.filter((k) => k !== key)
    else pick([key], true)
  }

  // What is gone is picked no more; nor are keys of layers that are not selected.
  watch(all, (now) => {
    if (picked.value.some((k) => !now.has(k))) picked.value = picked.value.filter((k) => now.has(k))
  })
  watch(
    () => selection.layers,
    (ids) => {
      if (chosen.value.some((k) => !ids.includes(k.layer.id))) picked.value = chosen.value.filter((k) => ids.includes(k.layer.id)).map((k) => k.path)
    },
  )
  watch(
    () => doc.key,
    () => {
      recording.value = false
      picked.value = []
    },
  )
  return { recording, copied, picked, curves, all, chosen, isPicked, span, isOpen, open, pick, turn }
})
