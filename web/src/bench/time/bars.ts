import { useLocalStorage, useWindowSize } from '@vueuse/core'
import { computed } from 'vue'

import { useCommands } from '../../common/commands'
import { useDocument } from '../../common/document'
import { useDrag } from '../../common/drag'

/** How high the layers in time stand over the strip, px: 0 is shut; half the window at most, as this browser remembers. */
export function useBars() {
  const doc = useDocument()
  const drag = useDrag()
  const kept = useLocalStorage('ivy-bars', 0)
  const last = useLocalStorage('ivy-bars-last', 190)
  const LEAST = 60
  const { height } = useWindowSize()
  const most = computed(() => Math.max(LEAST, Math.round(height.value / 2)))
  const high = computed(() => Math.min(kept.value, most.value))
  const set = (v: number) => {
    kept.value = v < LEAST / 2 ? 0 : Math.max(LEAST, Math.min(most.value, v))
    if (kept.value) last.value = kept.value
  }
  const toggle = () => set(high.value ? 0 : last.value)
  function size(e: PointerEvent) {
    const was = high.value
    drag(e, { slack: 3, move: (d) => set(was - d.dy), press: toggle, cancel: () => set(was) })
  }
  function key(e: KeyboardEvent) {
    const by = { ArrowUp: 24, ArrowDown: -24 }[e.key]
    if (!by) return
    set(high.value + (high.value || by < 0 ? by : LEAST))
    e.preventDefault()
    e.stopPropagation()
  }
  useCommands({ bars: toggle }, () => !!doc.draft)
  return { high, most, size, key, toggle }
}
