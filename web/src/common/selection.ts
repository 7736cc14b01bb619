import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import type { Format, LayerLine, Property } from '../api/client'
import { useDocument } from './document'

/** What is looked at and worked on in the open document. */
export const useSelection = defineStore('selection', () => {
  const doc = useDocument()
  const format = ref('')
  /** The selected layers, the last one last. */
  const layers = shallowRef<string[]>([])
  /** When somebody selected something last, in ms of the page's clock; and whether the selection only follows what was done. */
  let picked = 0
  let follows = false
  /** What a change that is on its way will leave selected; what is asked for before it is answered is about that. Null: nothing is to come. */
  const coming = shallowRef<Promise<string[]> | null>(null)
  watch(
    layers,
    () => {
      if (follows) return
      picked = performance.now()
      coming.value = null
    },
    { flush: 'sync' },
  )
  function follow(ids: string[]) {
    follows = true
    layers.value = ids
    follows = false
  }
  /** A change was asked for that leaves something else selected. */
  function awaits(done: Promise<boolean>) {
    const [older, before] = [doc.chosen, layers.value]
    // One that selected nothing, after all, leaves what was selected.
    const ids = done.then((ok) => (!ok ? [] : doc.chosen !== older ? doc.chosen.ids : before))
    coming.value = ids
    void ids.then(() => coming.value === ids && (coming.value = null))
  }
  /** The selected layer, the last of several; a view's pocket is selected with it. */
  const layer = computed({
    get: () => layers.value.at(-1) ?? '',
    set: (id: string) => (layers.value = id ? [id] : []),
  })
  const loose = ref('') // a selected pocket that no layer shows
  const line = computed<LayerLine | undefined>(() => doc.face?.layers.find((y) => y.id === layer.value))
  const pocket = computed<string>({
    get: () => line.value?.pocket || loose.value,
    set: (id) => {
      if (id && line.value?.pocket === id) return
      layer.value = (id && doc.face?.layers.find((y) => y.pocket === id)?.id) || ''
      loose.value = layer.value ? '' : id
    },
  })
  const formatView = computed<Format | undefined>(() => doc.face?.formats.find((f) => f.id === format.value))
  /** The layers that alone are shown on the stage, while somebody looks at those; none is all. */
  const alone = ref<string[]>([])
  /** What lies under what is clear on the stage, or what alone of the picture is shown, to judge it by. */
  const ground = ref('')
  /** Whether the selected pocket's media is being framed on the stage. */
  const framing = ref(false)
  watch(pocket, () => (framing.value = false))
  /** The layer whose words are being typed on the picture; '' is none. */
  const writing = ref('')
  watch([layer, format], () => layer.value !== writing.value && (writing.value = ''))
  /** Whether what is set on the layer now is set in this format alone. */
  const apart = ref(false)
  watch(format, () => (apart.value = false))
  /** The format in which a property is set: this one alone where it has its own value there, else all. */
  function where(p: Property | undefined): string | undefined {
    return apart.value || p?.own ? format.value : undefined
  }
  function nextFormat() {
    const all = doc.face?.formats ?? []
    format.value = all[(all.findIndex((f) => f.id === format.value) + 1) % all.length]?.id ?? ''
  }
  // What is gone is selected no more; what a change left selected is.
  watch(
    () => doc.face?.layers,
    (lines) => {
      const there = new Set(lines?.map((y) => y.id))
      if (layers.value.some((id) => !there.has(id))) follow(layers.value.filter((id) => there.has(id)))
      if (doc.face && !doc.face.formats.some((f) => f.id === format.value)) format.value = doc.face.formats[0]?.id ?? ''
    },
  )
  watch(
    () => doc.chosen,
    (c) => c.asked >= picked && follow(c.ids), // who went on to something else stays there
    { flush: 'sync' },
  )
  watch(
    () => doc.key,
    () => {
      format.value = doc.face?.formats[0]?.id ?? ''
      layer.value = loose.value = ''
      framing.value = false
      writing.value = ''
      alone.value = []
    },
    { flush: 'sync', immediate: true },
  )
  return { ground, format, formatView, alone, layers, coming, awaits, layer, line, pocket, framing, writing, apart, where, nextFormat }
})
