<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Act, Curve } from '../../api/client'
import { useDrag, type Drag } from '../../common/drag'
import { plain } from '../../common/format'
import { useSelection } from '../../common/selection'
import type { TimeWindow } from '../../common/stage/window'
import { useTransient } from '../../common/transient'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import { useCurves } from './curves'
import { useInstants } from './instants'
import KeysBar from './KeysBar.vue'
import { keyPath, useMotion } from './motion'

/**
 * What moves as curves over the strip's own time: what is seen above, how fast it changes below. Keys are dragged in time and
 * in value, the ways between them by handles, in either.
 */
const props = defineProps<{ span: TimeWindow }>()
const selection = useSelection()
const motion = useMotion()
const transient = useTransient()
const transport = useTransport()
const { act, chosen, locked } = useActs()
const drag = useDrag()
const instants = useInstants(() => props.span)

const room = ref<HTMLElement>()
const { width, height } = useElementSize(room)

/** What has curves: the properties of picked keys, else of the selected layers, but for those that were put aside. */
const tracks = computed(() => {
  const of = new Map(motion.chosen.map((k) => [k.track.path, { path: k.track.path, label: k.track.label, layer: k.layer }]))
  for (const y of chosen.value) for (const t of y.tracks) of.set(t.path, { path: t.path, label: t.label, layer: y })
  return [...of.values()].slice(0, 40)
})
const aside = ref(new Set<string>())
watch(() => selection.layers, () => (aside.value = new Set()))
const paths = computed(() => tracks.value.map((t) => t.path).filter((p) => !aside.value.has(p)))
function toggle(path: string) {
  const next = new Set(aside.value)
  if (!next.delete(path)) next.add(path)
  aside.value = next
}
const list = useCurves(() => paths.value, true)

const inks = ['#2e6b4e', '#b4492b', '#1f6f82', '#a86c14', '#6d4a8c', '#7a6a3a']
interface Line {
  curve: Curve
  /** Which of its numbers. */
  i: number
  name: string
  ink: string
  dash: string
}
const ink = (path: string) => inks[tracks.value.findIndex((t) => t.path === path) % inks.length]!
const lines = computed<Line[]>(() =>
  list.value.flatMap((curve) => {
    // Numbers that go the same way are one line.
    const apart = curve.parts.filter((_, i) => i === 0 || curve.points.some((p) => p[1 + i] !== p[1]))
    return (apart.length > 1 ? curve.parts : curve.parts.slice(0, 1)).map((part, i) => ({ curve, i, name: `${curve.label}${part && apart.length > 1 ? ` ${part}` : ''}`, ink: ink(curve.path), dash: ['', '5 3', '2 3', '8 3 2 3'][i % 4]! }))
  }),
)

// Value above speed; the line between them is dragged.
const share = ref(0.6)
const GAP = 7
const upper = computed(() => Math.max(30, (height.value - GAP) * share.value))
const lower = computed(() => Math.max(20, height.value - GAP - upper.value))

/** The range of what a curve shows in the time that is seen. */
function range(c: Curve, from: number, n: number): [number, number] {
  let [lo, hi] = [Infinity, -Infinity]
  const [a, b] = [props.span.from.value - 1, props.span.to.value + 1]
  let before: number[] | undefined
  for (const p of c.points) {
    if (p[0]! < a) {
      before = p
      continue
    }
    const past = p[0]! > b
    for (const q of before ? [before, p] : [p]) for (let i = 0; i < n; i++) [lo, hi] = [Math.min(lo, q[from + i]!), Math.max(hi, q[from + i]!)]
    before = undefined
    if (past) break
  }
  if (before) for (let i = 0; i < n; i++) [lo, hi] = [Math.min(lo, before[from + i]!), Math.max(hi, before[from + i]!)]
  return lo > hi ? [0, 1] : [lo, hi]
}
/** Curves of one measure have one scale; of others each its own. While something is dragged scales stay. */
type Scales = Map<string, { value: [number, number]; speed: [number, number] }>
const measured = computed<Scales>(() => {
  const out: Scales = new Map()
  const by = new Map<string, Curve[]>()
  for (const c of list.value) {
    const key = c.counted ? `${c.sign} ${c.factor}` : c.path
    by.set(key, [...(by.get(key) ?? []), c])
  }
  for (const curves of by.values()) {
    const join = (from: (c: Curve) => [number, number]) => curves.map(from).reduce((a, b) => [Math.min(a[0], b[0]), Math.max(a[1], b[1])] as [number, number])
    const pad = ([lo, hi]: [number, number], least: number): [number, number] => {
      const m = Math.max((hi - lo) * 0.12, least)
      return [lo - m, hi + m]
    }
    const value = pad(join((c) => {
      const r = range(c, 1, c.parts.length)
      // Handles that lie beyond are within reach.
      c.keys.slice(0, -1).forEach((k, n) => {
        const next = c.keys[n + 1]!
        const ease = motion.all.get(keyPath(c.path, k.id))?.key.ease
        if (!c.counted || !ease || !(motion.isPicked.has(keyPath(c.path, k.id)) || motion.isPicked.has(keyPath(c.path, next.id)))) return
        k.value.forEach((v, i) => [ease[1]!, ease[3]!].forEach((y) => {
          const at = v + y * (next.value[i]! - v)
          r[0] = Math.min(r[0], at)
          r[1] = Math.max(r[1], at)
        }))
      })
      return r
    }), 1e-3)
    const speed = pad(join((c) => range(c, 1 + c.parts.length, c.parts.length)).map((v, i) => (i ? Math.max(0, v) : Math.min(0, v))) as [number, number], 1e-3)
    for (const c of curves) out.set(c.path, { value, speed })
  }
  return out
})
const held = ref<Scales | null>(null)
const scales = computed(() => held.value ?? measured.value)
const scale = (path: string) => scales.value.get(path) ?? measured.value.get(path) ?? { value: [0, 1] as [number, number], speed: [0, 1] as [number, number] }
const vy = (path: string, v: number) => {
  const [lo, hi] = scale(path).value
  return upper.value - ((v - lo) / (hi - lo)) * upper.value
}
const sy = (path: string, v: number) => {
  const [lo, hi] = scale(path).speed
  return upper.value + GAP + lower.value - ((v - lo) / (hi - lo)) * lower.value
}
const x = (at: number) => props.span.x(at + 0.5)

const drawn = computed(() =>
  lines.value.map((l) => {
    const n = l.curve.parts.length
    const path = (from: number, y: (v: number) => number) => l.curve.points.map((p, k) => `${k ? 'L' : 'M'}${x(p[0]!).toFixed(1)} ${y(p[from + l.i]!).toFixed(1)}`).join('')
    const [a, b] = [l.curve.points[0]!, l.curve.points.at(-1)!]
    const flat = (p: number[]) => vy(l.curve.path, p[1 + l.i]!)
    return { ...l, value: `M${-4} ${flat(a)}H${x(a[0]!)}${path(1, (v) => vy(l.curve.path, v))}M${x(b[0]!)} ${flat(b)}H${width.value + 4}`, speed: l.curve.counted ? path(1 + n, (v) => sy(l.curve.path, v)) : '' }
  }),
)
const keys = computed(() => lines.value.flatMap((l) => l.curve.keys.map((k, n) => ({ l, k, n, path: keyPath(l.curve.path, k.id), x: x(k.at), y: vy(l.curve.path, k.value[l.i]!) }))).filter((k) => k.x > -8 && k.x < width.value + 8))

type Bezier = [number, number, number, number]
const LINEAR: Bezier = [0.333, 0.333, 0.667, 0.667]
interface Handle {
  id: string
  l: Line
  /** The key at which the way begins, whose easing it is. */
  path: string
  /** Out of that key, or into the next. */
  end: 0 | 1
  speed: boolean
  x: number
  y: number
  /** Where its arm begins. */
  fx: number
  fy: number
  /** How long the way is, in frames, and how far, in what is seen. */
  frames: number
  far: number
  ease: Bezier
}
/** Handles of the ways that begin or end at picked keys. */
const handles = computed<Handle[]>(() => {
  const out: Handle[] = []
  for (const l of lines.value) {
    if (!l.curve.counted) continue
    const c = l.curve
    c.keys.slice(0, -1).forEach((k, n) => {
      const next = c.keys[n + 1]!
      const path = keyPath(c.path, k.id)
      const line = motion.all.get(path)
      if (!line || line.key.hold || line.key.steps) return
      const ease = ((eases.value.get(path) ?? line.key.ease) as Bezier | undefined) ?? LINEAR
      const frames = next.at - k.at
      const far = next.value[l.i]! - k.value[l.i]!
      for (const end of [0, 1] as const) {
        if (!motion.isPicked.has(path) && !motion.isPicked.has(keyPath(c.path, next.id))) continue
        const at = k.at + ease[end * 2]! * frames
        const from = end ? next : k
        if (Math.abs(far) > 1e-9 && !(c.way && l.i > 0)) out.push({ id: `${path} ${l.i} ${end}`, l, path, end, speed: false, x: x(at), y: vy(c.path, k.value[l.i]! + ease[end * 2 + 1]! * far), fx: x(from.at), fy: vy(c.path, from.value[l.i]!), frames, far, ease })
        const slope = from.speed[l.i]![end ? 0 : 1]!
        const y = Math.max(upper.value + GAP + 3, Math.min(height.value - 3, sy(c.path, slope)))
        if (Math.abs(far) > 1e-9) out.push({ id: `${path} ${l.i} ${end} speed`, l, path, end, speed: true, x: x(at), y, fx: x(from.at), fy: y, frames, far, ease })
      }
    })
  }
  return out
})

/** Easings while they are dragged, by the paths of their keys. */
const eases = ref(new Map<string, Bezier>())
const free = () => motion.chosen.every((k) => !locked(k.layer.id))
function begin(e: PointerEvent, change: (d: Drag) => Act | null, press?: () => void) {
  held.value = measured.value
  const over = () => {
    held.value = null
    eases.value = new Map()
  }
  const begun = drag(e, {
    slack: 3,
    move: (d) => {
      const op = change(d)
      if (op) transient.show(op)
      else transient.hide()
    },
    end: (d) => {
      const op = change(d)
      if (op) void transient.keep(op).then(over)
      else {
        transient.hide()
        over()
      }
    },
    press: () => {
      over()
      press?.()
    },
    cancel: () => {
      over()
      transient.hide()
    },
  })
  if (!begun) held.value = null
}
const round = (v: number) => Math.round(v * 1e4) / 1e4

function takeHandle(e: PointerEvent, h: Handle) {
  if (!free()) return
  e.stopPropagation()
  const px = props.span.px.value
  const [lo, hi] = h.speed ? scale(h.l.curve.path).speed : scale(h.l.curve.path).value
  const unit = (hi - lo) / (h.speed ? lower.value : upper.value)
  const rate = 1 / h.frames
  // As fast as it went there, as a share of its mean speed.
  const mean = h.far * rate
  const seconds = list.value.length ? speedUnit.value : 1
  const others = motion.isPicked.has(h.path) ? motion.picked.filter((p) => p !== h.path && leads(p)) : []
  const set = (old: Bezier, dx: number, dy: number, shift: boolean): Bezier => {
    const out = [...old] as Bezier
    const i = h.end * 2
    const reach = h.end ? 1 - old[2] : old[0]
    const way = h.end ? -1 : 1
    if (!h.speed) {
      out[i] = round(Math.max(0, Math.min(1, old[i]! + dx / px / h.frames)))
      let v = old[i + 1]! - (dy * unit) / h.far
      // Level with either key, where it comes near.
      for (const flat of [0, 1]) if (Math.abs(v - flat) * Math.abs(h.far) < 5 * unit) v = flat
      out[i + 1] = round(Math.max(-50, Math.min(50, shift ? old[i + 1]! : v)))
      return out
    }
    // In the speed: up and down is how fast, along is for how long. Both ends of the way stay.
    const slope = reach > 1e-6 ? (h.end ? 1 - old[3] : old[1]) / reach : 0
    let next = slope - (dy * unit) / (mean * seconds)
    if (Math.abs(next) * Math.abs(mean) * seconds < 5 * unit) next = 0
    const long = Math.max(0.001, Math.min(1, (reach || 0.333) + (way * dx) / px / h.frames))
    const rise = Math.max(-50, Math.min(50, (shift ? slope : next) * long))
    out[i] = round(h.end ? 1 - long : long)
    out[i + 1] = round(h.end ? 1 - rise : rise)
    return out
  }
  begin(e, (d) => {
    const mine = set(h.ease, d.dx, d.dy, d.shift)
    const all = new Map([[h.path, mine]])
    // The same end of the ways of all picked keys goes along.
    for (const p of others) {
      const old = (motion.all.get(p)!.key.ease as Bezier | undefined) ?? LINEAR
      const its = [...old] as Bezier
      its[h.end * 2] = mine[h.end * 2]!
      its[h.end * 2 + 1] = mine[h.end * 2 + 1]!
      all.set(p, its)
    }
    eases.value = all
    const ops = [...all].slice(0, 500).map(([key, value]) => act({ kind: 'ease', way: 'curve', keys: [key], value, layers: [] }))
    return ops.length === 1 ? ops[0]! : act({ kind: 'batch', ops, layers: [] })
  })
}
const leads = (p: string) => {
  const k = motion.all.get(p)
  return !!k && !k.key.hold && !k.key.steps && k.track.keys.at(-1)?.id !== k.key.id
}
/** Frames in a second: speeds are told in seconds. */
const speedUnit = computed(() => props.span.rate.value)

function takeKey(e: PointerEvent, k: (typeof keys.value)[number]) {
  if (e.button !== 0) return
  e.stopPropagation()
  const more = e.shiftKey || e.ctrlKey || e.metaKey
  const had = motion.isPicked.has(k.path)
  if (!had) motion.pick([k.path], more)
  if (!free()) return
  const c = k.l.curve
  const [lo, hi] = scale(c.path).value
  const unit = (hi - lo) / upper.value
  const to = instants.all({ key: (property, id) => motion.isPicked.has(keyPath(property, id)) })
  const levels = list.value.filter((o) => o.sign === c.sign && o.counted).flatMap((o) => o.keys.filter((q) => !motion.isPicked.has(keyPath(o.path, q.id))).flatMap((q) => q.value))
  const same = motion.chosen.filter((q) => list.value.find((o) => o.path === q.track.path)?.sign === c.sign && list.value.find((o) => o.path === q.track.path)?.counted).map((q) => q.path)
  const part = c.parts.length > 1 && lines.value.filter((l) => l.curve === c).length > 1 ? [k.l.i] : c.parts.map((_, i) => i)
  let axis = ''
  begin(
    e,
    (d) => {
      if (d.shift && !axis) axis = Math.abs(d.dx) > Math.abs(d.dy) ? 'x' : 'y'
      if (!d.shift) axis = ''
      const n = axis === 'y' ? 0 : Math.round(d.dx / props.span.px.value)
      const frames = n && !d.ctrl ? instants.drawn([k.k.at], n, to) : n
      let by = axis === 'x' || !c.counted || Math.abs(d.dy) < 3 ? 0 : -d.dy * unit
      if (by && !d.ctrl) {
        const v = k.k.value[k.l.i]! + by
        const near = levels.reduce<number | null>((best, q) => (Math.abs(q - v) < 5 * unit && (best === null || Math.abs(q - v) < Math.abs(best - v)) ? q : best), null)
        if (near !== null) by = near - k.k.value[k.l.i]!
      }
      const ops: Act[] = []
      if (frames) ops.push(act({ kind: 'retime', keys: motion.picked, frames, layers: [] }))
      if (by) ops.push(act({ kind: 'keyed', keys: same.length ? same : [k.path], numbers: Object.fromEntries(part.map((i) => [String(i), by])), layers: [] }))
      return ops.length > 1 ? act({ kind: 'batch', ops, layers: [] }) : (ops[0] ?? null)
    },
    () => {
      if (more && had) motion.turn(k.path)
      else if (!more) motion.pick([k.path])
    },
  )
}

/** A box around keys picks them. */
const box = ref<{ x: number; y: number; w: number; h: number } | null>(null)
function mark(e: PointerEvent) {
  const r = room.value!.getBoundingClientRect()
  const was = e.shiftKey ? motion.picked : []
  const from = [e.clientX - r.left, e.clientY - r.top] as const
  drag(e, {
    slack: 3,
    move: (d) => {
      const b = (box.value = { x: Math.min(from[0], d.x - r.left), y: Math.min(from[1], d.y - r.top), w: Math.abs(d.dx), h: Math.abs(d.dy) })
      motion.pick([...new Set([...was, ...keys.value.filter((k) => k.x >= b.x && k.x <= b.x + b.w && k.y >= b.y && k.y <= b.y + b.h).map((k) => k.path)])])
    },
    end: () => (box.value = null),
    press: () => !e.shiftKey && (motion.picked = []),
    cancel: () => {
      box.value = null
      motion.picked = was
    },
  })
}
const part = (e: PointerEvent) => {
  const was = share.value
  drag(e, { move: (d) => (share.value = Math.max(0.25, Math.min(0.85, was + d.dy / height.value))), cancel: () => (share.value = was) })
}
/** What stands at the foot and the head of each scale, of the first curve. */
const marks = computed(() => {
  const c = list.value.find((o) => o.counted)
  if (!c) return null
  const s = scale(c.path)
  const say = (v: number, more = '') => `${plain(v * c.factor, Math.abs(v * c.factor) < 10 ? 2 : 0)}${c.sign ? ` ${c.sign}` : ''}${more}`
  return { top: say(s.value[1]), foot: say(s.value[0]), fast: say(s.speed[1], '/s'), slow: say(s.speed[0], '/s'), zero: sy(c.path, 0) }
})
const now = computed(() => x(transport.shows))
useEventListener(room, 'wheel', (e: WheelEvent) => props.span.wheel(e, room.value!.getBoundingClientRect().left), { passive: false })
</script>

<template>
  <div class="curves" data-test="curves">
    <div class="head">
      <button v-for="t in tracks" :key="t.path" class="chip" :class="{ off: aside.has(t.path) }" :style="{ '--ink': ink(t.path) }" :aria-pressed="!aside.has(t.path)" :data-curve="t.path" :title="`${t.layer.name}: ${t.label}`" @click="toggle(t.path)"><i />{{ chosen.length > 1 ? `${t.layer.name}, ${t.label.toLowerCase()}` : t.label }}</button>
      <KeysBar :span="span" />
    </div>
    <div ref="room" class="room" @pointerdown="mark">
      <p v-if="!tracks.length" class="quiet none">{{ selection.layers.length ? 'Nothing of it moves. Put a key on it, or record.' : 'Select what moves; its curves are shown here.' }}</p>
      <svg v-else :width="width" :height="height">
        <rect class="speedroom" x="0" :y="upper + GAP" :width="width" :height="lower" />
        <path v-if="marks" class="zero" :d="`M0 ${marks.zero}H${width}`" />
        <template v-for="l in drawn" :key="`${l.curve.path} ${l.i}`">
          <path class="line" :d="l.value" :stroke="l.ink" :stroke-dasharray="l.dash" :data-line="`${l.curve.path} ${l.i}`"><title>{{ l.name }}</title></path>
          <path class="line thin" :d="l.speed" :stroke="l.ink" :stroke-dasharray="l.dash" />
        </template>
        <path v-for="h in handles" :key="`arm ${h.id}`" class="arm" :d="`M${h.fx} ${h.fy}L${h.x} ${h.y}`" />
        <g v-for="k in keys" :key="`${k.path} ${k.l.i}`" class="leaf" :class="{ on: motion.isPicked.has(k.path) }" :transform="`translate(${k.x} ${k.y})`" :data-curve-key="`${k.path} ${k.l.i}`" @pointerdown="takeKey($event, k)" @dblclick.stop="transport.seek(Math.round(k.k.at))">
          <title>{{ k.l.name }}, frame {{ Math.round(k.k.at * 100) / 100 }}: {{ k.k.text || plain(k.k.value[k.l.i]! * k.l.curve.factor, 2) }} {{ k.l.curve.sign }}</title>
          <circle r="8" fill="transparent" /><path d="M0 6C-4.600 3 -4.600 -2.600 0 -6.500 4.600 -2.600 4.600 3 0 6Z" :stroke="k.l.ink" />
        </g>
        <circle v-for="h in handles" :key="h.id" class="handle" :cx="h.x" :cy="h.y" r="4.500" :data-curve-handle="h.id" @pointerdown="takeHandle($event, h)"><title>{{ h.speed ? 'How fast: up and down; for how long: along' : 'Drag: the easing; Shift: along only' }}</title></circle>
      </svg>
      <template v-if="marks"><b class="mark num" :style="{ top: '1px' }">{{ marks.top }}</b><b class="mark num" :style="{ top: `${upper - 15}px` }">{{ marks.foot }}</b><b class="mark num" :style="{ top: `${upper + GAP + 1}px` }">{{ marks.fast }}</b><b class="mark num" :style="{ top: `${height - 15}px` }">{{ marks.slow }}</b></template>
      <div class="between" role="separator" aria-orientation="horizontal" title="Drag: more room for values, or for speeds" :style="{ top: `${upper}px` }" @pointerdown.stop="part" />
      <i v-if="box" class="box" :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.w}px`, height: `${box.h}px` }" />
      <i v-show="now >= 0 && now <= width" class="playhead" :style="{ transform: `translateX(${now}px)` }" />
    </div>
  </div>
</template>

<style scoped>
.curves { position: relative; user-select: none; display: grid; grid-template-rows: minmax(0, 1fr); min-height: 0; height: 100%; }
.head { position: absolute; right: 0; left: 0; top: -27px; display: flex; gap: 6px; align-items: center; justify-content: flex-end; font-size: 11px; pointer-events: none; overflow: hidden; padding-left: 620px; }
.head > * { pointer-events: auto; flex: none; }
.chip { display: flex; align-items: center; gap: 5px; border: 1px solid var(--rule-strong); border-radius: 6px; background: #fffefa; padding: 1px 7px; cursor: pointer; font-size: 11px; }
.chip i { width: 10px; height: 3px; border-radius: 2px; background: var(--ink); }
.chip.off { opacity: 0.45; text-decoration: line-through; }
.room { position: relative; min-height: 0; overflow: hidden; background: #fffefa; border: 1px solid var(--rule); border-radius: 6px; cursor: crosshair; touch-action: none; }
svg { position: absolute; left: -1px; top: 0; overflow: visible; }
.speedroom { fill: #f6f1e4; }
.zero { stroke: var(--rule-strong); stroke-dasharray: 3 4; }
.line { fill: none; stroke-width: 2; }
.thin { stroke-width: 1.4; }
.arm { stroke: #a86c14; stroke-width: 1; fill: none; }
.handle { fill: #fffefa; stroke: #a86c14; stroke-width: 1.6; cursor: grab; }
.handle:hover { fill: #e7a13a; }
.leaf { cursor: move; }
.leaf path { fill: #fffefa; stroke-width: 1.4; }
.leaf.on path { fill: #e7a13a; }
.mark { position: absolute; right: 3px; font-weight: 400; font-size: 10px; color: var(--ink-quiet); pointer-events: none; background: rgba(255, 254, 250, 0.7); border-radius: 3px; padding: 0 2px; }
.between { position: absolute; left: 0; right: 0; height: 7px; cursor: ns-resize; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) center / 100% 1.2px no-repeat; touch-action: none; }
.box { position: absolute; border: 1px solid var(--ivy); background: rgba(46, 107, 78, 0.1); pointer-events: none; }
.playhead { position: absolute; left: -1px; top: 0; bottom: 0; width: 1px; background: #b4492b; pointer-events: none; }
.none { padding: 12px 14px; font-size: 12.5px; }
</style>
