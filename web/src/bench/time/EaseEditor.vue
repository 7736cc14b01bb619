<script setup lang="ts">
import { computed, ref } from 'vue'

import { useDrag } from '../../common/drag'
import { drawn, type Bezier } from './easings'

/** An easing by its two handles, which go as far above and below as is meant. Dragged, by arrow keys, with a sample that runs. */
const props = defineProps<{ ease: Bezier }>()
const emit = defineEmits<{ draft: [Bezier]; change: [Bezier]; cancel: [] }>()
const drag = useDrag()
const svg = ref<SVGElement>()
const drafted = ref<Bezier | null>(null)
const ease = computed(() => drafted.value ?? props.ease)
/** As far up and down as its handles lie, and some more. */
const top = computed(() => Math.max(1, ease.value[1], ease.value[3]) + 0.15)
const low = computed(() => Math.min(0, ease.value[1], ease.value[3]) - 0.15)
const box = computed(() => `-0.12 ${1 - top.value} 1.24 ${top.value - low.value}`)
const MOST = 20
const round = (v: number) => Math.round(v * 1000) / 1000
function at(i: 0 | 1, x: number, y: number): Bezier {
  const e = [...ease.value] as Bezier
  e[i * 2] = round(Math.max(0, Math.min(1, x)))
  e[i * 2 + 1] = round(Math.max(-MOST, Math.min(MOST, y)))
  return e
}
function take(e: PointerEvent, i: 0 | 1) {
  const r = svg.value!.getBoundingClientRect()
  // While it is dragged a px stays a px, however far the view has to grow.
  const px = Math.max(1.24 / r.width, (top.value - low.value) / r.height)
  const [x, y] = [ease.value[i * 2]!, ease.value[i * 2 + 1]!]
  const to = (d: { dx: number; dy: number; shift: boolean }) => {
    const ny = y - d.dy * px
    return at(i, x + d.dx * px, d.shift ? Math.round(ny * 4) / 4 : ny)
  }
  drag(e, {
    slack: 2,
    move: (d) => emit('draft', (drafted.value = to(d))),
    end: (d) => {
      emit('change', to(d))
      drafted.value = null
    },
    cancel: () => {
      drafted.value = null
      emit('cancel')
    },
  })
}
function key(e: KeyboardEvent, i: 0 | 1) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key]
  if (!by) return
  e.preventDefault()
  e.stopPropagation()
  const k = e.shiftKey ? 0.1 : 0.01
  emit('change', at(i, ease.value[i * 2]! + by[0]! * k, ease.value[i * 2 + 1]! + by[1]! * k))
}
</script>

<template>
  <div class="ease">
    <svg ref="svg" :viewBox="box" preserveAspectRatio="xMidYMid meet" data-test="ease-editor">
      <path class="frame" d="M0 0H1V1H0Z" /><path class="even" d="M0 1L1 0" />
      <path class="arm" :d="`M0 1L${ease[0]} ${1 - ease[1]}M1 0L${ease[2]} ${1 - ease[3]}`" />
      <path class="curve" :d="drawn(ease)" />
      <circle v-for="i in ([0, 1] as const)" :key="i" class="handle" tabindex="0" role="slider" :aria-label="i ? 'Handle into the next key' : 'Handle out of the key'" :aria-valuetext="`${ease[i * 2]}, ${ease[i * 2 + 1]}`" :data-handle="i" :cx="ease[i * 2]" :cy="1 - ease[i * 2 + 1]!" r="0.045" @pointerdown="take($event, i)" @keydown="key($event, i)" />
    </svg>
    <div class="sample" aria-hidden="true"><i :key="ease.join()" :style="{ animationTimingFunction: `cubic-bezier(${ease.join()})` }" /></div>
  </div>
</template>

<style scoped>
.ease { display: grid; gap: 6px; }
svg { width: 100%; height: 168px; background: #fffefa; border: 1px solid var(--rule); border-radius: 8px; touch-action: none; }
path { fill: none; vector-effect: non-scaling-stroke; }
.frame { stroke: var(--rule-strong); stroke-dasharray: 4 4; }
.even { stroke: var(--rule); }
.arm { stroke: #a86c14; }
.curve { stroke: var(--ivy); stroke-width: 2.4; }
.handle { fill: #e7a13a; stroke: #6b4a12; stroke-width: 1; vector-effect: non-scaling-stroke; cursor: grab; touch-action: none; }
.handle:focus-visible { stroke: var(--ivy); stroke-width: 3; outline: none; }
.sample { position: relative; height: 12px; margin: 0 20%; border-bottom: 1px dashed var(--rule-strong); }
.sample i { position: absolute; bottom: 1px; width: 9px; height: 9px; margin-left: -4px; border-radius: 60% 0; background: var(--ivy); animation: run 1.6s infinite both; }
@keyframes run { 0% { left: 0; } 70%, 100% { left: 100%; } }
@media (prefers-reduced-motion: reduce) { .sample i { animation: none; left: 100%; } }
</style>
