<script setup lang="ts">
import { computed, useId } from 'vue'

import type { GuideMark, GuideSet } from '../../api/client'
import { useDrag } from '../drag'
import { isZone, useGuides } from '../guides'

/** Guides over a picture. Those of the set that is adjusted are dragged by their lines, unless the picture is only looked at. */
const props = defineProps<{ canvas: { width: number; height: number }; k: number; fixed?: boolean }>()
const cover = useId()
const guides = useGuides()
const drag = useDrag()
const sets = computed(() => guides.seen(props.canvas))
const w = computed(() => props.canvas.width * props.k)
const h = computed(() => props.canvas.height * props.k)

interface Shape {
  key: string
  set: GuideSet
  mark: GuideMark
  d: string
  fade: number
  colour: string
  label: string
  x: number
  y: number
}
const n = (v: number) => Math.round(v * props.k * 100) / 100
const shapes = computed<Shape[]>(() =>
  sets.value.flatMap((set) =>
    set.laid.marks.map((m, i) => {
      const mark = set.marks.find((x) => x.id === m.id)!
      const [l, t, r, b] = m.box.map(n) as [number, number, number, number]
      const d = isZone(mark) ? `M${l} ${t}H${r}V${b}H${l}Z` : mark.kind === 'upright' ? `M${n(m.at)} 0V${h.value}` : `M0 ${n(m.at)}H${w.value}`
      // Names stand where they are not on one another's: of what is covered in its middle, of the rest in a row at the foot.
      const [x, y] = mark.kind === 'covered' ? [(l + r) / 2, (t + b) / 2 + 4] : mark.kind === 'safe' ? [r - 10 - i * 70, b + 4] : mark.kind === 'upright' ? [n(m.at), h.value - 8 - (i % 3) * 14] : [w.value - 44, n(m.at) - 5]
      return { key: `${set.id} ${m.id} ${i}`, set, mark, d, fade: mark.fade || set.fade, colour: mark.colour || set.colour || '', label: mark.name, x, y }
    }),
  ),
)
/** The lines that can be dragged: whole ones, and edges of zones. */
const grips = computed(() => {
  const set = sets.value.find((s) => s.id === guides.adjusting)
  if (!set || props.fixed) return []
  return set.laid.marks.flatMap((m) => {
    const mark = set.marks.find((x) => x.id === m.id)!
    if (!isZone(mark)) return [{ set, mark, edge: -1, upright: mark.kind === 'upright', x: mark.kind === 'upright' ? n(m.at) : 0, y: mark.kind === 'upright' ? 0 : n(m.at), long: mark.kind === 'upright' ? h.value : w.value }]
    const [l, t, r, b] = m.box.map(n) as [number, number, number, number]
    return [0, 1, 2, 3].map((edge) => ({ set, mark, edge, upright: edge % 2 === 0, x: edge === 2 ? r : l, y: edge === 3 ? b : t, long: edge % 2 ? r - l : b - t }))
  })
})
type Grip = (typeof grips.value)[number]

function moved(g: Grip, by: number): GuideMark {
  const side = g.upright ? props.canvas.width : props.canvas.height
  const whole = (share: number) => Math.max(0, Math.min(side, Math.round(share * side + by))) / side
  if (g.edge < 0) return { ...g.mark, at: whole(g.mark.at ?? 0) }
  const box = [...(g.mark.box ?? [0, 0, 1, 1])]
  const other = box[(g.edge + 2) % 4]!
  box[g.edge] = g.edge < 2 ? Math.min(whole(box[g.edge]!), other - 1 / side) : Math.max(whole(box[g.edge]!), other + 1 / side)
  return { ...g.mark, box }
}
async function keep(g: Grip, mark: GuideMark) {
  guides.way = { set: g.set.id, mark }
  await guides.change(g.set.id, (s) => (s.marks = s.marks.map((m) => (m.id === mark.id ? mark : m))))
  guides.way = null
}
function take(e: PointerEvent, g: Grip) {
  e.stopPropagation()
  const by = (d: { dx: number; dy: number }) => (g.upright ? d.dx : d.dy) / props.k
  drag(e, { slack: 2, move: (d) => (guides.way = { set: g.set.id, mark: moved(g, by(d)) }), end: (d) => keep(g, moved(g, by(d))), cancel: () => (guides.way = null) })
}
const stills = computed(() => sets.value.filter((s) => s.still && s.laid.still))
</script>

<template>
  <div v-if="sets.length" class="guides" data-test="guides-over" aria-hidden="true">
    <img v-for="s in stills" :key="s.id" class="still" :src="`/api/media/${s.still!.media}/thumb?side=1600`" alt="" draggable="false" :style="{ left: `${s.laid.still![0]! * k}px`, top: `${s.laid.still![1]! * k}px`, width: `${s.laid.still![2]! * k}px`, height: `${s.laid.still![3]! * k}px`, opacity: s.still!.fade }" />
    <svg :width="w" :height="h" :viewBox="`0 0 ${w} ${h}`">
      <defs><pattern :id="cover" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="9" height="9" :fill="guides.tones[1]" opacity="0.34" /><rect width="3" height="9" :fill="guides.tones[0]" opacity="0.5" /></pattern></defs>
      <g v-for="s in shapes" :key="s.key" :opacity="s.fade" :data-mark="`${s.set.id}/${s.mark.id}`">
        <path v-if="s.mark.kind === 'covered'" :d="s.d" :fill="`url(#${cover})`" />
        <path v-if="!s.colour" :d="s.d" class="under" fill="none" :stroke="guides.tones[1]" />
        <path :d="s.d" class="line" fill="none" :class="s.mark.kind" :stroke="s.colour || guides.tones[0]" />
        <text v-if="w > 200" :text-anchor="s.mark.kind === 'safe' ? 'end' : 'middle'" :x="s.x" :y="s.y" :fill="guides.tones[0]" :stroke="guides.tones[1]">{{ s.label }}</text>
      </g>
    </svg>
    <div v-for="g in grips" :key="`${g.mark.id} ${g.edge}`" class="grip" :class="{ upright: g.upright }" :data-guide-grip="`${g.mark.id}${g.edge < 0 ? '' : ` ${['left', 'top', 'right', 'bottom'][g.edge]}`}`" :style="{ left: `${g.x}px`, top: `${g.y}px`, [g.upright ? 'height' : 'width']: `${g.long}px` }" @pointerdown="take($event, g)" />
  </div>
</template>

<style scoped>
.guides { position: absolute; inset: 0; pointer-events: none; }
svg { position: absolute; inset: 0; overflow: visible; }
.under { stroke-width: 3; }
.line { stroke-width: 1.2; }
.line.safe { stroke-width: 1.4; }
.still { position: absolute; object-fit: fill; }
text { font: 600 11px Figtree, sans-serif; paint-order: stroke; stroke-width: 3px; stroke-linejoin: round; }
.grip { position: absolute; height: 11px; margin-top: -5px; cursor: ns-resize; pointer-events: auto; touch-action: none; }
.grip.upright { width: 11px; height: auto; margin: 0 0 0 -5px; cursor: ew-resize; }
.grip:hover { background: rgba(255, 254, 250, 0.35); }
</style>
