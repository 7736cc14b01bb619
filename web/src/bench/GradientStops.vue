<script setup lang="ts">
import { IconPlus, IconTrash } from '@tabler/icons-vue'
import { computed, ref } from 'vue'

import type { Shade } from '../api/client'
import ColourField from '../common/ColourField.vue'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'
import GradientStrip from '../common/GradientStrip.vue'
import NumberField from '../common/NumberField.vue'
import { useTransient } from '../common/transient'
import { useActs } from './acts'

/**
 * The stops of a gradient on a strip: dragged along it, added by a press where there is none, taken out by Delete, each
 * with its colour. `path` is whose they are: `gradients/ID` or `layers/ID`.
 */
const props = defineProps<{ path: string; stops: Shade[]; name: string }>()
const doc = useDocument()
const transient = useTransient()
const { act } = useActs()
const drag = useDrag()
const strip = ref<HTMLElement>()
const chosen = ref('')
/** Stops on their way: a new one has no id yet. */
type Stop = Omit<Shade, 'id'> & { id?: string }
const way = ref<Stop[] | null>(null)
const shown = computed(() => [...(way.value ?? props.stops)].sort((a, b) => a.at - b.at))
const one = computed(() => (way.value ?? props.stops).find((s) => s.id === chosen.value) ?? null)

const op = (stops: Stop[]) => act({ kind: 'stops', path: props.path, part: stops.map(({ id, at, colour }) => ({ ...(id ? { id } : {}), at, colour })), layers: [] })
const changed = (id: string, with_: Partial<Shade>): Stop[] => props.stops.map((s) => (s.id === id ? { ...s, ...with_ } : s))
function draft(stops: Stop[]) {
  way.value = stops
  transient.show(op(stops))
}
async function keep(stops: Stop[]) {
  way.value = stops
  await transient.keep(op(stops))
  way.value = null
}
function press(stops: Stop[]) {
  transient.soon(op(stops))
}
function cancel() {
  way.value = null
  transient.hide()
}
const shareAt = (x: number) => {
  const r = strip.value!.getBoundingClientRect()
  return Math.round(Math.max(0, Math.min(1, (x - r.x) / r.width)) * 1000) / 1000
}
function take(e: PointerEvent, s: Stop) {
  chosen.value = s.id!
  const grip = e.clientX - (strip.value!.getBoundingClientRect().x + s.at * strip.value!.clientWidth)
  drag(e, { slack: 2, move: (d) => draft(changed(s.id!, { at: shareAt(d.x - grip) })), end: (d) => keep(changed(s.id!, { at: shareAt(d.x - grip) })), cancel })
}
/** What the strip shows at a place, mixed as it is drawn. */
function between(at: number): string {
  const i = shown.value.findIndex((s) => s.at > at)
  const a = shown.value[i < 0 ? shown.value.length - 1 : Math.max(0, i - 1)]!
  const b = shown.value[i < 0 ? shown.value.length - 1 : i]!
  const k = b.at > a.at ? Math.max(0, Math.min(1, (at - a.at) / (b.at - a.at))) : 0
  const parts = (c: string) => [1, 3, 5, 7].map((n) => (c.length > n ? Number.parseInt(c.slice(n, n + 2), 16) : 255))
  const [p, q] = [parts(a.shows), parts(b.shows)]
  const alpha = p[3]! + (q[3]! - p[3]!) * k
  const mixed = [0, 1, 2].map((n) => (alpha ? (p[n]! * p[3]! + (q[n]! * q[3]! - p[n]! * p[3]!) * k) / alpha : p[n]!))
  return `#${[...mixed, ...(alpha < 254.5 ? [alpha] : [])].map((v) => Math.round(v).toString(16).padStart(2, '0')).join('')}`
}
function add(at: number) {
  const colour = between(at)
  const taken = new Set(props.stops.map((s) => s.id))
  void keep([...props.stops, { at, colour, shows: colour }]).then(() => (chosen.value = props.stops.find((s) => !taken.has(s.id))?.id ?? ''))
}
/** In the middle of the widest gap. */
function addAny() {
  const all = [0, ...shown.value.map((s) => s.at), 1]
  let best = 0
  for (let i = 1; i < all.length - 1; i++) if (all[i + 1]! - all[i]! > all[best + 1]! - all[best]!) best = i
  add(Math.round(((all[best]! + all[best + 1]!) / 2) * 1000) / 1000)
}
function remove() {
  if (props.stops.length < 3 || !one.value) return
  const left = props.stops.filter((s) => s.id !== chosen.value)
  chosen.value = ''
  void keep(left)
}
function key(e: KeyboardEvent, s: Stop) {
  const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[e.key]
  if (e.key === 'Delete' || e.key === 'Backspace') remove()
  else if (by) {
    const like = op(props.stops)
    const now = ((transient.wished(like) as { part?: Stop[] } | null)?.part ?? props.stops).find((x) => x.id === s.id)!.at
    const at = Math.round(Math.max(0, Math.min(1, now + by * (e.shiftKey ? 10 : 1))) * 1000) / 1000
    press(changed(s.id!, { at }))
  } else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="gradient" :data-gradient="path">
    <div class="top">
      <div ref="strip" class="bed">
        <GradientStrip :stops="shown" />
        <button class="plain" tabindex="-1" :aria-label="`${name}: add a stop here`" title="Press to add a stop" @click="add(shareAt($event.clientX))" />
        <button v-for="(s, i) in shown" :key="s.id ?? 'new'" class="stop" :class="{ on: s.id === chosen }" :style="{ left: `${s.at * 100}%` }" :aria-pressed="s.id === chosen" :aria-label="`Stop ${i + 1} of ${name}, at ${Math.round(s.at * 100)}%`" title="Drag along; arrows by 1%; Delete takes it out" :data-stop="s.id" @pointerdown="take($event, s)" @click="chosen = s.id ?? ''" @keydown="key($event, s)"><i :style="{ background: s.shows }" /></button>
      </div>
      <button class="icon-button" title="Add a stop in the widest gap" :aria-label="`Add a stop to ${name}`" data-test="stop-add" @click="addAny"><IconPlus :size="15" /></button>
    </div>
    <div class="row">
      <template v-if="one">
        <NumberField class="at" label="" :name="`Stop of ${name}: at`" unit="%" :value="one.at * 100" :min="0" :max="100" :places="1" @draft="draft(changed(chosen, { at: $event / 100 }))" @press="press(changed(chosen, { at: $event / 100 }))" @change="keep(changed(chosen, { at: $event / 100 }))" @cancel="cancel" />
        <ColourField class="paint" :label="`Stop of ${name}: colour`" :value="one.shows" clear :colours="doc.draft?.colours" :named="one.colour.startsWith('colour:') ? one.colour.slice(7) : ''" @draft="draft(changed(chosen, { colour: $event, shows: $event }))" @change="keep(changed(chosen, { colour: $event, shows: doc.draft?.colours.find((c) => `colour:${c.id}` === $event)?.value ?? $event }))" @cancel="cancel" />
        <button class="icon-button" :disabled="stops.length < 3" :title="stops.length < 3 ? 'A gradient has 2 stops or more' : 'Take the stop out'" :aria-label="`Take the stop out of ${name}`" data-test="stop-off" @click="remove"><IconTrash :size="14" /></button>
      </template>
      <span v-else class="quiet small">Press a stop to set it, the strip to add one.</span>
    </div>
  </div>
</template>

<style scoped>
.gradient { display: grid; gap: 12px; padding-bottom: 2px; min-width: 0; grid-template-columns: minmax(0, 1fr); }
.top { display: flex; gap: 4px; align-items: start; }
.bed { position: relative; flex: 1; min-width: 0; margin: 0 7px; }
.plain { position: absolute; inset: 0; opacity: 0; cursor: copy; border: 0; }
.stop { position: absolute; top: 12px; width: 14px; height: 20px; margin-left: -7px; padding: 2px; border: 1px solid var(--rule-strong); border-radius: 7px 7px 4px 4px; background: #fffefa; cursor: ew-resize; touch-action: none; }
.stop i { display: block; width: 100%; height: 100%; border-radius: 4px; }
.stop.on { border-color: var(--ivy); box-shadow: 0 0 0 1.5px var(--ivy); z-index: 1; }
.row { display: flex; gap: 6px; align-items: center; min-height: 30px; }
.at { width: 66px; flex: none; }
.paint { flex: 1; min-width: 0; }
.gradient .icon-button { width: 24px; height: 24px; flex: none; }
.small { font-size: 12px; }
</style>
