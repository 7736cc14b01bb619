<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Format, Outline } from '../api/client'
import { droppedFiles } from '../lib/choose'
import { usePiece } from '../stores/piece'

/** The pockets on the picture: their seams and labels, to be picked and dropped on. */
const props = defineProps<{ outlines: Outline[]; format: Format; k: number; size: { w: number; h: number } }>()
const emit = defineEmits<{ enter: [string] }>()
const store = usePiece()

/** Pockets alone; shapes only hide what lies below them. */
const pockets = computed(() => props.outlines.map((o, i) => ({ o, i })).filter(({ o }) => o.pocket))
const hiders = (i: number) => {
  const o = props.outlines[i]!.box
  return props.outlines.slice(i + 1).filter((u) => u.opacity > 0.5 && u.box.x < o.x + o.w && u.box.x + u.box.w > o.x && u.box.y < o.y + o.h && u.box.y + u.box.h > o.y)
}
const pocketName = (id: string) => store.piece!.pockets.find((p) => p.id === id)?.name ?? id

/** The size of a sewn label, nearly. */
const TAG = { w: 96, h: 20 }
/** Where a pocket's label goes: the first corner that no pocket above covers; small pockets wear it outside. */
function label(o: Outline, i: number) {
  const z = props.k
  const b = { x: o.box.x * z, y: o.box.y * z, w: o.box.w * z, h: o.box.h * z }
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

const over = ref('')
async function drop(e: DragEvent, pocket: string) {
  over.value = ''
  if (!e.dataTransfer) return
  const { files, folder } = await droppedFiles(e.dataTransfer)
  if (files.length) void store.fill(pocket, files, folder)
}
</script>

<template>
  <svg class="outlines" :viewBox="`0 0 ${format.width} ${format.height}`" :class="{ quietly: store.framing }">
    <g v-for="{ o, i } in pockets" :key="o.layer">
      <mask v-if="hiders(i).length" :id="`hidden-${i}`" maskUnits="userSpaceOnUse" x="-10%" y="-10%" width="120%" height="120%">
        <rect x="-10%" y="-10%" width="120%" height="120%" fill="#fff" />
        <rect v-for="u in hiders(i)" :key="u.layer" :x="u.box.x" :y="u.box.y" :width="u.box.w" :height="u.box.h" :rx="u.radius" fill="#000" />
      </mask>
      <rect v-if="o.box.w > 2 && o.box.h > 2" class="hit" :x="o.box.x" :y="o.box.y" :width="o.box.w" :height="o.box.h" :rx="o.radius" :data-pocket="o.pocket"
        role="button" tabindex="0" :aria-label="`Pocket ${pocketName(o.pocket)}`" :aria-pressed="store.selected === o.pocket"
        @pointerdown="store.selected = o.pocket" @focus="store.selected = o.pocket" @dblclick="emit('enter', o.pocket)" @keydown.enter.stop.prevent="store.framing ? (store.framing = false) : emit('enter', o.pocket)"
        @dragenter.prevent="over = o.pocket" @dragover.prevent.stop="over = o.pocket" @dragleave="over = ''" @drop.prevent.stop="drop($event, o.pocket)" />
      <rect class="under" v-bind="seam(o)" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined" :class="{ on: store.selected === o.pocket }" />
      <rect class="sewn" v-bind="seam(o)" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined" :class="{ on: store.selected === o.pocket, over: over === o.pocket }" />
      <g v-if="store.selected === o.pocket" class="tacks" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined">
        <path v-for="(c, i) in [[0, 0], [1, 0], [1, 1], [0, 1]]" :key="i" :transform="`translate(${o.box.x + c[0]! * o.box.w} ${o.box.y + c[1]! * o.box.h}) scale(${1 / k})`" d="M-5-5 5 5M5-5-5 5" />
      </g>
    </g>
  </svg>
  <template v-if="!store.framing">
    <span v-for="{ o, i } in pockets" v-show="o.box.x < format.width - 40 && o.box.y < format.height - 30 && o.box.x + o.box.w > 60 && o.box.y + o.box.h > 40 && o.opacity > 0.1"
      :key="o.layer" class="tag" :class="{ on: store.selected === o.pocket }" :style="label(o, i)">{{ pocketName(o.pocket) }}</span>
  </template>
</template>

<style scoped>
.outlines { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
.hit { fill: transparent; cursor: pointer; outline: none; }
.under, .sewn { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; stroke-linecap: round; }
.under { stroke: rgba(28, 34, 31, 0.4); stroke-width: 3.2; stroke-dasharray: 6 7; }
.sewn { stroke: #fbfaf5; stroke-width: 1.8; stroke-dasharray: 6 7; }
.sewn.on { stroke: #7cc79c; stroke-width: 2.4; }
.under.on { stroke: #173d2b; stroke-width: 4.4; }
.hit:focus-visible ~ .sewn { stroke: #fff; stroke-width: 3; }
.sewn.over { stroke: #ffe9b8; stroke-width: 3; animation: run 0.6s linear infinite; }
@keyframes run { to { stroke-dashoffset: -26; } }
.tacks path { stroke: #7cc79c; stroke-width: 2.4; stroke-linecap: round; fill: none; paint-order: stroke; }
.quietly .sewn:not(.on), .quietly .under:not(.on) { opacity: 0.25; }
.tag { position: absolute; background: var(--linen-raised); color: var(--ink); font-size: 11.5px; font-weight: 600; padding: 1px 8px; border-radius: 3px; pointer-events: none; white-space: nowrap;
  background-image: repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px), repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px);
  background-size: 1px calc(100% - 4px); background-position: 3px 2px, calc(100% - 3px) 2px; background-repeat: no-repeat; }
.tag.on { background-color: var(--ivy-wash); color: var(--ivy-deep); }
</style>
