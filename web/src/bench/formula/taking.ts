import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'

import { useDocument } from '../../common/document'
import { useActs } from '../acts'
import { useTool } from '../tool'

/** A value is taken from another: what takes, then a second press says what from, and a formula is written. */
export const useTaking = defineStore('taking', () => {
  const doc = useDocument()
  const tool = useTool()
  const { does } = useActs()
  /** What takes, by its path and by what people call it. */
  const of = shallowRef<{ path: string; label: string } | null>(null)
  /** The layer whose values are offered, and where on the screen; of no layer, what else there is. */
  const menu = shallowRef<{ layer: string; name: string; x: number; y: number } | null>(null)
  /** The value whose formula is open, by its path. */
  const open = ref('')
  /** How a value was taken last, and which. */
  const way = ref('same')
  const last = ref('')

  let press = { x: 0, y: 0 }
  window.addEventListener('pointerdown', (e) => (press = { x: e.clientX, y: e.clientY }), true)

  function begin(path: string, label: string) {
    const all = doc.draft!.layers
    of.value = { path, label }
    tool.pointing = {
      what: `${label} takes from …`, of: '', options: [...new Set(all.map((y) => y.id.slice(y.id.lastIndexOf(':') + 1)))], taking: true,
      done: (id) => {
        const y = all.find((y) => y.id === id || y.id.endsWith(`:${id}`))
        menu.value = { layer: y?.id ?? id, name: y?.name ?? id, ...press }
      },
    }
  }
  const others = () => {
    tool.pointing = null
    menu.value = { layer: '', name: 'Sheet, canvas and time', ...press }
  }
  async function from(path: string, how = way.value) {
    const t = of.value
    if (!t) return
    over()
    way.value = how
    last.value = t.path
    if (await does({ kind: 'take', path: t.path, id: path, way: how, layers: [] })) open.value = t.path
  }
  function over() {
    of.value = null
    menu.value = null
    if (tool.pointing?.taking) tool.pointing = null
  }
  // Escape lets go of what is pointed for.
  watch(() => tool.pointing, (p) => !p && !menu.value && (of.value = null))
  watch(() => doc.key, () => {
    over()
    open.value = ''
  })
  return { of, menu, open, way, last, begin, others, from, over }
})
