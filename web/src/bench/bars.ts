import { useLocalStorage } from '@vueuse/core'

import { useCommands } from '../common/commands'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'

/** How high the layers in time stand over the strip, px: 0 is shut; half the window at most, as this browser remembers. */
export function useBars() {
  const doc = useDocument()
  const drag = useDrag()
  const high = useLocalStorage('ivy-bars', 0)
  const last = useLocalStorage('ivy-bars-last', 190)
  const LEAST = 60
  const most = () => Math.round(window.innerHeight / 2)
  const set = (v: number) => {
    high.value = v < LEAST / 2 ? 0 : Math.max(LEAST, Math.min(most(), v))
    if (high.value) last.value = high.value
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
