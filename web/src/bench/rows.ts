import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'

import type { LayerLine } from '../api/client'
import { useDocument } from '../common/document'

export interface Row {
  y: LayerLine
  /** Where it stands: the list it is in, by the group's id ('' is the canvas), and its place there, the lowest first. */
  group: string
  at: number
  count: number
}

/** The rows of layers as people read them, the topmost first, and which groups are folded: of the tree and of the time strip. */
export function useRows() {
  const doc = useDocument()
  /** Groups stand above what is in them; the rest is turned round. */
  const tree = computed(() => {
    const all = doc.draft!.layers
    const out: Row[] = []
    const among = (from: number, to: number, group: string) => {
      const heads: [number, number][] = []
      for (let i = from; i < to; ) {
        let end = i + 1
        while (end < to && all[end]!.depth > all[i]!.depth) end++
        heads.push([i, end])
        i = end
      }
      for (let h = heads.length - 1; h >= 0; h--) {
        const [i, end] = heads[h]!
        out.push({ y: all[i]!, group, at: h, count: end - i - 1 })
        among(i + 1, end, all[i]!.id)
      }
    }
    among(0, all.length, '')
    return out
  })
  const folded = useLocalStorage<string[]>('ivy-folded', [])
  const key = (id: string) => `${doc.draft!.id} ${id}`
  const isFolded = (id: string) => folded.value.includes(key(id))
  function fold(id: string) {
    folded.value = isFolded(id) ? folded.value.filter((k) => k !== key(id)) : [...folded.value.slice(-400), key(id)]
  }
  return { tree, isFolded, fold }
}
