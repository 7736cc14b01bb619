import { computed, nextTick, ref, watch, type ComputedRef, type Ref } from 'vue'

import type { Format } from '../../api/client'
import { useCommands } from '../commands'
import { useDrag } from '../drag'

/** How near and how far the picture is looked at: screen pixels for one of the canvas. */
const NEAR = 16
const FAR = 0.02
const STEP = 1.25

/** Looks at the picture from nearer or from further off: to fit, or so many screen pixels for one of the canvas. */
export function useZoom(format: ComputedRef<Format>, fit: ComputedRef<number>, desk: Ref<HTMLElement | undefined>) {
  /** Screen pixels for one of the canvas; 0 fits it into the window. */
  const zoom = ref(0)
  watch([() => format.value.width, () => format.value.height], () => (zoom.value = 0))
  const now = () => zoom.value || fit.value || 1

  /** Goes to a scale; what is at a point of the screen stays there. */
  async function to(next: number, at?: { x: number; y: number }) {
    const el = desk.value
    if (!el) return
    const r = el.getBoundingClientRect()
    const p = at ?? { x: r.x + r.width / 2, y: r.y + r.height / 2 }
    const picture = el.querySelector('.picture')!
    const before = picture.getBoundingClientRect()
    const share = { x: (p.x - before.x) / before.width, y: (p.y - before.y) / before.height }
    zoom.value = next && Math.min(NEAR, Math.max(FAR, next))
    await nextTick()
    const after = picture.getBoundingClientRect()
    el.scrollLeft += after.x + share.x * after.width - p.x
    el.scrollTop += after.y + share.y * after.height - p.y
  }
  /** Goes so near that a box of the canvas fills the window, where that is nearer than all of it; without one, to all. */
  async function over(box: { x: number; y: number; w: number; h: number } | null) {
    const el = desk.value
    if (!el) return
    const z = box && box.w > 0 && box.h > 0 ? Math.min((el.clientWidth - 90) / box.w, (el.clientHeight - 90) / box.h, 8) : 0
    if (!box || z < fit.value * 1.2) return to(0)
    await to(z)
    const r = el.getBoundingClientRect()
    const p = el.querySelector('.picture')!.getBoundingClientRect()
    el.scrollLeft += p.x + (box.x + box.w / 2) * zoom.value - (r.x + r.width / 2)
    el.scrollTop += p.y + (box.y + box.h / 2) * zoom.value - (r.y + r.height / 2)
  }
  const by = (k: number, at?: { x: number; y: number }) => to(now() * k, at)
  function wheel(e: WheelEvent) {
    if (!e.ctrlKey && !e.metaKey) return
    e.preventDefault()
    void by(Math.exp(-e.deltaY * 0.002), { x: e.clientX, y: e.clientY })
  }

  const drag = useDrag()
  /** Shifts what is seen, by the middle button. */
  function pan(e: PointerEvent) {
    const el = desk.value
    if (e.button !== 1 || !el) return
    e.preventDefault()
    const [x, y] = [el.scrollLeft, el.scrollTop]
    drag(e, {
      move: (d) => {
        el.scrollLeft = x - d.dx
        el.scrollTop = y - d.dy
      },
    }, 1)
  }

  useCommands({
    nearer: () => void by(STEP),
    'further-off': () => void by(1 / STEP),
    'fit-stage': () => void to(0),
    'true-size': () => void to(zoom.value === 1 ? 0 : 1),
  })
  return { zoom, to, over, by, wheel, pan, roams: computed(() => zoom.value > 0) }
}
