<script setup lang="ts">
import { IconArrowBack, IconTrash } from '@tabler/icons-vue'
import { NButton, NDropdown, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'

import type { GuideMark } from '../api/client'
import { useMediaStore } from '../media/media'
import StorePicker from '../media/StorePicker.vue'
import ColourField from './ColourField.vue'
import { isZone, useGuides, type Kept } from './guides'
import NumberField from './NumberField.vue'
import TextField from './TextField.vue'

/** The set of guides that is adjusted: what it is called and for, how its lines look, and where each of them lies. */
const props = defineProps<{ canvas: { width: number; height: number } }>()
const guides = useGuides()
const set = computed(() => guides.laid(props.canvas).find((s) => s.id === guides.adjusting) ?? null)
const change = (f: (s: Kept) => void) => void guides.change(guides.adjusting, f)
const mark = (id: string, with_: Partial<GuideMark>) => change((s) => (s.marks = s.marks.map((m) => (m.id === id ? { ...m, ...with_ } : m))))

const edges = ['left', 'top', 'right', 'bottom'] as const
const side = (m: GuideMark, edge: number) => ((edge < 0 ? m.kind === 'upright' : edge % 2 === 0) ? props.canvas.width : props.canvas.height)
function put(m: GuideMark, edge: number, px: number) {
  const share = Math.max(0, Math.min(1, px / side(m, edge)))
  if (edge < 0) return mark(m.id, { at: share })
  const box = [...m.box!]
  box[edge] = share
  if (box[0]! < box[2]! && box[1]! < box[3]!) mark(m.id, { box })
}
const px = (id: string, edge: number) => {
  const l = set.value!.laid.marks.find((x) => x.id === id)!
  return edge < 0 ? l.at : l.box[edge]!
}
const open = ref('')
const kinds = [
  ['upright', 'Upright line'], ['level', 'Level line'], ['safe', 'Safe zone'], ['covered', 'Covered zone'],
] as const
const kindOf = Object.fromEntries(kinds)
function add(kind: (typeof kinds)[number][0]) {
  change((s) => {
    let n = s.marks.length + 1
    while (s.marks.some((m) => m.id === `m${n}`)) n++
    s.marks.push({ id: `m${n}`, name: kindOf[kind]!, kind, ...(kind === 'upright' || kind === 'level' ? { at: 0.5 } : { box: [0.2, 0.2, 0.8, 0.8] }) })
  })
}
function reset(id: string) {
  const home = guides.home(set.value!, id)
  if (home) mark(id, { at: home.at, box: home.box })
}
const picking = ref(false)
void useMediaStore().load()
</script>

<template>
  <div v-if="set" class="guides-panel" data-test="guides-panel">
    <div class="head"><h2>Guides</h2><NButton size="tiny" type="primary" data-test="guides-done" @click="guides.adjusting = ''">Done</NButton></div>
    <p v-if="!set.revision" class="quiet small">Ready-made. What you change makes a copy of your own, which is kept and can be laid over any picture.</p>
    <p v-if="set.about" class="quiet small">{{ set.about }}</p>
    <p v-if="set.laid.note" class="quiet small">{{ set.laid.note }}.</p>
    <label class="line"><span>Name</span><TextField size="tiny" :key="set.id" :value="set.name" :most="120" needed label="Name of the guides" @change="(v) => change((s) => (s.name = v.trim()))" /></label>
    <div class="line"><span>For</span><NSelect size="tiny" :value="set.shape ?? ''" :options="[{ value: '', label: 'every canvas' }, { value: 'wide', label: 'wide canvases' }, { value: 'square', label: 'square ones' }, { value: 'tall', label: 'upright ones' }]" aria-label="For which canvases" @update:value="(v: '' | 'wide' | 'square' | 'tall') => change((s) => (s.shape = v))" /></div>
    <div class="line"><span>Lines</span><NSelect size="tiny" :value="set.colour ? 'own' : ''" :options="[{ value: '', label: 'two tones, seen on any picture' }, { value: 'own', label: 'a colour' }]" aria-label="How lines look" @update:value="(v: string) => change((s) => (s.colour = v ? '#e7a13a' : undefined))" /></div>
    <div v-if="set.colour" class="line"><span /><ColourField label="Colour of the lines" :value="set.colour" @change="(v: string) => change((s) => (s.colour = v.slice(0, 7)))" /></div>
    <div class="grid">
      <NumberField label="Strength" unit="%" :value="set.fade * 100" :min="5" :max="100" :places="0" @change="change((s) => (s.fade = $event / 100))" @press="change((s) => (s.fade = $event / 100))" />
      <NumberField label="Longest" unit="s" :value="set.longest ?? 0" :min="0" :max="86400" :places="1" :reset="0" note="0 is no limit" @change="change((s) => (s.longest = $event || undefined))" @press="change((s) => (s.longest = $event || undefined))" />
    </div>
    <div class="line"><span>Picture</span><span class="row"><button v-if="set.still" class="pick" data-test="guide-still" @click="picking = true">{{ set.stillName || 'missing' }}</button><NButton v-else size="tiny" data-test="guide-still" @click="picking = true">A still picture to align to</NButton><button v-if="set.still" class="icon-button" aria-label="Take the picture away" title="Take it away" @click="change((s) => (s.still = undefined))"><IconTrash :size="14" /></button></span></div>
    <NumberField v-if="set.still" label="Its strength" unit="%" :value="set.still.fade * 100" :min="5" :max="100" :places="0" @change="change((s) => s.still && (s.still.fade = $event / 100))" @press="change((s) => s.still && (s.still.fade = $event / 100))" />
    <h3 class="heading">Lines and zones</h3>
    <div v-for="m in set.marks" :key="m.id" class="mark" :data-guide-mark="m.id">
      <div class="row">
        <TextField size="tiny" class="name" :value="m.name" :most="120" needed :title="kindOf[m.kind]" :label="`Name of ${m.name}`" @change="(v) => mark(m.id, { name: v.trim() })" />
        <button v-if="set.moved.includes(m.id)" class="icon-button" :aria-label="`Put ${m.name} back`" title="Back to where it was" :data-guide-reset="m.id" @click="reset(m.id)"><IconArrowBack :size="14" /></button>
        <button class="swatch" :class="{ two: !m.colour && !set.colour }" :style="{ background: m.colour || set.colour || undefined }" :aria-label="`How ${m.name} looks`" :aria-expanded="open === m.id" title="Its own colour and strength" @click="open = open === m.id ? '' : m.id" />
        <button class="icon-button" :aria-label="`Remove ${m.name}`" title="Remove" @click="change((s) => (s.marks = s.marks.filter((x) => x.id !== m.id)))"><IconTrash :size="14" /></button>
      </div>
      <div class="grid" :class="{ one: !isZone(m) }">
        <template v-if="isZone(m)"><NumberField v-for="(e, i) in edges" :key="e" :label="e" :name="`${m.name}, ${e}`" unit="px" :value="px(m.id, i)" :min="0" :max="side(m, i)" :places="0" @change="put(m, i, $event)" @press="put(m, i, $event)" /></template>
        <NumberField v-else :label="m.kind === 'upright' ? 'x' : 'y'" :name="m.name" unit="px" :value="px(m.id, -1)" :min="0" :max="side(m, -1)" :places="0" @change="put(m, -1, $event)" @press="put(m, -1, $event)" />
      </div>
      <div v-if="open === m.id" class="grid">
        <ColourField :label="`Colour of ${m.name}`" :value="m.colour || set.colour || '#fffefa'" @change="(v: string) => mark(m.id, { colour: v.slice(0, 7) })" />
        <NumberField label="" :name="`Strength of ${m.name}`" unit="%" :value="(m.fade || set.fade) * 100" :min="5" :max="100" :places="0" @change="mark(m.id, { fade: $event / 100 })" @press="mark(m.id, { fade: $event / 100 })" />
        <NButton v-if="m.colour || m.fade" size="tiny" @click="mark(m.id, { colour: undefined, fade: undefined })">As the set</NButton>
      </div>
    </div>
    <div class="row"><NDropdown trigger="click" :options="kinds.map(([key, label]) => ({ key, label }))" @select="add"><NButton size="tiny" data-test="add-guide">Add …</NButton></NDropdown>
      <NButton v-if="set.revision" size="tiny" quaternary data-test="remove-guides" @click="guides.remove(set)"><template #icon><IconTrash :size="14" /></template>Remove the set</NButton></div>
    <StorePicker v-model:show="picking" title="A still picture to align to" :takes="(kind) => kind === 'picture'" @use="(m) => { picking = false; change((s) => (s.still = { media: m.hash, fade: s.still?.fade ?? 0.5 })) }" @files="picking = false" />
  </div>
</template>

<style scoped>
.guides-panel { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); }
.head { display: flex; justify-content: space-between; align-items: center; }
h2 { font-size: 15px; margin: 0; }
.small { font-size: 12px; margin: 0; }
.line { display: grid; grid-template-columns: 56px minmax(0, 1fr); align-items: center; }
.line > span:first-child { color: var(--ink-quiet); font-size: 12px; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 5px 8px; align-items: center; }
.grid.one { grid-template-columns: 1fr; }
.row { display: flex; gap: 6px; align-items: center; min-width: 0; }
.mark { display: grid; gap: 4px; padding-bottom: 6px; }
.name { flex: 1; min-width: 0; }
.icon-button { width: 24px; height: 24px; flex: none; }
.swatch { flex: none; width: 22px; height: 20px; border: 1px solid var(--rule-strong); border-radius: 5px; cursor: pointer; padding: 0; }
.swatch.two { background: linear-gradient(135deg, #fffefa 50%, #14201a 50%); }
.pick { border: 0; background: none; padding: 0; color: var(--ivy-deep); font-weight: 600; cursor: pointer; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
