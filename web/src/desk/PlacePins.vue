<script setup lang="ts">
import { computed } from 'vue'

import type { Entry, EntryValue, Format } from '../api/client'
import { useDrag } from '../common/drag'
import { useEntries } from './entries'

/** The places that the sheet asks for, dragged on the picture itself. */
const props = defineProps<{ format: Format; k: number }>()
const { all, value, draft, press, set, cancel, toCue } = useEntries()
const drag = useDrag()

const places = computed(() => all.value.filter((e) => e.kind === 'place'))
const short = computed(() => Math.min(props.format.width, props.format.height))
const inShares = (e: Entry) => String((e.default as unknown[])[0]).endsWith('vmin')
/** px from the middle of the canvas. */
function at(e: Entry): [number, number] {
  const n = (value(e) as unknown[]).map((v) => Number.parseFloat(String(v)))
  const by = inShares(e) ? short.value / 100 : 1
  return [n[0]! * by, n[1]! * by]
}
/** A place as the entry has it, within its area, or on the canvas where it has none. */
function placed(e: Entry, x: number, y: number): EntryValue {
  const by = inShares(e) ? short.value / 100 : 1
  const [w, h] = [props.format.width / 2 / by, props.format.height / 2 / by]
  const area = e.area.length ? e.area : [-w, -h, w, h]
  const n = [x / by, y / by].map((v, i) => Math.min(area[i + 2]!, Math.max(area[i]!, Number(v.toFixed(inShares(e) ? 3 : 0)))))
  return inShares(e) ? (n.map((v) => `${v}vmin`) as unknown as number[]) : n
}
function take(ev: PointerEvent, e: Entry) {
  const [x, y] = at(e)
  const to = (d: { dx: number; dy: number; shift: boolean }) => {
    const [dx, dy] = d.shift ? (Math.abs(d.dx) > Math.abs(d.dy) ? [d.dx, 0] : [0, d.dy]) : [d.dx, d.dy]
    return placed(e, x + dx! / props.k, y + dy! / props.k)
  }
  toCue(e)
  drag(ev, { slack: 2, move: (d) => draft(e, to(d)), end: (d) => set(e, to(d)), cancel })
}
function key(ev: KeyboardEvent, e: Entry) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[ev.key]
  if (!by) return
  ev.preventDefault()
  ev.stopPropagation()
  const [x, y] = at(e)
  const far = ev.shiftKey ? 10 : 1
  press(e, placed(e, x + by[0]! * far, y + by[1]! * far))
}
const spot = (e: Entry) => ({ left: `${(props.format.width / 2 + at(e)[0]) * props.k}px`, top: `${(props.format.height / 2 + at(e)[1]) * props.k}px` })
</script>

<template>
  <button v-for="e in places" :key="e.id" class="pin" :style="spot(e)" :aria-label="`${e.label}: drag it, or use the arrows`" :title="`${e.label}: drag it; Shift keeps to one axis`" :data-place="e.id" @pointerdown.stop="take($event, e)" @keydown="key($event, e)"><i /><span>{{ e.label }}</span></button>
</template>

<style scoped>
.pin { position: absolute; transform: translate(-50%, -50%); width: 34px; height: 34px; border: 0; background: none; padding: 0; cursor: grab; touch-action: none; z-index: 4; }
.pin:active { cursor: grabbing; }
.pin i { position: absolute; inset: 8px; border-radius: 50%; background: #fffefa; box-shadow: 0 0 0 2px var(--ivy), 0 1px 5px rgba(0, 0, 0, 0.5); }
.pin i::before, .pin i::after { content: ''; position: absolute; background: repeating-linear-gradient(90deg, var(--ivy) 0 3px, transparent 3px 5px); height: 2px; left: 2px; right: 2px; top: 8px; }
.pin i::after { transform: rotate(90deg); }
.pin span { position: absolute; top: 34px; left: 50%; transform: translateX(-50%); background: var(--linen-raised); color: var(--ink); font-size: 11px; font-weight: 600; border-radius: 4px; padding: 1px 6px; white-space: nowrap; pointer-events: none; }
</style>
