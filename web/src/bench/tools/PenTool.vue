<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'

import { useDrag } from '../../common/drag'
import { useActs } from '../acts'
import { isWay, useTool } from '../tool'

/** Draws a path, point by point: a press is a corner, a drag bends it; the first point closes it, Enter ends it open. A way of motion need not come back. */
const props = defineProps<{ k: number; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const tool = useTool()
const { act, does, masked } = useActs()
const drag = useDrag()
/** x, y, and where the handle goes that leads on; the one that comes in is its mirror. */
interface Stop { x: number; y: number; hx: number; hy: number }
const stops = ref<Stop[]>([])
const over = ref<[number, number] | null>(null)
const root = ref<SVGGElement>()
onMounted(() => void nextTick(() => root.value?.focus({ preventScroll: true })))

const near = (p: [number, number]) => stops.value.length > 1 && Math.hypot(p[0] - stops.value[0]!.x, p[1] - stops.value[0]!.y) * props.k < 11
const closing = computed(() => !!over.value && near(over.value))
function curve(a: Stop, b: Stop): string {
  return `C${a.x + a.hx} ${a.y + a.hy} ${b.x - b.hx} ${b.y - b.hy} ${b.x} ${b.y}`
}
const line = computed(() => {
  const s = stops.value
  if (!s.length) return ''
  let d = `M${s[0]!.x} ${s[0]!.y}` + s.slice(1).map((p, i) => curve(s[i]!, p)).join('')
  if (over.value) d += closing.value ? curve(s.at(-1)!, s[0]!) : curve(s.at(-1)!, { x: over.value[0], y: over.value[1], hx: 0, hy: 0 })
  return d
})
/** Shift keeps to whole steps of 45° from the point before. */
function kept(p: [number, number], shift: boolean): [number, number] {
  const last = stops.value.at(-1)
  if (!shift || !last) return p
  const [dx, dy] = [p[0] - last.x, p[1] - last.y]
  const turn = (Math.round(Math.atan2(dy, dx) / (Math.PI / 4)) * Math.PI) / 4
  const far = dx * Math.cos(turn) + dy * Math.sin(turn)
  return [last.x + far * Math.cos(turn), last.y + far * Math.sin(turn)]
}
function press(e: PointerEvent) {
  if (e.button !== 0) return
  e.stopPropagation()
  e.preventDefault()
  root.value?.focus({ preventScroll: true })
  const p = kept(props.at(e), e.shiftKey)
  if (near(p)) return void finish(true)
  const last = stops.value.at(-1)
  if (last && Math.hypot(p[0] - last.x, p[1] - last.y) * props.k < 2) return // twice at the same place
  stops.value.push({ x: p[0], y: p[1], hx: 0, hy: 0 })
  const mine = stops.value.at(-1)!
  drag(e, {
    slack: 4,
    move: (d) => {
      const q = props.at({ clientX: d.x, clientY: d.y })
      mine.hx = q[0] - mine.x
      mine.hy = q[1] - mine.y
    },
    cancel: () => stops.value.pop(),
  })
}
async function finish(closed: boolean) {
  const s = stops.value
  const pen = tool.pen!
  const leads = isWay(pen.of)
  if (s.length < 2 || (pen.of && !leads && !closed)) return
  const part = s.map((p) => (p.hx || p.hy ? [p.x, p.y, -p.hx, -p.hy, p.hx, p.hy] : [p.x, p.y]))
  const into = tool.inside && !pen.of ? { into: `layers/${tool.inside}/layers`, at: -1 } : {}
  stops.value = []
  tool.pen = null
  const way = closed ? 'closed' : 'open'
  if (leads) {
    if (await does({ kind: 'draw', part, way, path: pen.of, layers: [] })) tool.path = pen.of!
  } else if (pen.of) await masked(act({ kind: 'draw', part, way, path: pen.of, layers: [] }))
  else await does({ kind: 'draw', part, way, ...into, ...(pen.like ? { id: pen.like } : {}) })
}
function key(e: KeyboardEvent) {
  if (e.key === 'Enter') void finish(!!tool.pen?.of && !isWay(tool.pen.of))
  else if ((e.key === 'Backspace' || e.key === 'Delete') && stops.value.length) stops.value.pop()
  else if (e.key === 'Escape' && stops.value.length) stops.value = []
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <g ref="root" class="pen" tabindex="0" role="group" aria-label="Drawing a path" data-test="pen" @keydown="key">
    <rect class="sheet" x="-9999" y="-9999" width="29999" height="29999" data-test="pen-sheet" @pointerdown="press" @pointermove="over = at($event)" @pointerleave="over = null" />
    <path class="halo" :d="line" /><path class="line" :d="line" />
    <g v-for="(s, i) in stops" :key="i">
      <template v-if="s.hx || s.hy"><line class="arm" :x1="s.x - s.hx" :y1="s.y - s.hy" :x2="s.x + s.hx" :y2="s.y + s.hy" /></template>
      <g :transform="`translate(${s.x} ${s.y}) scale(${1 / k})`" class="node" :class="{ close: i === 0 && closing }"><path d="M0-5.6L5.6 0 0 5.6-5.6 0Z" /></g>
    </g>
  </g>
</template>

<style scoped>
.pen { outline: none; }
.sheet { fill: transparent; pointer-events: all; cursor: crosshair; touch-action: none; }
.line, .halo { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; }
.halo { stroke: rgba(23, 61, 43, 0.75); stroke-width: 3; }
.line { stroke: #f3efe2; stroke-width: 1.4; }
.arm { stroke: #e7a13a; stroke-width: 1.4; vector-effect: non-scaling-stroke; pointer-events: none; }
.node path { fill: #fbfaf5; stroke: #173d2b; stroke-width: 1.6; pointer-events: none; }
.node.close path { fill: #7cc79c; }
</style>
