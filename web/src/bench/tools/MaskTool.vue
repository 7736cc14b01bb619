<script setup lang="ts">
import { computed, watch } from 'vue'

import type { Act, Formed } from '../../api/client'
import { useDrag, type Drag } from '../../common/drag'
import { plain } from '../../common/format'
import { apply, onto } from '../../common/projective'
import { useSelection } from '../../common/selection'
import { useTransient } from '../../common/transient'
import { useActs } from '../acts'
import { useTool } from '../tool'

/** The mask that is worked on: dragged, sized and turned on its layer, softened and grown by its knobs. */
const props = defineProps<{ forms: Formed[]; k: number; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const tool = useTool()
const selection = useSelection()
const transient = useTransient()
const { act } = useActs()
const drag = useDrag()
const form = computed(() => props.forms.find((f) => f.mask && f.path === tool.mask))
watch(() => selection.layer, (id) => !tool.mask.startsWith(`layers/${id}/`) && (tool.mask = ''))

type P = { x: number; y: number }
const map = computed(() => onto(form.value!.corners as [P, P, P, P]))
const on = (x: number, y: number): P => apply(map.value, { x, y })
const away = (a: P, b: P) => Math.hypot(a.x - b.x, a.y - b.y)
const shares = [[0, 0], [0.5, 0], [1, 0], [1, 0.5], [1, 1], [0.5, 1], [0, 1], [0, 0.5]] as const
const wide = computed(() => away(on(0, 0.5), on(1, 0.5)))
const high = computed(() => away(on(0.5, 0), on(0.5, 1)))
const pins = computed(() => shares.filter(([x, y]) => (x !== 0.5 || wide.value * props.k > 34) && (y !== 0.5 || high.value * props.k > 34)).map(([x, y]) => ({ x, y, p: on(x, y) })))
/** Where knobs of lengths stand: beyond the right edge for the soft edge, beyond the upper one for growth. */
const beyond = (edge: P, mid: P, by: number) => {
  const far = away(edge, mid) || 1
  return { x: edge.x + ((edge.x - mid.x) / far) * by, y: edge.y + ((edge.y - mid.y) / far) * by }
}
const soft = computed(() => ({ from: on(1, 0.5), to: beyond(on(1, 0.5), on(0, 0.5), form.value!.feather * form.value!.unit) }))
const grown = computed(() => ({ from: on(0.5, 0), to: beyond(on(0.5, 0), on(0.5, 1), form.value!.growth * form.value!.unit) }))
const loop = computed(() => ({ from: on(0.5, 1), to: beyond(on(0.5, 1), on(0.5, 0), 26 / props.k) }))
const REACH = 7

function dragging(e: PointerEvent, way: 'move' | 'size' | 'turn' | 'feather' | 'growth', start?: P, handle?: readonly [number, number]) {
  if (e.button !== 0) return
  e.stopPropagation()
  const from = props.at(e)
  // What has a place of its own is taken there, whatever point of it the pointer holds.
  const off = start ? [start.x - from[0], start.y - from[1]] : [0, 0]
  const op = (d: Drag): Act => {
    const to = props.at({ clientX: d.x, clientY: d.y })
    return { ...act({ kind: 'mask-pose', path: form.value!.path, way, from: [from[0] + off[0]!, from[1] + off[1]!], to: [to[0] + off[0]!, to[1] + off[1]!], keep: d.shift, middle: d.alt, snap: d.ctrl ? 0 : REACH / props.k, layers: [] }), ...(handle ? { handle: [...handle] } : {}) }
  }
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
const told = computed(() => {
  const way = (transient.op as Act | null)?.kind === 'mask-pose' ? (transient.op as Act).way : ''
  const f = form.value
  if (!f) return null
  if (way === 'feather') return { p: soft.value.to, text: `soft ${plain(f.feather, 1)} px` }
  if (way === 'growth') return { p: grown.value.to, text: `grown ${plain(f.growth, 1)} px` }
  return null
})
</script>

<template>
  <g v-if="form" class="masktool" data-test="mask-tool">
    <path class="body" :d="form.line" data-test="mask-body" @pointerdown="dragging($event, 'move')" />
    <path class="halo" :d="form.line" /><path class="line" :d="form.line" />
    <polygon class="frame" :points="form.corners.map((p) => `${p.x},${p.y}`).join(' ')" />
    <line class="thread" :x1="loop.from.x" :y1="loop.from.y" :x2="loop.to.x" :y2="loop.to.y" />
    <circle class="turn" :cx="loop.to.x" :cy="loop.to.y" :r="6 / k" data-mask-turn @pointerdown="dragging($event, 'turn')" />
    <g v-for="p in pins" :key="`${p.x} ${p.y}`" :transform="`translate(${p.p.x} ${p.p.y}) scale(${1 / k})`"><circle class="catch" r="10" :data-mask-pin="`${p.x} ${p.y}`" @pointerdown="dragging($event, 'size', p.p, [p.x, p.y])" /><rect class="pin" x="-4.5" y="-4.5" width="9" height="9" rx="2" /></g>
    <template v-for="[knob, way, name] in ([[soft, 'feather', 'Soft edge'], [grown, 'growth', 'Growth']] as const)" :key="way">
      <line class="reach" :x1="knob.from.x" :y1="knob.from.y" :x2="knob.to.x" :y2="knob.to.y" />
      <g :transform="`translate(${knob.to.x} ${knob.to.y}) scale(${1 / k}) translate(${way === 'feather' ? 15 : 0} ${way === 'growth' ? -15 : 0})`"><title>{{ name }}</title><circle class="catch" r="10" :data-mask-knob="way" @pointerdown="dragging($event, way, knob.to)" /><circle v-if="way === 'feather'" class="knob" r="5.5" /><path v-else class="knob" d="M-6 4L0-6 6 4Z" /></g>
    </template>
    <text v-if="told" :x="told.p.x" :y="told.p.y" :font-size="12 / k" :dx="26 / k" :dy="-10 / k">{{ told.text }}</text>
  </g>
</template>

<style scoped>
.body { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
.line, .halo { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; }
.halo { stroke: rgba(23, 61, 43, 0.75); stroke-width: 3; }
.line { stroke: #7cc79c; stroke-width: 1.5; }
.frame { fill: none; stroke: rgba(243, 239, 226, 0.7); stroke-width: 1; stroke-dasharray: 3 4; vector-effect: non-scaling-stroke; pointer-events: none; }
.pin { fill: #7cc79c; stroke: #173d2b; stroke-width: 1.5; pointer-events: none; }
.catch { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
.thread { stroke: #7cc79c; stroke-width: 1.6; stroke-dasharray: 3 3; vector-effect: non-scaling-stroke; }
.turn { fill: #fbfaf5; stroke: #b4492b; stroke-width: 2.4; vector-effect: non-scaling-stroke; pointer-events: all; cursor: grab; touch-action: none; }
.reach { stroke: #e7a13a; stroke-width: 1.6; vector-effect: non-scaling-stroke; pointer-events: none; }
.knob { fill: #e7a13a; stroke: #3a2606; stroke-width: 1.2; pointer-events: none; }
text { font-family: 'Spline Sans Mono', monospace; fill: #fbfaf5; paint-order: stroke; stroke: #173d2b; stroke-width: 3px; vector-effect: non-scaling-stroke; }
</style>
