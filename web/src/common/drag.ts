import { onScopeDispose } from 'vue'

/** How far a drag has come, in pixels of the screen. */
export interface Drag {
  dx: number
  dy: number
  x: number
  y: number
  shift: boolean
  alt: boolean
  ctrl: boolean
}

export interface Drags {
  /** So far the pointer goes before it is a drag and no press. */
  slack?: number
  move: (d: Drag) => void
  /** It was let go after it had moved. */
  end?: (d: Drag) => void
  /** It was let go where it was pressed. */
  press?: () => void
  /** It was given up, by Escape or because the pointer was lost: nothing is kept. */
  cancel?: () => void
}

/** The longer of two ways, the other one nothing: what Shift does to a drag. */
export function alongOne(dx: number, dy: number): [number, number] {
  return Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy]
}

/**
 * Drags with the pointer: everything that is dragged goes through here. Returns what is called on pointerdown; one
 * drag goes on at a time, by the first button, and says whether it is this one. Escape gives it up, and so does leaving
 * the page.
 */
export function useDrag(): (e: PointerEvent, what: Drags, button?: number) => boolean {
  let give: (() => void) | undefined
  onScopeDispose(() => give?.())

  return (e, what, button = 0) => {
    if (e.button !== button || give) return false
    const el = e.currentTarget as Element
    const id = e.pointerId
    let moved = false
    const far = (m: PointerEvent): Drag => ({ dx: m.clientX - e.clientX, dy: m.clientY - e.clientY, x: m.clientX, y: m.clientY, shift: m.shiftKey, alt: m.altKey, ctrl: m.ctrlKey || m.metaKey })
    const begin = () => {
      moved = true
      el.setPointerCapture(id)
    }
    const move = (m: PointerEvent) => {
      if (m.pointerId !== id) return
      const d = far(m)
      if (!moved && Math.hypot(d.dx, d.dy) < (what.slack ?? 0)) return
      if (!moved) begin()
      what.move(d)
    }
    const up = (u: PointerEvent) => {
      if (u.pointerId !== id) return
      over()
      if (u.type === 'pointercancel') what.cancel?.()
      else if (moved) what.end?.(far(u))
      else what.press?.()
    }
    const key = (k: KeyboardEvent) => {
      if (k.key !== 'Escape' || !moved) return
      k.preventDefault()
      k.stopImmediatePropagation()
      give?.()
    }
    function over() {
      give = undefined
      window.removeEventListener('pointermove', move)
      window.removeEventListener('pointerup', up)
      window.removeEventListener('pointercancel', up)
      window.removeEventListener('keydown', key, true)
      if (el.hasPointerCapture(id)) el.releasePointerCapture(id)
    }
    give = () => {
      over()
      what.cancel?.()
    }
    window.addEventListener('pointermove', move)
    window.addEventListener('pointerup', up)
    window.addEventListener('pointercancel', up)
    window.addEventListener('keydown', key, true)
    return true
  }
}
