<script setup lang="ts">
import { computed } from 'vue'

import type { Act, Format } from '../api/client'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useActs } from './acts'

/** The lines of a split, to be dragged on the picture: those of the layout that the selection stands in. */
const props = defineProps<{ format: Format; k: number; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const { act } = useActs()
const drag = useDrag()

const layout = computed(() => {
  const id = selection.line?.layout
  return doc.draft!.layouts.find((l) => l.id === id)
})
const lines = computed(() => {
  const cells = layout.value?.cells[props.format.id] ?? []
  const split = layout.value?.splits[props.format.id]
  if (!split || transient.op) return []
  const columns = split.columns.length
  const out: { way: 'columns' | 'rows'; at: number; x: number; y: number; w: number; h: number }[] = []
  const grip = Math.max(split.gutter, 8 / props.k)
  for (let i = 0; i + 1 < columns; i++) {
    const [a, b] = [cells[i]!.box, cells[i + 1]!.box]
    const mid = (a.x + a.w + b.x) / 2
    out.push({ way: 'columns', at: i, x: mid - grip / 2, y: 0, w: grip, h: props.format.height })
  }
  for (let i = 0; i + 1 < split.rows.length; i++) {
    const [a, b] = [cells[i * columns]!.box, cells[(i + 1) * columns]!.box]
    const mid = (a.y + a.h + b.y) / 2
    out.push({ way: 'rows', at: i, x: 0, y: mid - grip / 2, w: props.format.width, h: grip })
  }
  return out
})
function take(e: PointerEvent, l: { way: string; at: number }) {
  if (e.button !== 0) return
  e.stopPropagation()
  const from = props.at(e)
  const op = (d: { x: number; y: number; ctrl: boolean }): Act => ({ ...act({ kind: 'line', id: layout.value!.id, way: l.way, at: l.at, from, to: props.at({ clientX: d.x, clientY: d.y }), snap: d.ctrl ? 0 : 7 / props.k }), layers: [] })
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
</script>

<template>
  <rect v-for="l in lines" :key="`${l.way}${l.at}`" class="line" :class="l.way" :x="l.x" :y="l.y" :width="l.w" :height="l.h" :data-line="`${l.way} ${l.at}`" @pointerdown="take($event, l)"><title>Drag the line between two {{ l.way }}</title></rect>
</template>

<style scoped>
.line { fill: rgba(231, 161, 58, 0.001); pointer-events: all; touch-action: none; }
.line:hover { fill: rgba(231, 161, 58, 0.45); }
.columns { cursor: col-resize; }
.rows { cursor: row-resize; }
</style>
