<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useDocument } from '../../common/document'
import { useDrag, type Drag } from '../../common/drag'
import { useTransient } from '../../common/transient'
import { useActs } from '../acts'
import { useLayer } from '../layer'

/** A camera on the picture: the sheet that it moves, with a grip in its middle, corners to zoom by and a loop to turn by. */
const props = defineProps<{ k: number; format: { width: number; height: number } }>()
const doc = useDocument()
const layer = useLayer()
const transient = useTransient()
const { act } = useActs()
const drag = useDrag()

type P = { x: number; y: number }
type Way = 'move' | 'zoom' | 'turn'
/** What is being done, and from where to where, px on the canvas. */
const doing = ref<{ way: Way; from: P; to: P } | null>(null)
watch(() => [doc.draft?.revision, layer.view], () => (doing.value = null))

const still = computed(() => (layer.view?.sheet.length === 5 ? (layer.view.sheet as P[]) : null))
/** The sheet as it would be, its middle last. */
const sheet = computed(() => {
  const s = still.value
  const d = doing.value
  if (!s || !d) return s
  const mid = s[4]!
  const [fx, fy, tx, ty] = [d.from.x - mid.x, d.from.y - mid.y, d.to.x - mid.x, d.to.y - mid.y]
  const by = d.way === 'zoom' ? Math.hypot(tx, ty) / Math.max(1, Math.hypot(fx, fy)) : 1
  const turn = d.way === 'turn' ? Math.atan2(ty, tx) - Math.atan2(fy, fx) : 0
  const [c, n] = [Math.cos(turn) * by, Math.sin(turn) * by]
  const [mx, my] = d.way === 'move' ? [d.to.x - d.from.x, d.to.y - d.from.y] : [0, 0]
  return s.map((p) => ({ x: mid.x + mx + (p.x - mid.x) * c - (p.y - mid.y) * n, y: mid.y + my + (p.x - mid.x) * n + (p.y - mid.y) * c }))
})
/** A point on the way from the middle to another one, as far as it is on the canvas: what lies beyond can't be taken hold of. */
function seen(to: P, mid: P): P {
  const room = 14 / props.k
  let share = 1
  for (const [a, b, most] of [[mid.x, to.x, props.format.width], [mid.y, to.y, props.format.height]] as const) {
    if (b > most - room && b !== a) share = Math.min(share, (most - room - a) / (b - a))
    if (b < room && b !== a) share = Math.min(share, (room - a) / (b - a))
  }
  share = Math.max(0.05, share)
  return { x: mid.x + (to.x - mid.x) * share, y: mid.y + (to.y - mid.y) * share }
}
const handles = computed(() => {
  const s = sheet.value
  if (!s) return null
  const mid = s[4]!
  const top = { x: (s[0]!.x + s[1]!.x) / 2, y: (s[0]!.y + s[1]!.y) / 2 }
  return { mid, corners: s.slice(0, 4).map((p) => seen(p, mid)), loop: seen({ x: mid.x + (top.x - mid.x) * 0.8, y: mid.y + (top.y - mid.y) * 0.8 }, mid) }
})
function take(e: PointerEvent, way: Way, from: P) {
  if (e.button !== 0) return
  e.stopPropagation()
  const at = (d: Drag) => ({ x: from.x + d.dx / props.k, y: from.y + d.dy / props.k })
  const op = (d: Drag) => {
    const to = at(d)
    return act({ kind: 'film', way, layers: [layer.view!.id], from: [from.x, from.y], to: [to.x, to.y], keep: d.shift || undefined })
  }
  drag(e, {
    slack: 2,
    move: (d) => {
      doing.value = { way, from, to: at(d) }
      transient.show(op(d))
    },
    end: (d) => void transient.keep(op(d)).then((kept) => kept || (doing.value = null)),
    cancel: () => {
      doing.value = null
      transient.hide()
    },
  })
}
const points = computed(() => sheet.value?.slice(0, 4).map((p) => `${p.x},${p.y}`).join(' '))
</script>

<template>
  <g v-if="handles" data-test="camera-sheet">
    <polygon class="under" :points="points" /><polygon :points="points" />
    <line :x1="handles.mid.x" :y1="handles.mid.y" :x2="handles.loop.x" :y2="handles.loop.y" />
    <g v-for="(p, i) in handles.corners" :key="i" :transform="`translate(${p.x} ${p.y}) scale(${1 / k})`"><rect class="catch zoom" x="-11" y="-11" width="22" height="22" :data-camera-zoom="i" @pointerdown="take($event, 'zoom', p)" /><path d="M-6 2V-6H2M6 -2V6H-2" :transform="i % 2 ? 'scale(-1 1)' : undefined" /></g>
    <g :transform="`translate(${handles.loop.x} ${handles.loop.y}) scale(${1 / k})`"><circle class="catch" r="11" data-camera-turn @pointerdown="take($event, 'turn', handles.loop)" /><circle class="loop" r="6" /></g>
    <g :transform="`translate(${handles.mid.x} ${handles.mid.y}) scale(${1 / k})`"><circle class="catch" r="16" data-camera-move @pointerdown="take($event, 'move', handles.mid)" /><circle class="eye" r="12" /><path d="M-7 0H7M0 -7V7" /></g>
  </g>
</template>

<style scoped>
polygon { fill: none; stroke: #f3efe2; stroke-width: 1.6; stroke-dasharray: 14 5 2 5; vector-effect: non-scaling-stroke; pointer-events: none; }
polygon.under { stroke: rgba(23, 40, 60, 0.75); stroke-width: 3.2; stroke-dasharray: none; }
line { stroke: #8fb4c9; stroke-width: 1.6; stroke-dasharray: 3 3; vector-effect: non-scaling-stroke; pointer-events: none; }
path { fill: none; stroke: #f3efe2; stroke-width: 2.4; pointer-events: none; }
.loop { fill: #fbfaf5; stroke: #3e5866; stroke-width: 2.4; pointer-events: none; }
.eye { fill: rgba(62, 88, 102, 0.72); stroke: #f3efe2; stroke-width: 1.6; pointer-events: none; }
.catch { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
.zoom { cursor: nwse-resize; }
</style>
