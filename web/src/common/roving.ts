import { nextTick, ref, watch, type Ref } from 'vue'

import { byKeys } from './commands'

/**
 * A list that is one stop for Tab: arrows, Home and End go through it, down or across. `at` is the item that is the stop,
 * by its id; `focus` puts the focus on an item.
 */
export function useRoving(ids: Readonly<Ref<string[]>>, chosen: Readonly<Ref<string>>, focus: (id: string) => void, way: 'down' | 'across' = 'down') {
  const [on, back] = way === 'down' ? ['ArrowDown', 'ArrowUp'] : ['ArrowRight', 'ArrowLeft']
  const at = ref('')
  watch(
    [ids, chosen],
    () => {
      if (ids.value.includes(chosen.value)) at.value = chosen.value
      else if (!ids.value.includes(at.value)) at.value = ids.value[0] ?? ''
    },
    { immediate: true },
  )
  function key(e: KeyboardEvent) {
    const all = ids.value
    const i = all.indexOf(at.value)
    const to = { [on!]: i + 1, [back!]: i - 1, Home: 0, End: all.length - 1 }[e.key]
    if (to === undefined || e.ctrlKey || e.metaKey || e.altKey) return
    if (/^(Home|End)$/.test(e.key) && (e.shiftKey || !byKeys())) return // they are the commands'
    e.preventDefault()
    e.stopPropagation()
    at.value = all[Math.max(0, Math.min(all.length - 1, to))] ?? ''
    void nextTick(() => focus(at.value))
  }
  return { at, key }
}
