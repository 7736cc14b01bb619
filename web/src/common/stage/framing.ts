import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'

import type { Framing, Op, Outline, Stand } from '../../api/client'
import { pass, useCommands } from '../commands'
import { useDocument } from '../document'
import { alongOne, useDrag } from '../drag'
import { usePockets } from '../pockets'
import { apply, css, identity, inverse, type Point, type Projective } from '../projective'
import { useSelection } from '../selection'
import { useTransient } from '../transient'
import { useTransport } from '../transport'

const named = (part: Partial<Framing>) => Object.keys(part) as (keyof Framing)[]

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
  const selection = useSelection()
  const transient = useTransient()
  const pockets = usePockets()
  const transport = useTransport()
  const doc = useDocument()
  const k = shown.k
  const canvas = shown.canvas
  const shownStand = computed<Stand | undefined>(() => shown.stands.value.find((s) => s.pocket === selection.pocket))
  const outlineOf = (pocket: string) => shown.outlines.value.find((o) => o.pocket === pocket)

  /** Whether the format at hand has a framing of its own. */
  const frameHere = computed(() => !!pockets.pocket?.framed.includes(selection.format))
  /** Whether dragging sets the focus rather than pans. */
  const pinning = ref(false)
  const current = computed<Framing | undefined>(() => shownStand.value && { ...shownStand.value.framing, pan: shownStand.value.pan, zoom: shownStand.value.zoom })
  const frameOp = (f: Framing, members: (keyof Framing)[] = []): Op => ({ kind: 'frame', pocket: selection.pocket, framing: f, members, format: frameHere.value ? selection.format : undefined })
  /** What was asked for last, whether or not it has been drawn: the next key goes on from there. */
  const wished = () => transient.wished(frameOp(current.value!))?.framing ?? current.value!
  /** Pan and zoom stop at the edges: what is kept is what was seen. */
  async function finish(op: Op, still: () => boolean): Promise<Op> {
    await shown.settled()
    const seen = shown.stands.value.find((s) => s.pocket === op.pocket)
    return seen && still() ? { ...op, framing: { ...op.framing!, pan: seen.pan, zoom: seen.zoom } } : op
  }
  /** Changes members of a framing, in passing, by the end of a drag, and by a key or the wheel. */
  const passing = (f: Framing, part: Partial<Framing>) => transient.show(frameOp({ ...f, ...part }, named(part)))
  function release(f: Framing, part: Partial<Framing>) {
    passing(f, part)
    void transient.keep(frameOp({ ...f, ...part }, named(part)), finish)
  }
  const burst = (f: Framing, part: Partial<Framing>) => transient.soon(frameOp({ ...f, ...part }, named(part)), finish)

  /** The pocket's way on to the canvas, and back: it may be turned, skewed or in perspective. */
  const way = computed<Projective>(() => outlineOf(selection.pocket)?.map ?? identity)
  const back = computed(() => inverse(way.value))
  const box = computed(() => outlineOf(selection.pocket)?.size)

  const drag = useDrag()
  /** Tells of a drag in the pocket's own pixels: how far, and where. `at` tells of a press alone, too. */
  function dragging(e: PointerEvent, f: Framing, make: (dx: number, dy: number, at: Point) => Partial<Framing>, pressed = false) {
    e.preventDefault()
    e.stopPropagation()
    const rect = canvas.value!.getBoundingClientRect()
    // By where the pocket was when the drag began.
    const own = back.value
    const local = (x: number, y: number) => apply(own, { x: (x - rect.left) / k.value, y: (y - rect.top) / k.value })
    const from = local(e.clientX, e.clientY)
    let last: Partial<Framing> | null = null
    const keep = () => last && release(f, last)
    drag(e, {
      move: (d) => {
        const at = local(d.x, d.y)
        let [dx, dy] = [at.x - from.x, at.y - from.y]
        if (d.shift) [dx, dy] = alongOne(dx, dy)
        last = make(dx, dy, at)
        passing(f, last)
      },
      end: keep,
      press: () => {
        if (!pressed) return
        last = make(0, 0, from)
        keep()
      },
      cancel: transient.hide,
    })
  }
  const bound = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v))
  // A pan, a zoom and a turn go as far as the pocket leaves them free.
  const range = computed(() => pockets.pocket!.range)
  const panned = (x: number, y: number): [number, number] => [bound(x, range.value.pan[0]![0]!, range.value.pan[0]![1]!), bound(y, range.value.pan[1]![0]!, range.value.pan[1]![1]!)]
  const zoomed = (f: Framing, z: number) => bound(z, Math.max(f.fit === 'cover' ? 1 : 0, range.value.zoom[0]!), range.value.zoom[1]!)
  const turnedTo = (t: number) => bound(t, range.value.turn[0]!, range.value.turn[1]!)
  /** The framing that a drag begins with: what keys and wheel did before is kept first. */
  function taken(): Framing {
    const f = wished()
    transient.flush()
    return f
  }
  function slide(e: PointerEvent) {
    const f = current.value && taken()
    const s = shownStand.value
    if (!f || !s) return
    dragging(e, f, (dx, dy) => ({ pan: panned(f.pan![0]! + dx / s.size.w, f.pan![1]! + dy / s.size.h) }))
  }
  function turn(e: PointerEvent) {
    const f = current.value && taken()
    const b = box.value
    if (!f || !b) return
    dragging(e, f, (_dx, _dy, at) => {
      const a = (Math.atan2(at.x - b.w / 2, b.h / 2 - at.y) * 180) / Math.PI
      return { turn: turnedTo(Math.round(a * 2) / 2) }
    })
  }
  function focusAt(e: PointerEvent) {
    const f = current.value && taken()
    const s = shownStand.value
    if (!f || !s) return
    const m = s.map
    const det = m.a * m.d - m.b * m.c
    dragging(e, f, (_dx, _dy, at) => {
      const x = at.x - m.e
      const y = at.y - m.f
      const u = (m.d * x - m.c * y) / det / s.media.w
      const v = (-m.b * x + m.a * y) / det / s.media.h
      return { pan: [0, 0], focus: [Number(bound(u, 0, 1).toFixed(3)), Number(bound(v, 0, 1).toFixed(3))] }
    }, true)
  }
  watch(
    () => selection.framing,
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

  function wheel(e: WheelEvent) {
    if (!selection.framing || !current.value) return
    e.preventDefault()
    const f = wished()
    burst(f, { zoom: Number(zoomed(f, f.zoom * Math.exp(-e.deltaY * 0.0015)).toFixed(4)) })
  }
  function set(part: Partial<Framing>) {
    if (current.value) void transient.keep(frameOp({ ...wished(), ...part }, named(part)))
  }
  function reset() {
    transient.drop()
    transient.hide()
    void pockets.frame(selection.pocket, undefined, frameHere.value)
  }
  function enter(pocket: string) {
    selection.pocket = pocket
    transport.playing = false
    if (pockets.pocket?.media || doc.draft) setTimeout(() => (selection.framing = true))
  }

  useCommands({
    leave: () => {
      if (selection.framing) selection.framing = false
      else if (selection.pocket || selection.layer) selection.pocket = ''
      else return pass
    },
    choose: () => (selection.pocket ? (pockets.picking = selection.pocket) : pass),
    enter: () => (selection.pocket && !selection.framing ? enter(selection.pocket) : pass),
  })
  const framed = (part: (f: Framing, e: KeyboardEvent) => Partial<Framing>) => (e: KeyboardEvent) => {
    const f = wished()
    burst(f, part(f, e))
  }
  /** So far on the canvas, whichever way the pocket is turned. */
  const nudge = (x: number, y: number) =>
    framed((f, e) => {
      const by = e.shiftKey ? 20 : 2
      const size = shownStand.value!.size
      const mid = { x: size.w / 2, y: size.h / 2 }
      const on = apply(way.value, mid)
      const to = apply(back.value, { x: on.x + x * by, y: on.y + y * by })
      return { pan: panned(f.pan![0]! + (to.x - mid.x) / size.w, f.pan![1]! + (to.y - mid.y) / size.h) }
    })
  const turned = (by: number) => framed((f, e) => ({ turn: turnedTo(f.turn + by * (e.shiftKey ? 15 : 1)) }))
  useCommands(
    {
      'pan-left': nudge(-1, 0),
      'pan-right': nudge(1, 0),
      'pan-up': nudge(0, -1),
      'pan-down': nudge(0, 1),
      larger: framed((f) => ({ zoom: zoomed(f, f.zoom * 1.05) })),
      smaller: framed((f) => ({ zoom: zoomed(f, f.zoom / 1.05) })),
      'turn-left': turned(-1),
      'turn-right': turned(1),
      'flip-x': framed((f) => ({ flipX: !f.flipX })),
      'flip-y': framed((f) => ({ flipY: !f.flipY })),
      focus: () => (pinning.value = !pinning.value),
      'reset-framing': () => reset(),
      done: () => (selection.framing = false),
    },
    () => selection.framing && !!current.value,
  )

  return { stand: shownStand, current, pinning, frameBox, turner, ghost, focusPin, slide, turn, focusAt, wheel, set, reset, enter }
}
export type FramingTool = ReturnType<typeof useFramingTool>
