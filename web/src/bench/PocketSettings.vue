<script setup lang="ts">
import { IconHandFinger, IconX } from '@tabler/icons-vue'
import { NButton, NCheckbox, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import { api, ask } from '../api/client'
import { useDocument } from '../common/document'
import NumberField from '../common/NumberField.vue'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import TextField from '../common/TextField.vue'
import { useActs } from './acts'
import OfferButton from './OfferButton.vue'
import { useSheet } from './sheet'
import { useTool } from './tool'

/** What the designer says of a pocket: what it takes, what an editor may do in it, what it shows while it is empty. */
const doc = useDocument()
const selection = useSelection()
const pockets = usePockets()
const tool = useTool()
const { does, lines } = useActs()
const p = computed(() => pockets.pocket!)
const sheet = useSheet()
const filled = computed(() => sheet.drives(`pockets/${p.value.id}`))

const kinds = [
  ['picture', 'pictures'],
  ['footage', 'clips'],
  ['logo', 'marks'],
] as const
function takes(kind: string, on: boolean) {
  const next = kinds.map(([k]) => k as string).filter((k) => (k === kind ? on : p.value.kinds.includes(k)))
  if (next.length) void does({ kind: 'put', path: `pockets/${p.value.id}/kinds`, part: next })
}
const roles = computed(() => ({ transition: ['from', 'to'], frame: ['clip'] })[doc.draft!.purpose as string] ?? [])
const roleNames: Record<string, string> = { from: 'What it leads away from', to: 'What it leads to', clip: 'The clip it is put around' }

/** Limits by their names: what is free, and where one begins when it is set. */
const limits = computed(() => p.value.limits)
const bounds = [
  { name: 'pan', label: 'Shift', unit: '%', parts: ['x', 'y'], first: [0.1, 0.1], factor: 100, max: 400, tip: 'How far an editor may shift it, in shares of the pocket' },
  { name: 'zoom', label: 'Zoom', unit: '%', parts: ['from', 'to'], first: [1, 2], factor: 100, max: 2000, tip: 'Between which zooms an editor may choose' },
  { name: 'turn', label: 'Turn', unit: '°', parts: ['either way'], first: [10], factor: 1, max: 3600, tip: 'How far an editor may turn it' },
] as const
const given = (name: (typeof bounds)[number]['name']): number[] | null => {
  const v = limits.value[name]
  return v === undefined || v === null ? null : Array.isArray(v) ? v : [v]
}
function limit(name: string, value: readonly number[] | null) {
  const next: Record<string, unknown> = { ...limits.value }
  if (value) next[name] = name === 'turn' ? value[0] : value
  else delete next[name]
  void does({ kind: 'put', path: `pockets/${p.value.id}/limits`, part: Object.keys(next).length ? next : undefined })
}
function bound(b: (typeof bounds)[number], i: number, shown: number) {
  const v = [...given(b.name)!]
  v[i] = shown / b.factor
  // The least is never above the greatest.
  if (b.name === 'zoom') v[1 - i] = i === 0 ? Math.max(v[0]!, v[1]!) : Math.min(v[0]!, v[1]!)
  limit(b.name, v)
}

const best = ref<{ w: number; h: number } | null>(null)
watch(
  [() => p.value.id, () => doc.draft?.revision],
  async ([id], [was]) => {
    if (id !== was) best.value = null
    const got = await ask(api.GET('/api/drafts/{id}/best', { params: { path: { id: doc.draft!.id } } })).catch(() => null)
    if (got && p.value?.id === id) best.value = got[id] ?? null
  },
  { immediate: true },
)
/** What is left out while nothing lies in the pocket: what shows it, and what goes along. */
const without = (ids: string[], pocket: string | null) => does({ kind: 'batch', ops: ids.map((id) => ({ kind: 'rest', path: `layers/${id}/without`, value: pocket ?? undefined })) })
const out = computed(() => p.value.layers.length > 0 && p.value.layers.every((id) => lines.value.get(id)?.without === p.value.id))
const along = computed(() => (doc.draft?.layers ?? []).filter((y) => y.without === p.value.id && !p.value.layers.includes(y.id)))
function leaveOut(on: boolean) {
  void without(on ? p.value.layers : [...p.value.layers, ...along.value.map((y) => y.id)], on ? p.value.id : null)
}
function point() {
  const id = p.value.id
  const options = (doc.draft?.layers ?? []).filter((y) => y.without !== id && !p.value.layers.includes(y.id)).map((y) => y.id)
  tool.pointing = { what: `Left out with ${p.value.name}: …`, of: '', options, done: (y) => void without([y], id) }
}
const shows = computed(() => p.value.layers.map((id) => ({ id, name: lines.value.get(id)?.name ?? id })))
</script>

<template>
  <details class="settings" open data-test="pocket-settings">
    <summary class="heading">The pocket</summary>
    <div class="body">
      <div class="acts"><OfferButton :paths="[`pockets/${p.id}`]" :what="p.name" /><span class="small" :class="{ quiet: !filled }">{{ filled ? `On the sheet as “${filled.label}”` : 'Put on sheet, so that an editor fills it' }}</span></div>
      <label class="line"><span>Name</span><TextField :key="p.id" :value="p.name" :most="120" needed label="Name of the pocket" @change="(n) => does({ kind: 'rename', path: `pockets/${p.id}`, name: n.trim() })" /></label>
      <div class="line" role="group" aria-label="What it takes"><span>Takes</span>
        <div class="checks"><NCheckbox v-for="[k, label] in kinds" :key="k" size="small" :checked="p.kinds.includes(k)" :disabled="p.kinds.length === 1 && p.kinds.includes(k)" :data-takes="k" @update:checked="(on: boolean) => takes(k, on)">{{ label }}</NCheckbox></div>
      </div>
      <label v-if="roles.length" class="line"><span>Its part</span>
        <NSelect size="small" clearable :value="p.role || null" placeholder="None" :options="roles.map((r) => ({ value: r, label: roleNames[r] }))" aria-label="Its part" @update:value="(r: string | null) => does({ kind: 'put', path: `pockets/${p.id}/role`, part: r ?? undefined })" />
      </label>
      <NCheckbox size="small" :checked="p.required" data-test="required" @update:checked="(on: boolean) => does({ kind: 'rest', path: `pockets/${p.id}/required`, value: on })">An editor has to fill it</NCheckbox>
      <p v-if="best" class="small quiet" data-test="best" title="In all formats, at its largest in all of its motion">Media is sharp from <span class="num">{{ best.w }} × {{ best.h }}</span> px.</p>

      <h3 class="heading">What an editor may do</h3>
      <div v-for="b in bounds" :key="b.name" class="limit">
        <NCheckbox size="small" :checked="!!given(b.name)" :title="b.tip" :data-limit="b.name" @update:checked="(on: boolean) => limit(b.name, on ? b.first : null)">{{ b.label }}</NCheckbox>
        <template v-if="given(b.name)"><NumberField v-for="(part, i) in b.parts" :key="part" :label="part" :name="`${b.label}, ${part}`" :unit="b.unit" :value="given(b.name)![i]! * b.factor" :min="b.name === 'zoom' ? 5 : 0" :max="b.max" :places="1" @change="bound(b, i, $event)" @press="bound(b, i, $event)" /></template>
        <span v-else class="quiet small">free</span>
      </div>

      <h3 class="heading">While it is empty</h3>
      <div class="acts">
        <img v-if="p.lining" :src="`/api/media/${p.lining}/thumb?side=120`" alt="Its lining" class="lining" />
        <span v-else class="quiet small grow">A neutral card.</span>
        <NButton size="tiny" data-test="lining" @click="tool.lining = p.id">{{ p.lining ? 'Other picture' : 'A picture of your own' }}</NButton>
        <NButton v-if="p.lining" size="tiny" quaternary @click="does({ kind: 'line-pocket', pocket: p.id })">Neutral card</NButton>
      </div>

      <NCheckbox size="small" :checked="out" :disabled="!shows.length" data-test="leave-out" @update:checked="leaveOut">It is left out</NCheckbox>
      <div v-if="out" class="acts small"><span class="quiet">{{ along.length ? 'and with it' : 'alone; point at what goes with it' }}</span>
        <span v-for="y in along" :key="y.id" class="chip">{{ y.name }}<button class="icon-button" :aria-label="`${y.name} stays`" :title="`${y.name} stays`" @click="without([y.id], null)"><IconX :size="12" /></button></span>
        <button class="icon-button" title="Point at what is left out with it: a backing, a rule, a highlight" aria-label="Point at what is left out with it" data-test="leave-along" @click="point"><IconHandFinger :size="16" /></button>
      </div>

      <h3 class="heading">Shown by</h3>
      <p v-if="!shows.length" class="small quiet">No layer shows it.</p>
      <ul v-else>
        <li v-for="y in shows" :key="y.id"><button class="link" :class="{ here: selection.layer === y.id }" @click="selection.layers = [y.id]">{{ y.name }}</button></li>
      </ul>
      <div class="acts">
        <NButton size="tiny" data-test="show-again" title="A layer that shows this pocket: swap it once, and all that show it follow" @click="does({ kind: 'sew', id: p.id, layers: [] })">{{ shows.length ? 'Show it once more' : 'Sew it on' }}</NButton>
        <NButton v-if="!shows.length" size="tiny" quaternary data-test="remove-pocket" title="It goes, with the entries that fill it" @click="does({ kind: 'pocket-remove', pocket: p.id })">Remove it</NButton>
      </div>
    </div>
  </details>
</template>

<style scoped>
summary { cursor: pointer; padding: 8px 0; }
.body { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); }
.line { display: grid; grid-template-columns: 58px minmax(0, 1fr); align-items: center; }
.line > span { color: var(--ink-quiet); }
.checks { display: flex; flex-wrap: wrap; gap: 2px 10px; }
.limit { display: grid; grid-template-columns: 74px minmax(0, 1fr) minmax(0, 1fr); gap: 6px; align-items: center; min-height: 28px; }
.small { font-size: 12px; }
.chip { display: inline-flex; align-items: center; background: var(--linen-deep); border-radius: 5px; padding: 0 2px 0 7px; }
.chip .icon-button { width: 20px; height: 20px; }
.acts { display: flex; align-items: center; gap: 6px; flex-wrap: wrap; }
.grow { flex: 1; }
.lining { height: 34px; border-radius: 5px; border: 1px solid var(--rule); }
ul { list-style: none; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 2px 10px; }
.link { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline dotted; text-underline-offset: 3px; }
.link.here { font-weight: 600; text-decoration: none; color: var(--ink); }
.settings > div > .heading { margin-top: 4px; }
</style>
