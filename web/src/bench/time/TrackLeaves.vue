<script setup lang="ts">
import { computed } from 'vue'

import type { TrackLine } from '../../api/client'
import type { TimeWindow } from '../../common/stage/window'
import { keyPath, useMotion } from './motion'

/** The keys of a property as leaves on its row; a held one stands on a flat stem that is drawn to the next. */
const props = defineProps<{ track: TrackLine; span: TimeWindow; shown: (path: string, at: number) => number; high: number }>()
const emit = defineEmits<{ take: [PointerEvent, string[]]; go: [number] }>()
const motion = useMotion()

const keys = computed(() =>
  props.track.keys
    .map((k) => {
      const path = keyPath(props.track.path, k.id)
      const at = props.shown(path, k.at)
      return { ...k, path, at, x: props.span.x(at + 0.5), on: motion.isPicked.has(path) }
    })
    .sort((a, b) => a.at - b.at),
)
const stems = computed(() =>
  keys.value.slice(0, -1).map((k, i) => ({ id: k.id, from: k.x, to: keys.value[i + 1]!.x, crosses: !!k.crosses, way: k.hold ? 'held' : k.steps ? 'stepped' : k.ease ? 'eased' : 'even' })).filter((s) => s.to >= 0 && s.from <= props.span.width.value),
)
const leaves = computed(() => keys.value.filter((k) => k.x > -8 && k.x < props.span.width.value + 8))
const said = (k: (typeof keys.value)[number]) => `${k.crosses ? 'Crosses a border of held time: a part of the way stretches. ' : ''}${props.track.label}, frame ${Math.round(k.at * 100) / 100}${k.hold ? ', held' : k.steps ? `, ${k.steps.count} steps` : k.ease ? `, eased ${k.ease.join(', ')}` : ''}`
</script>

<template>
  <!-- The name of the row lies on the stems, the leaves on both. -->
  <svg class="stems" :width="span.width.value" :height="high" aria-hidden="true">
    <template v-for="s in stems" :key="s.id"><path class="stem" :class="[s.way, { crosses: s.crosses }]" :d="`M${s.from} ${high / 2 + (s.way === 'held' ? 4 : 0)} H${s.to}`" /></template>
  </svg>
  <svg class="leaves" :width="span.width.value" :height="high">
    <g v-for="k in leaves" :key="k.id" class="leaf" :class="{ on: k.on, held: k.hold, crosses: k.crosses }" :transform="`translate(${k.x} ${high / 2})`" :data-key="k.path" @pointerdown="emit('take', $event, [k.path])" @dblclick.stop="emit('go', Math.round(k.at))">
      <title>{{ said(k) }}</title>
      <rect x="-7" :y="-high / 2" width="14" :height="high" fill="transparent" />
      <path d="M0 6C-4.600 3 -4.600 -2.600 0 -6.500 4.600 -2.600 4.600 3 0 6Z" /><path class="rib" d="M0 5V-3.500" />
    </g>
  </svg>
</template>

<style scoped>
.stems, .leaves { position: absolute; left: 0; top: 0; pointer-events: none; overflow: hidden; }
.leaves { z-index: 4; }
.leaf { pointer-events: auto; cursor: ew-resize; touch-action: none; }
.leaf path { fill: #e7a13a; stroke: #6b4a12; stroke-width: 0.8; }
.leaf .rib { fill: none; stroke-width: 0.7; opacity: 0.7; }
.leaf:hover path { fill: #f3b95d; }
.leaf.on path { fill: var(--ivy); stroke: #12301f; }
.leaf.on .rib { stroke: #d9eadf; }
.stem { stroke: #8b6a2c; stroke-width: 1; fill: none; }
.stem.even { stroke-dasharray: 2 3; }
.stem.crosses { stroke: var(--rust); }
.stem.held { stroke-width: 2.4; }
.stem.stepped { stroke-width: 2.4; stroke-dasharray: 5 2; }
</style>
