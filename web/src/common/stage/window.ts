import { computed, ref, watch, type Ref } from 'vue'

import { useTransport } from '../transport'

/** So few frames are looked at at least. */
const LEAST = 6

/**
 * The part of the time that the strip shows, and what lies where on it: all of it, or what was looked at closer. Instants
 * are in frames, places in px from the strip's left edge.
 */
export function useTimeWindow(width: Ref<number>, frames: Ref<number>, rate: Ref<number>) {
  const transport = useTransport()
  /** While the end of the time is dragged so many frames are shown, whatever becomes of it; 0 is as many as there are. */
  const held = ref(0)
  const hold = (n: number) => (held.value = n)
  const from = computed(() => (held.value ? 0 : (transport.window?.from ?? 0)))
  const to = computed(() => held.value || (transport.window?.to ?? frames.value))
  const px = computed(() => width.value / Math.max(1, to.value - from.value))
  const x = (n: number) => (n - from.value) * px.value
  const at = (px_: number) => from.value + px_ / px.value
  const sees = (a: number, b = a) => b >= from.value && a <= to.value

  /** Shows a part; one as long as all of it is all of it. */
  function show(a: number, b: number) {
    const long = Math.min(frames.value, Math.max(LEAST, b - a))
    const first = Math.max(0, Math.min(frames.value - long, a + (b - a - long) / 2))
    transport.window = long >= frames.value ? null : { from: first, to: first + long }
  }
  /** Looks closer by a factor where a place is, which stays where it is. */
  function zoom(by: number, where: number) {
    const n = at(where)
    const long = Math.min(frames.value, Math.max(LEAST, (to.value - from.value) / by))
    const first = n - (where / width.value) * long
    const kept = Math.max(0, Math.min(frames.value - long, first))
    show(kept, kept + long)
  }
  function pan(by: number) {
    const d = by / px.value
    const first = Math.max(0, Math.min(frames.value - (to.value - from.value), from.value + d))
    if (transport.window) show(first, first + to.value - from.value)
  }
  /** With Ctrl it zooms, with Shift or across it pans; else it is left alone. */
  function wheel(e: WheelEvent, left: number) {
    if (e.ctrlKey || e.metaKey) zoom(Math.exp(-e.deltaY / 300), e.clientX - left)
    else if (transport.window && (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY))) pan(e.deltaX || e.deltaY)
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  // The playhead is not lost sight of.
  watch(
    () => transport.frame,
    (n) => {
      const w = transport.window
      if (!w || transport.scrubbing) return
      const long = w.to - w.from
      if (n >= w.to - 0.5) show(n - long * 0.1, n + long * 0.9)
      else if (n < w.from) show(n - long * 0.9, n + long * 0.1)
    },
  )
  watch(frames, (n) => {
    if (transport.window && transport.window.to > n) show(Math.max(0, n - (to.value - from.value)), n)
  })
  return { width, frames, rate, from, to, px, x, at, sees, show, zoom, pan, wheel, hold }
}
export type TimeWindow = ReturnType<typeof useTimeWindow>
