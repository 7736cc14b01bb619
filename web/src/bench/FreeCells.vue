<script setup lang="ts">
import { computed } from 'vue'

import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useActs } from './acts'

/** Cells in which nothing stands yet, on the stage: a press sews a pocket into one. Shown while a layer of their layout is picked, or none. */
defineProps<{ k: number }>()
const doc = useDocument()
const selection = useSelection()
const { does } = useActs()
const cells = computed(() =>
  doc.draft!.layouts
    .filter((l) => !selection.layers.length || selection.line?.layout === l.id)
    .flatMap((l) => (l.cells[selection.format] ?? []).filter((c) => c.free).map((c) => ({ ...c, layout: l.id }))),
)
const sew = (c: { layout: string; row: number; column: number }) => void does({ kind: 'sew', path: `layouts/${c.layout}`, numbers: { row: c.row, column: c.column }, layers: [] })
</script>

<template>
  <g v-for="c in cells" :key="`${c.layout} ${c.row} ${c.column}`" class="cell">
    <rect :x="c.box.x + 3 / k" :y="c.box.y + 3 / k" :width="Math.max(0, c.box.w - 6 / k)" :height="Math.max(0, c.box.h - 6 / k)" />
    <g class="plus" :transform="`translate(${c.box.x + c.box.w / 2} ${c.box.y + c.box.h / 2}) scale(${1 / k})`" :data-free-cell="c.name" @pointerdown.stop.prevent="sew(c)">
      <title>{{ `Sew a pocket into the ${c.name} cell` }}</title><circle r="15" /><path d="M-6 0H6M0-6V6" />
    </g>
  </g>
</template>

<style scoped>
rect { fill: none; stroke: rgba(243, 239, 226, 0.6); stroke-width: 1.4; stroke-dasharray: 6 5; vector-effect: non-scaling-stroke; }
.plus { pointer-events: all; cursor: pointer; }
.plus circle { fill: #fbfaf5; stroke: #2e6b4e; stroke-width: 1.6; }
.plus path { stroke: #2e6b4e; stroke-width: 2; }
.plus:hover circle { fill: #e4ede6; }
</style>
