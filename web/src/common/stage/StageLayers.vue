<script setup lang="ts">
import { computed, ref, toRef } from 'vue'

import type { Format, Outline } from '../../api/client'
import { useDocument } from '../document'
import { droppedFiles } from '../drop'
import { usePockets } from '../pockets'
import { useSelection } from '../selection'
import { useTransient } from '../transient'
import { useSeen } from './seen'

/** The layers on the picture: the pockets' seams and labels, to be picked and dropped on. */
const props = defineProps<{
  outlines: Outline[]
  format: Format
  k: number
  size: { w: number; h: number }
  dropping: boolean
  /** What a press on any layer does, at the bench; layers then lie as they are painted, and what is locked takes no pointer. At the desk pockets alone are pressed, to pick them. */
  grip?: (e: PointerEvent, layer: string) => void
  /** The layers that can be pressed; all, where it is not said. */
  within?: (layer: string) => boolean
}>()
const emit = defineEmits<{ enter: [string, MouseEvent?]; files: [string, File[]] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const pockets = usePockets()

const lines = computed(() => new Map(doc.face!.layers.map((y) => [y.id, y])))
const isGroup = (o: Outline) => !!lines.value.get(o.layer)?.holds
/** At the bench the picture alone is seen while something is dragged: seams that hide behind layers take long to draw. */
const bare = computed(() => !!props.grip && !!transient.op)
const offered = computed(() => new Set(pockets.list.map((p) => p.id)))
/** Pockets alone have seams; other layers only hide what lies below them. */
const seams = computed(() => (bare.value ? [] : props.outlines.map((o, i) => ({ o, i })).filter(({ o }) => offered.value.has(o.pocket))))
const seen = useSeen(toRef(props, 'outlines'))
/** The shape of a layer on the stage: where it is seen through mattes, else its box. */
const shape = (o: Outline) => (o.cut && seen.value.has(o.layer) ? 'path' : o.quad ? 'polygon' : 'rect')
/**
 * What the pointer takes: the smaller lies on the larger, whichever is painted
 * first, so that nothing is out of reach; a pocket counts as half as large. What is
 * seen through mattes lies on all of them: there it is known what the pointer is on.
 */
const hits = computed(() => {
  const area = (o: Outline) => o.box.w * o.box.h * (o.pocket ? 0.5 : 1)
  if (props.grip) return props.outlines.map((o, i) => ({ o, i })).filter(({ o }) => !isGroup(o) && o.opacity > 0.01 && o.box.w > 0.5 && o.box.h > 0.5 && (!props.within || props.within(o.layer)))
  const rank = (o: Outline) => (shape(o) === 'path' ? 1 : 0)
  return props.outlines.map((o, i) => ({ o, i })).filter(({ o }) => offered.value.has(o.pocket) && o.opacity > 0.01 && o.box.w > 2 && o.box.h > 2).sort((a, b) => rank(a.o) - rank(b.o) || area(b.o) - area(a.o) || a.i - b.i)
})
const picked = computed(() => props.outlines.find((o) => o.layer === selection.layer))
const hiders = (i: number) => {
  const o = props.outlines[i]!.box
  return props.outlines.slice(i + 1).filter((u) => u.hides && u.box.x < o.x + o.w && u.box.x + u.box.w > o.x && u.box.y < o.y + o.h && u.box.y + u.box.h > o.y)
}

/** The size of a sewn label, nearly. */
const TAG = { w: 96, h: 20 }
/** Where a pocket's label goes: the first corner that no pocket above covers; small pockets wear it outside. */
function label(o: Outline, i: number) {
  const z = props.k
  const box = (o.cut && seen.value.get(o.layer)?.box) || o.box
  const b = { x: box.x * z, y: box.y * z, w: box.w * z, h: box.h * z }
  if (b.h < 120 || b.w < TAG.w + 20) return { left: `${b.x + b.w / 2}px`, top: `${b.y + b.h + 4}px`, transform: 'translateX(-50%)' }
  const x0 = Math.max(0, b.x) + 12
  const y0 = Math.max(0, b.y) + 12
  const x1 = Math.min(props.size.w, b.x + b.w) - 12 - TAG.w
  const y1 = Math.min(props.size.h, b.y + b.h) - 12 - TAG.h
  const above = props.outlines.slice(i + 1)
  const free = ([x, y]: [number, number]) =>
    above.every((u) => u.box.x * z - 24 > x + TAG.w || (u.box.x + u.box.w) * z + 24 < x || u.box.y * z - 24 > y + TAG.h || (u.box.y + u.box.h) * z + 24 < y)
  const corners: [number, number][] = [[x0, y0], [x1, y0], [x0, y1], [x1, y1]]
  const [x, y] = corners.find(free) ?? corners[0]!
  return x === x1 ? { right: `${props.size.w - x1 - TAG.w}px`, top: `${y}px` } : { left: `${x}px`, top: `${y}px` }
}
/** The seam runs a little inside the pocket's edge. */
function seam(o: Outline) {
  const d = Math.min(5 / props.k, o.box.w / 4, o.box.h / 4)
  return { x: o.box.x + d, y: o.box.y + d, width: o.box.w - 2 * d, height: o.box.h - 2 * d, rx: Math.max(2 / props.k, o.radius - d) }
}

/** Where it is, as one word. */
const placed = (o: Outline) => (shape(o) === 'path' ? seen.value.get(o.layer)!.d : o.quad ? points(o) : `${o.box.x} ${o.box.y} ${o.box.w} ${o.box.h} ${o.radius}`)
const points = (o: Outline) => (o.quad ?? []).map((p) => `${p.x},${p.y}`).join(' ')

/** A press does what the bench says, or selects the pocket. */
function press(e: PointerEvent, id: string) {
  if (e.button !== 0 || selection.framing) return
  if (props.grip) return props.grip(e, id)
  selection.layer = id
}

const over = ref('')
async function drop(e: DragEvent, pocket: string) {
  over.value = ''
  if (!e.dataTransfer) return
  const files = await droppedFiles(e.dataTransfer)
  if (files.length) emit('files', pocket, files)
}
</script>

<template>
  <svg class="outlines" :viewBox="`0 0 ${format.width} ${format.height}`" :class="{ quietly: selection.framing }">
    <!-- While something is dragged those that stay where they are are left alone. -->
    <component :is="shape(o)" v-for="{ o } in hits" :key="o.layer" v-memo="[shape(o), placed(o), o.pocket, pockets.name(o.pocket), grip, dropping, lines.get(o.layer)?.name, selection.layer === o.layer, selection.framing]" class="hit" :class="{ plain: !o.pocket, still: grip }"
      v-bind="shape(o) === 'path' ? { d: seen.get(o.layer)!.d } : o.quad ? { points: points(o) } : { x: o.box.x, y: o.box.y, width: o.box.w, height: o.box.h, rx: o.radius }" :pointer-events="dropping && !o.pocket ? 'none' : 'all'"
      :data-pocket="o.pocket || undefined" :data-hit="o.layer" :tabindex="grip ? undefined : o.pocket ? 0 : -1" role="button" :aria-label="o.pocket ? `Pocket ${pockets.name(o.pocket)}` : `Layer ${lines.get(o.layer)?.name}`" :aria-pressed="selection.layer === o.layer"
      @pointerdown="press($event, o.layer)" @focus="!grip && (selection.layer = o.layer)" @dblclick="emit('enter', o.pocket, $event)"
      @dragenter.prevent="over = o.pocket" @dragover.prevent.stop="over = o.pocket" @dragleave="over = ''" @drop.prevent.stop="o.pocket && drop($event, o.pocket)" />
    <g v-for="{ o, i } in seams" :key="o.layer" class="seam">
      <mask v-if="hiders(i).length" :id="`hidden-${i}`" maskUnits="userSpaceOnUse" x="-10%" y="-10%" width="120%" height="120%">
        <rect x="-10%" y="-10%" width="120%" height="120%" fill="#fff" />
        <component :is="u.quad ? 'polygon' : 'rect'" v-for="u in hiders(i)" :key="u.layer" v-bind="u.quad ? { points: points(u) } : { x: u.box.x, y: u.box.y, width: u.box.w, height: u.box.h, rx: u.radius }" fill="#000" />
      </mask>
      <component :is="shape(o)" v-for="kind in ['under', 'sewn']" :key="kind" v-bind="shape(o) === 'path' ? { d: seen.get(o.layer)!.d } : o.quad ? { points: points(o) } : seam(o)" :mask="hiders(i).length && selection.layer !== o.layer ? `url(#hidden-${i})` : undefined"
        :class="[kind, { on: selection.layer === o.layer, over: kind === 'sewn' && over === o.pocket, gone: o.opacity <= 0.01 }]" />
    </g>
    <g v-if="picked && !grip" class="chosen" data-test="chosen">
      <path v-for="(c, i) in picked.quad ?? [[0, 0], [1, 0], [1, 1], [0, 1]].map((c) => ({ x: picked!.box.x + c[0]! * picked!.box.w, y: picked!.box.y + c[1]! * picked!.box.h }))" :key="i" class="tack" :transform="`translate(${c.x} ${c.y}) scale(${1 / k})`" d="M-5-5 5 5M5-5-5 5" />
    </g>
  </svg>
  <template v-if="!selection.framing">
    <span v-for="{ o, i } in seams" v-show="o.box.x < format.width - 40 && o.box.y < format.height - 30 && o.box.x + o.box.w > 60 && o.box.y + o.box.h > 40 && o.opacity > 0.1"
      :key="o.layer" class="tag" :class="{ on: selection.layer === o.layer, over: over === o.pocket }" :style="label(o, i)" @pointerdown="press($event, o.layer)" @dblclick="emit('enter', o.pocket, $event)"
      @dragenter.prevent="over = o.pocket" @dragover.prevent.stop="over = o.pocket" @dragleave="over = ''" @drop.prevent.stop="drop($event, o.pocket)">{{ pockets.name(o.pocket) }}</span>
  </template>
</template>

<style scoped>
.outlines { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
.hit { fill: transparent; fill-rule: evenodd; cursor: pointer; outline: none; touch-action: none; }
.hit.plain:not(.still):hover { stroke: rgba(255, 255, 255, 0.75); stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.hit:focus-visible { stroke: #7cc79c; stroke-width: 4; vector-effect: non-scaling-stroke; }
.gone { opacity: 0; }
.under, .sewn { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; stroke-linecap: round; }
.under { stroke: rgba(28, 34, 31, 0.4); stroke-width: 3.2; stroke-dasharray: 6 7; }
.sewn { stroke: #fbfaf5; stroke-width: 1.8; stroke-dasharray: 6 7; }
.sewn.on { stroke: #7cc79c; stroke-width: 2.4; }
.under.on { stroke: #173d2b; stroke-width: 4.4; }
.sewn.over { stroke: #ffe9b8; stroke-width: 3; animation: run 0.6s linear infinite; }
@keyframes run { to { stroke-dashoffset: -26; } }
.tack { pointer-events: none; stroke: #7cc79c; stroke-width: 2.4; stroke-linecap: round; fill: none; paint-order: stroke; }
.quietly .sewn:not(.on), .quietly .under:not(.on) { opacity: 0.25; }
.tag { position: absolute; background: var(--linen-raised); color: var(--ink); font-size: 11.5px; font-weight: 600; padding: 1px 8px; border-radius: 3px; cursor: pointer; touch-action: none; user-select: none; white-space: nowrap;
  background-image: repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px), repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px);
  background-size: 1px calc(100% - 4px); background-position: 3px 2px, calc(100% - 3px) 2px; background-repeat: no-repeat; }
.tag.over { background-color: #ffe9b8; }
.tag.on { background-color: var(--ivy-wash); color: var(--ivy-deep); }
</style>
