import { onScopeDispose, watch } from 'vue'

import type { useTransport } from '../transport'
import type { Frames } from './frames'

/** Each presented frame is a mark of User Timing (W3C) under this name, its number in the detail. */
export const PRESENTED = 'ivy-frame'

/** Every which frame is shown while nobody knows how many come. */
const UNKNOWN = 2

/**
 * Plays frames by the clock. While not all are at hand it shows every k-th, as
 * many as come, so that it neither freezes nor falls behind.
 */
export function usePlayer(frames: Frames, transport: ReturnType<typeof useTransport>, about: () => { frames: number; rate: number }, put: (b: ImageBitmap) => void) {
  let raf = 0

  function span() {
    const r = transport.range
    const n = about().frames
    return r ? { lo: Math.max(0, r.from), hi: Math.min(n, r.to) } : { lo: 0, hi: n }
  }

  function play() {
    const rate = about().rate
    let { lo, hi } = span()
    let start = performance.now()
    let speed = transport.speed
    let from = transport.frame
    if (from < lo || from >= hi || (speed > 0 && from >= hi - 1)) from = speed > 0 ? lo : hi - 1
    let drawn = -1
    let due = -1
    let dropped = 0
    let stride = frames.whole(lo, hi) ? 1 : UNKNOWN
    let judged = 0
    let pass = 0
    performance.clearMarks(PRESENTED)
    const tick = (now: number) => {
      if (!transport.playing) return
      const s = span()
      if (s.lo !== lo || s.hi !== hi || speed !== transport.speed) {
        // Another range or speed: on from where it is.
        ;({ lo, hi } = s)
        speed = transport.speed
        start = now
        from = Math.min(hi - 1, Math.max(lo, transport.frame))
        due = -1
      }
      const len = Math.max(1, hi - lo)
      const gone = Math.floor(((now - start) * rate * Math.abs(speed)) / 1000) * Math.sign(speed)
      const raw = from - lo + gone
      const thisPass = Math.floor(raw / len)
      const n = lo + (((raw % len) + len) % len)
      if (thisPass !== pass) {
        pass = thisPass
        dropped = 0
      }
      const hot = frames.whole(lo, hi)
      if (now - judged > 500) {
        judged = now
        // No more pictures are shown than come; a little in hand, so that it does not swing.
        const pace = frames.pace()
        const need = pace === null ? UNKNOWN : (rate * Math.abs(speed)) / (pace * 0.9)
        stride = hot ? Math.max(1, Math.ceil((rate * Math.abs(speed)) / 61)) : Math.max(1, Math.min(30, Math.ceil(need)))
      }
      const step = stride * Math.sign(speed)
      const wish = stride === 1 ? n : lo + Math.floor((n - lo) / stride) * stride
      if (wish !== due) {
        if (due >= 0 && stride === 1) dropped += Math.max(0, (((wish - due) * Math.sign(speed) + len) % len) - 1)
        due = wish
        transport.frame = n
      }
      if (wish !== drawn) {
        const b = frames.atHand(wish)
        if (b) {
          put(b)
          drawn = wish
          performance.mark(PRESENTED, { detail: wish })
        }
      }
      const st = transport.state
      if (st.stride !== stride || st.hot !== hot || st.dropped !== dropped) transport.state = { stride, hot, dropped }
      frames.ahead({ from: wish, step, lo, hi })
      raf = requestAnimationFrame(tick)
    }
    raf = requestAnimationFrame(tick)
  }

  watch(
    () => transport.playing,
    (on) => {
      cancelAnimationFrame(raf)
      if (on) play()
    },
  )
  onScopeDispose(() => cancelAnimationFrame(raf))
  return { span }
}
