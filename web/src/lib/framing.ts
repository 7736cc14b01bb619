import { computed, onMounted, onScopeDispose, ref, watch, type ComputedRef, type Ref } from 'vue'

import type { Framing, Outline, Stand } from '../api/client'
import { apply, css, identity, inverse, type Point, type Projective } from './projective'
import { usePiece } from '../stores/piece'
import { useTransport } from '../stores/transport'

/** What the stage shows at the moment: numbers of a draft, if there is one. */
export interface Shown {
  stands: ComputedRef<Stand[]>
  outlines: ComputedRef<Outline[]>
  /** Screen pixels for one of the canvas. */
  k: ComputedRef<number>
  canvas: Ref<HTMLCanvasElement | undefined>
  /** Waits until the last draft has been drawn. */
  settled: () => Promise<void>
}

/** The tool that frames the selected pocket's media on the stage, apart from the pocket's own place. */
export function useFramingTool(shown: Shown) {
  const store = usePiece()
  const transport = useTransport()
  const k = shown.k
  const canvas = shown.canvas
  const shownStand = computed<Stand | undefined>(() => shown.stands.value.find((s) => s.pocket === store.selected))
  const outlineOf = (pocket: string) => shown.outlines.value.find((o) => o.pocket === pocket)

  const frameHere = ref(false)
  /** Whether dragging sets the focus rather than pans. */
  const pinning = ref(false)
  const current = computed<Framing | undefined>(() => shownStand.value && { ...shownStand.value.framing, pan: shownStand.value.pan, zoom: shownStand.value.zoom })
  watch(
    () => [store.selected, store.format],
    () => (frameHere.value = !!store.pocket?.framed.includes(store.format)),
  )
  watch(
    () => store.selected,
    () => (store.framing = false),
  )
  function draftFrame(f: Framing) {
    store.draft = { kind: 'frame', pocket: store.selected, framing: f, format: frameHere.value ? store.format : undefined }
  }
  async function keepFrame(f: Framing) {
    await store.frame(store.selected, f, frameHere.value)
    store.draft = null
  }
  /** Waits for the preview of the last draft, whose numbers stop at the edges. */
  async function release(f: Framing) {
    await shown.settled()
    const seen = shown.stands.value.find((s) => s.pocket === store.selected)
    await keepFrame(seen ? { ...f, pan: seen.pan, zoom: seen.zoom } : f)
  }

  /** The pocket's way on to the canvas, and back: it may be turned, skewed or in perspective. */
  const way = computed<Projective>(() => outlineOf(store.selected)?.map ?? identity)
  const back = computed(() => inverse(way.value))
  const box = computed(() => outlineOf(store.selected)?.size)

  /** Tells of a drag in the pocket's own pixels: how far, and where. */
  function dragging(e: PointerEvent, make: (dx: number, dy: number, at: Point) => Framing) {
    if (e.button !== 0) return
    e.preventDefault()
    e.stopPropagation()
    const el = e.currentTarget as HTMLElement
    const rect = canvas.value!.getBoundingClientRect()
    // By where the pocket was when the drag began.
    const own = back.value
    const local = (m: PointerEvent) => apply(own, { x: (m.clientX - rect.left) / k.value, y: (m.clientY - rect.top) / k.value })
    const from = local(e)
    let last: Framing | null = null
    el.setPointerCapture(e.pointerId)
    const move = (m: PointerEvent) => {
      const at = local(m)
      let dx = at.x - from.x
      let dy = at.y - from.y
      if (m.shiftKey) Math.abs(dx) > Math.abs(dy) ? (dy = 0) : (dx = 0)
      last = make(dx, dy, at)
      draftFrame(last)
    }
    const up = () => {
      el.removeEventListener('pointermove', move)
      el.removeEventListener('pointerup', up)
      el.removeEventListener('pointercancel', up)
      if (last) void release(last)
    }
    el.addEventListener('pointermove', move)
    el.addEventListener('pointerup', up)
    el.addEventListener('pointercancel', up)
  }
  const bound = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v))
  function slide(e: PointerEvent) {
    const f = current.value
    const s = shownStand.value
    if (!f || !s) return
    dragging(e, (dx, dy) => ({ ...f, pan: [bound(f.pan![0]! + dx / s.size.w, -4, 4), bound(f.pan![1]! + dy / s.size.h, -4, 4)] }))
  }
  function turn(e: PointerEvent) {
    const f = current.value
    const b = box.value
    if (!f || !b) return
    dragging(e, (_dx, _dy, at) => {
      const a = (Math.atan2(at.x - b.w / 2, b.h / 2 - at.y) * 180) / Math.PI
      return { ...f, turn: Math.round(a * 2) / 2 }
    })
  }
  function focusAt(e: PointerEvent) {
    const f = current.value
    const s = shownStand.value
    if (!f || !s) return
    const m = s.map
    const det = m.a * m.d - m.b * m.c
    dragging(e, (_dx, _dy, at) => {
      const x = at.x - m.e
      const y = at.y - m.f
      const u = (m.d * x - m.c * y) / det / s.media.w
      const v = (-m.b * x + m.a * y) / det / s.media.h
      return { ...f, pan: [0, 0], focus: [Number(bound(u, 0, 1).toFixed(3)), Number(bound(v, 0, 1).toFixed(3))] }
    })
  }
  watch(
    () => store.framing,
    () => (pinning.value = false),
  )
  const onStage = (p: Point) => {
    const at = apply(way.value, p)
    return { left: `${at.x * k.value}px`, top: `${at.y * k.value}px` }
  }
  const focusPin = computed(() => {
    const s = shownStand.value
    if (!s || !box.value || !s.media.w) return null
    const x = s.framing.focus![0]! * s.media.w
    const y = s.framing.focus![1]! * s.media.h
    return onStage({ x: s.map.a * x + s.map.c * y + s.map.e, y: s.map.b * x + s.map.d * y + s.map.f })
  })
  const ghost = computed(() => {
    const s = shownStand.value
    if (!s || !box.value || !s.media.w) return null
    const m = s.map
    return { width: `${s.media.w}px`, height: `${s.media.h}px`, transform: `${css(way.value, k.value)} matrix(${m.a}, ${m.b}, ${m.c}, ${m.d}, ${m.e}, ${m.f})` }
  })
  /** The pocket's box as it stands, and the middle of its upper edge. */
  const frameBox = computed(() => {
    const b = box.value
    return b && { width: `${b.w}px`, height: `${b.h}px`, transform: css(way.value, k.value), borderRadius: `${shownStand.value?.radius ?? 0}px` }
  })
  const turner = computed(() => box.value && onStage({ x: box.value.w / 2, y: 0 }))

  let wheeled: ReturnType<typeof setTimeout> | undefined
  let wheelFrom: Framing | null = null
  function wheel(e: WheelEvent) {
    if (!store.framing || !current.value) return
    e.preventDefault()
    wheelFrom = { ...(wheelFrom ?? current.value), zoom: bound((wheelFrom ?? current.value).zoom * Math.exp(-e.deltaY * 0.0015), 0.05, 20) }
    if (wheelFrom.fit === 'cover') wheelFrom.zoom = Math.max(1, wheelFrom.zoom)
    wheelFrom.zoom = Number(wheelFrom.zoom.toFixed(4))
    draftFrame(wheelFrom)
    clearTimeout(wheeled)
    wheeled = setTimeout(() => {
      const f = wheelFrom!
      wheelFrom = null
      void release(f)
    }, 300)
  }
  function set(part: Partial<Framing>) {
    if (current.value) void keepFrame({ ...current.value, ...part })
  }
  function reset() {
    void store.frame(store.selected, undefined, frameHere.value)
  }
  function enter(pocket: string) {
    store.selected = pocket
    transport.playing = false
    if (store.pocket?.media) setTimeout(() => (store.framing = true))
  }

  function key(e: KeyboardEvent) {
    const t = e.target as HTMLElement
    if (e.ctrlKey || e.metaKey || t.closest('input, textarea, [role=spinbutton], [role=slider], .n-modal')) return
    if (e.key === 'Escape') {
      if (store.framing) store.framing = false
      else store.selected = ''
      return
    }
    if (!store.selected) return
    if (e.key === 'o') {
      e.preventDefault() // or the letter lands in the field that gets the focus
      store.picking = store.selected
      return
    }
    if (!store.framing) {
      if (e.key === 'Enter' && !t.closest('button, a')) enter(store.selected)
      return
    }
    const f = current.value
    const s = shownStand.value
    if (!f || !s) return
    const by = e.shiftKey ? 20 : 2
    const p = f.pan!
    /** So far on the canvas, whichever way the pocket is turned. */
    const nudge = (dx: number, dy: number) => {
      const mid = { x: s.size.w / 2, y: s.size.h / 2 }
      const on = apply(way.value, mid)
      const to = apply(back.value, { x: on.x + dx, y: on.y + dy })
      set({ pan: [p[0]! + (to.x - mid.x) / s.size.w, p[1]! + (to.y - mid.y) / s.size.h] })
    }
    switch (e.key) {
      case 'ArrowLeft': nudge(-by, 0); break
      case 'ArrowRight': nudge(by, 0); break
      case 'ArrowUp': nudge(0, -by); break
      case 'ArrowDown': nudge(0, by); break
      case '+': case '=': set({ zoom: bound(f.zoom * 1.05, 0.05, 20) }); break
      case '-': set({ zoom: bound(f.zoom / 1.05, f.fit === 'cover' ? 1 : 0.05, 20) }); break
      case '[': case '{': set({ turn: f.turn - (e.shiftKey ? 15 : 1) }); break
      case ']': case '}': set({ turn: f.turn + (e.shiftKey ? 15 : 1) }); break
      case 'x': set({ flipX: !f.flipX }); break
      case 'y': set({ flipY: !f.flipY }); break
      case 'f': pinning.value = !pinning.value; break
      case '0': reset(); break
      case 'Enter': store.framing = false; break
      default: return
    }
    e.preventDefault()
  }
  onMounted(() => window.addEventListener('keydown', key))
  onScopeDispose(() => window.removeEventListener('keydown', key))

  return { stand: shownStand, current, pinning, frameBox, turner, ghost, focusPin, slide, turn, focusAt, wheel, set, reset, enter }
}
export type FramingTool = ReturnType<typeof useFramingTool>
