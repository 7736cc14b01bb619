<script setup lang="ts">
import { computed } from 'vue'

import { useDrag, type Drag } from '../../common/drag'
import { useTransient } from '../../common/transient'
import { useActs } from '../acts'
import { useLayer } from '../layer'

/** The two ends of a layer's gradient on the picture, and its stops between them. */
const props = defineProps<{ k: number }>()
const layer = useLayer()
const transient = useTransient()
const { act } = useActs()
const drag = useDrag()
const ends = computed(() => {
  const v = layer.view
  if (!v || v.ends.length < 2) return null
  const op = transient.op as { kind: string; name?: string; to?: number[]; path?: string } | null
  // While one is dragged it is where the pointer has it.
  return v.ends.map((p, i) => (op?.kind === 'gradient-end' && op.path === `layers/${v.id}` && op.name === (i ? 'to' : 'from') && op.to ? { x: op.to[0]!, y: op.to[1]! } : p))
})
const REACH = 7
function take(e: PointerEvent, i: number) {
  if (e.button !== 0) return
  e.stopPropagation()
  const from = ends.value![i]!
  const op = (d: Drag) => act({ kind: 'gradient-end', path: `layers/${layer.view!.id}`, name: i ? 'to' : 'from', to: [from.x + d.dx / props.k, from.y + d.dy / props.k], snap: d.ctrl ? 0 : REACH / props.k, layers: [] })
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
/** A stop goes along the way between the ends. */
function slide(e: PointerEvent, id: string) {
  if (e.button !== 0) return
  e.stopPropagation()
  const [a, b] = ends.value!
  const way = { x: b!.x - a!.x, y: b!.y - a!.y }
  const long = way.x ** 2 + way.y ** 2 || 1
  const stops = layer.view!.stops
  const op = (d: Drag) =>
    act({ kind: 'stops', path: `layers/${layer.view!.id}`, layers: [], part: stops.map((s) => ({ id: s.id, colour: s.colour, at: s.id === id ? Math.round(Math.max(0, Math.min(1, s.at + (d.dx * way.x + d.dy * way.y) / props.k / long)) * 1000) / 1000 : s.at })) })
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
/** Its stops; while one slides it is where the pointer has it. */
const stops = computed(() => {
  const op = transient.op as { kind: string; path?: string; part?: { id: string; at: number }[] } | null
  const own = layer.view?.stops ?? []
  if (op?.kind !== 'stops' || op.path !== `layers/${layer.view?.id}`) return own
  return own.map((s) => ({ ...s, at: op.part?.find((p) => p.id === s.id)?.at ?? s.at }))
})
</script>

<template>
  <g v-if="ends" class="gradient" data-test="gradient-ends">
    <line class="under" :x1="ends[0]!.x" :y1="ends[0]!.y" :x2="ends[1]!.x" :y2="ends[1]!.y" /><line :x1="ends[0]!.x" :y1="ends[0]!.y" :x2="ends[1]!.x" :y2="ends[1]!.y" />
    <g v-for="s in stops" :key="s.id" :transform="`translate(${ends[0]!.x + (ends[1]!.x - ends[0]!.x) * s.at} ${ends[0]!.y + (ends[1]!.y - ends[0]!.y) * s.at}) scale(${1 / k})`"><circle class="catch" r="8" :data-end-stop="s.id" @pointerdown="slide($event, s.id)" /><circle class="stop" r="4" :fill="s.shows" /></g>
    <g v-for="(p, i) in ends" :key="i" :transform="`translate(${p.x} ${p.y}) scale(${1 / k})`">
      <rect class="catch" x="-9" y="-9" width="18" height="18" :data-end="i ? 'to' : 'from'" @pointerdown="take($event, i)" /><rect class="end" :class="{ last: i }" x="-5" y="-5" width="10" height="10" rx="2" />
    </g>
  </g>
</template>

<style scoped>
line { stroke: #fbfaf5; stroke-width: 1.6; stroke-dasharray: 2 4; vector-effect: non-scaling-stroke; }
line.under { stroke: rgba(23, 40, 33, 0.7); stroke-width: 3.4; stroke-dasharray: none; }
.stop { stroke: #fbfaf5; stroke-width: 1.4; pointer-events: none; }
.end { fill: #1e7383; stroke: #fbfaf5; stroke-width: 1.8; pointer-events: none; }
.end.last { fill: #fbfaf5; stroke: #1e7383; }
.catch { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
</style>
