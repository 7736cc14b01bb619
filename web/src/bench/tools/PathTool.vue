<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import type { Formed } from '../../api/client'
import { useDrag, type Drag } from '../../common/drag'
import { useSelection } from '../../common/selection'
import { useTransient } from '../../common/transient'
import { usePoints } from './points'
import { useTool } from '../tool'

/** The points of a path and their handles, on the picture. */
const props = defineProps<{ forms: Formed[]; k: number; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const tool = useTool()
const selection = useSelection()
const transient = useTransient()
const points = usePoints()
const drag = useDrag()
const root = ref<SVGGElement>()
const form = computed(() => props.forms.find((f) => f.path === tool.path))
const nodes = computed(() => (form.value?.nodes ?? []).map((n, i) => ({ i, x: n[0]!, y: n[1]!, in: [n[2]!, n[3]!] as const, out: [n[4]!, n[5]!] as const, on: tool.picks.includes(i) })))
/** Handles are seen of what is selected, where they are not in the point itself. */
const handles = computed(() =>
  nodes.value.flatMap((n) => (n.on || tool.picks.length === 0 ? (['in', 'out'] as const).filter((w) => Math.hypot(n[w][0] - n.x, n[w][1] - n.y) * props.k > 2).map((way) => ({ n, way, x: n[way][0], y: n[way][1] })) : [])),
)
const REACH = 7
const reach = (d: Drag) => (d.ctrl ? 0 : REACH / props.k)
/** How far a drag has come on the canvas. */
const by = (d: Drag) => [d.dx / props.k, d.dy / props.k] as const

function focus() {
  root.value?.focus({ preventScroll: true })
}
onMounted(() => void nextTick(focus))
watch(() => tool.path, (p) => p && void nextTick(focus))
// A layer that is left, or a path that is gone, is worked on no more.
watch(() => selection.layer, (id) => !`${tool.path}/`.startsWith(`layers/${id}/`) && (tool.path = ''))
watch(() => form.value?.nodes.length, (n) => n !== undefined && (tool.picks = tool.picks.filter((i) => i < n)))

function take(e: PointerEvent, n: (typeof nodes.value)[number]) {
  if (e.button !== 0) return
  e.stopPropagation()
  focus()
  const was = n.on
  if (e.shiftKey && !was) tool.picks = [...tool.picks, n.i]
  else if (!was) tool.picks = [n.i]
  const alt = e.altKey
  const to = (d: Drag) => [n.x + by(d)[0], n.y + by(d)[1]]
  const op = (d: Drag) => (alt ? points.op('out', { picks: [n.i], from: [n.out[0], n.out[1]], to: [n.out[0] + by(d)[0], n.out[1] + by(d)[1]] }) : points.op('move', { from: [n.x, n.y], to: to(d), keep: d.shift, snap: reach(d) }))
  drag(e, {
    slack: 3,
    move: (d) => transient.show(op(d)),
    end: (d) => void transient.keep(op(d)),
    cancel: transient.hide,
    press: () => {
      if (e.shiftKey && was) tool.picks = tool.picks.filter((i) => i !== n.i)
      else if (!e.shiftKey && tool.picks.length > 1) tool.picks = [n.i]
    },
  })
}
/** Twice on a point: a corner becomes a curve, and a curve a corner. */
function turn(n: (typeof nodes.value)[number]) {
  tool.picks = [n.i]
  const bent = n.in[0] !== n.x || n.in[1] !== n.y || n.out[0] !== n.x || n.out[1] !== n.y
  void points.does(bent ? 'corner' : 'smooth')
}
function bend(e: PointerEvent, h: (typeof handles.value)[number]) {
  if (e.button !== 0) return
  e.stopPropagation()
  const op = (d: Drag) => points.op(h.way, { picks: [h.n.i], from: [h.x, h.y], to: [h.x + by(d)[0], h.y + by(d)[1]], middle: d.alt, keep: d.shift })
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
/** A press on the line puts a point there. */
async function add(e: PointerEvent) {
  if (e.button !== 0) return
  e.stopPropagation()
  focus()
  const to = props.at(e)
  await points.does('add', { to })
  await nextTick()
  // The one that is nearest to the press is the new one.
  const near = [...nodes.value].sort((a, b) => Math.hypot(a.x - to[0], a.y - to[1]) - Math.hypot(b.x - to[0], b.y - to[1]))[0]
  if (near) tool.picks = [near.i]
}
// Several are picked by a box around them.
const box = ref<{ x: number; y: number; w: number; h: number } | null>(null)
function around(e: PointerEvent) {
  if (e.button !== 0) return
  e.stopPropagation()
  focus()
  const from = props.at(e)
  const before = e.shiftKey ? tool.picks : []
  drag(e, {
    slack: 3,
    move: (d) => {
      const to = props.at({ clientX: d.x, clientY: d.y })
      const b = (box.value = { x: Math.min(from[0], to[0]), y: Math.min(from[1], to[1]), w: Math.abs(to[0] - from[0]), h: Math.abs(to[1] - from[1]) })
      tool.picks = [...new Set([...before, ...nodes.value.filter((n) => n.x >= b.x && n.x <= b.x + b.w && n.y >= b.y && n.y <= b.y + b.h).map((n) => n.i)])]
    },
    end: () => (box.value = null),
    cancel: () => {
      box.value = null
      tool.picks = before
    },
    press: () => (tool.picks.length ? (tool.picks = []) : (tool.path = '')),
  })
}
function key(e: KeyboardEvent) {
  const n = nodes.value.length
  const next = tool.picks.length ? tool.picks.at(-1)! + (e.shiftKey ? -1 : 1) : e.shiftKey ? n - 1 : 0
  // Tab goes from point to point, and on from the last one.
  if (e.key === 'Tab' && next >= 0 && next < n) tool.picks = [next]
  else if (e.key === 'Enter') tool.path = ''
  else return points.key(e)
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <g v-if="form" ref="root" class="pathtool" tabindex="0" role="group" aria-label="Points of the path" data-test="points" @keydown="key">
    <rect class="sheet" x="-9999" y="-9999" width="29999" height="29999" data-test="points-sheet" @pointerdown="around" />
    <path class="halo" :d="form.line" /><path class="line" :d="form.line" />
    <g v-if="form.way" class="dots" data-test="way-dots"><title>Where it is every {{ form.step === 1 ? 'frame' : `${form.step} frames` }}: near one another it is slow</title><circle v-for="(p, i) in form.dots" :key="i" :cx="p.x" :cy="p.y" :r="2 / k" /></g>
    <path class="add" :d="form.line" data-test="points-line" @pointerdown="add" />
    <g v-for="h in handles" :key="`${h.n.i}${h.way}`">
      <line class="arm under" :x1="h.n.x" :y1="h.n.y" :x2="h.x" :y2="h.y" /><line class="arm" :x1="h.n.x" :y1="h.n.y" :x2="h.x" :y2="h.y" />
      <g :transform="`translate(${h.x} ${h.y}) scale(${1 / k})`"><circle class="catch" r="9" :data-handle="`${h.n.i} ${h.way}`" @pointerdown="bend($event, h)" /><circle class="knob" r="3.6" /></g>
    </g>
    <g v-for="n in nodes" :key="n.i" class="node" :class="{ on: n.on, first: n.i === 0 && !form.closed }" :transform="`translate(${n.x} ${n.y}) scale(${1 / k})`">
      <rect class="catch" x="-8" y="-8" width="16" height="16" :data-node="n.i" @pointerdown="take($event, n)" @dblclick.stop="turn(n)" />
      <path d="M0-5.6L5.6 0 0 5.6-5.6 0Z" />
    </g>
    <rect v-if="box" class="marquee" :x="box.x" :y="box.y" :width="box.w" :height="box.h" />
  </g>
</template>

<style scoped>
.dots circle { fill: #fbfaf5; stroke: rgba(23, 40, 33, 0.8); stroke-width: 0.8; vector-effect: non-scaling-stroke; pointer-events: none; }
.pathtool { outline: none; }
.sheet { fill: transparent; pointer-events: all; cursor: default; }
.line, .halo { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; }
.halo { stroke: rgba(23, 61, 43, 0.75); stroke-width: 3; }
.line { stroke: #f3efe2; stroke-width: 1.4; }
.add { fill: none; stroke: transparent; stroke-width: 11; vector-effect: non-scaling-stroke; pointer-events: stroke; cursor: copy; }
.arm { stroke: #e7a13a; stroke-width: 1.4; vector-effect: non-scaling-stroke; pointer-events: none; }
.arm.under { stroke: rgba(30, 30, 20, 0.6); stroke-width: 3; }
.knob { fill: #e7a13a; stroke: #3a2606; stroke-width: 1; pointer-events: none; }
.catch { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
/* Points are chalk crosses set on edge; the chosen ones are sewn. */
.node path { fill: #fbfaf5; stroke: #173d2b; stroke-width: 1.6; pointer-events: none; }
.node.on path { fill: #e7a13a; stroke: #3a2606; }
.node.first path { stroke: #b4492b; }
.marquee { fill: rgba(124, 199, 156, 0.14); stroke: #f3efe2; stroke-width: 1.4; stroke-dasharray: 5 4; vector-effect: non-scaling-stroke; pointer-events: none; }
</style>
