<script setup lang="ts">
import { IconPlus, IconTrash } from '@tabler/icons-vue'
import { NButton, NCheckbox, NSelect } from 'naive-ui'
import { computed } from 'vue'

import type { Entry, Tie } from '../api/client'
import { useDocument } from '../common/document'
import { useFaces } from '../common/faces'
import GradientStrip from '../common/GradientStrip.vue'
import NumberField from '../common/NumberField.vue'
import { useSelection } from '../common/selection'
import TextField from '../common/TextField.vue'
import { useActs } from './acts'
import { useSheet } from './sheet'
import TieLine from './TieLine.vue'

/** What a designer says of an entry: its names, its limits, when it is shown, and what it drives. */
const props = defineProps<{ e: Entry }>()
const doc = useDocument()
const selection = useSelection()
const sheet = useSheet()
const { does } = useActs()
const at = computed(() => `entries/${props.e.id}`)
const put = (member: string, part: unknown) => does({ kind: 'put', path: `${at.value}/${member}`, part: part ?? undefined })
const ranged = computed(() => props.e.kind === 'amount' || props.e.kind === 'angle')
const pocket = computed(() => doc.draft!.pockets.find((p) => p.id === props.e.pocket))

const switches = computed(() => sheet.entries.filter((x) => x.id !== props.e.id && ['switch', 'choice', 'gradient'].includes(x.kind)))
const when = computed(() => props.e.bench!.when as { entry: string; is: unknown[] } | undefined)
const by = computed(() => sheet.of(when.value?.entry ?? ''))
/** What the other entry may say. */
const says = computed(() => (by.value?.kind === 'switch' ? [['true', 'on'], ['false', 'off']] : (by.value?.options ?? []).map((o) => [o.id, o.name])) as [string, string][])
function wait(id: string | null) {
  const other = sheet.of(id ?? '')
  void put('when', other ? { entry: other.id, is: other.kind === 'switch' ? [true] : [other.options[0]!.id] } : undefined)
}
const isNow = computed(() => (when.value?.is ?? []).map(String))
const setIs = (list: string[]) => list.length && put('when', { entry: when.value!.entry, is: by.value?.kind === 'switch' ? list.map((t) => t === 'true') : list })

const parts = { fit: 'fit', focus: 'focus', pan: 'shift', zoom: 'zoom', turn: 'turn', flip: 'mirroring', play: 'how clips run' } as const
function leave(part: string, on: boolean) {
  const next = Object.keys(parts).filter((p) => (p === part ? on : props.e.framing.includes(p)))
  void put('framing', next.length === Object.keys(parts).length ? undefined : next)
}
/** Renames an option, takes one out, or adds one. */
function option(i: number, name: string | null) {
  const next: { id?: string; label: string }[] = props.e.options.map((o) => ({ id: o.id, label: o.name }))
  if (name === null) next.splice(i, 1)
  else if (next[i]) next[i].label = name
  else next.push({ label: name })
  void does({ kind: 'options', entry: props.e.id, part: next })
}
/** Gradients that are not offered yet. */
const others = computed(() => doc.draft!.gradients.filter((g) => !props.e.options.some((o) => o.id === g.id)))
function offer(id: string) {
  const g = others.value.find((g) => g.id === id)
  if (g) void does({ kind: 'options', entry: props.e.id, part: [...props.e.options.map((o) => ({ id: o.id, label: o.name })), { id, label: g.name }] })
}
/** Faces that are not offered yet. */
const faces = useFaces()
void faces.load()
const otherFaces = computed(() => faces.list.filter((f) => !props.e.options.some((o) => o.id === f.id)))
function offerFace(id: string) {
  void does({ kind: 'options', entry: props.e.id, part: [...props.e.options.map((o) => ({ id: o.id, label: o.name })), { id, label: faces.name(id) }] })
}
const held = computed(() => doc.draft!.time.filter((p) => p.kind === 'held'))
const ties = computed(() => props.e.bench!.ties)
const retie = (i: number, t: Tie | null) => does({ kind: 'tie', entry: props.e.id, ties: ties.value.map((x) => x.tie as Tie).flatMap((x, k) => (k === i ? (t ? [t] : []) : [x])) })
</script>

<template>
  <div class="settings" :data-settings="e.id">
    <label class="line"><span>Label</span><TextField size="tiny" :value="e.label" :most="120" needed label="Label" @change="(n) => does({ kind: 'rename', path: at, name: n.trim() })" /></label>
    <label class="line"><span>Help</span><TextField size="tiny" :rows="{ minRows: 1, maxRows: 4 }" :value="e.help ?? ''" :most="300" placeholder="One sentence, where the label says too little" label="Help" @change="(n) => put('help', n.trim() || undefined)" /></label>
    <label class="line"><span>In data</span><TextField size="tiny" :value="e.bench!.data" :most="63" class="num" plain label="Name for data" title="The name that rows of data know it by" @change="(n) => put('data', n.trim() || undefined)" /></label>
    <template v-if="ranged">
      <div class="grid">
        <NumberField label="Least" :value="e.min" :unit="e.unit" :places="4" @change="put('min', $event)" @press="put('min', $event)" />
        <NumberField label="Most" :value="e.max" :unit="e.unit" :places="4" @change="put('max', $event)" @press="put('max', $event)" />
        <NumberField label="Step" :value="e.step" :places="4" :min="0" :reset="0" @change="put('step', $event || undefined)" @press="put('step', $event || undefined)" />
        <label v-if="e.kind === 'amount'" class="unit"><span>Unit</span><input class="num" :value="e.unit" maxlength="12" aria-label="Unit" @change="put('unit', ($event.target as HTMLInputElement).value.trim() || undefined)" /></label>
      </div>
    </template>
    <div v-if="e.bench!.timed && (held.length || e.bench!.within)" class="line"><span>Reaches</span><NSelect size="tiny" clearable :value="e.bench!.within || null" placeholder="as far as its most" :options="held.map((p) => ({ value: p.id, label: `to the end of held ${p.from}–${p.to - 1}` }))" aria-label="How far it reaches" title="Counted from the beginning of held time it never comes to its end: no value of it reaches into time that stretches" @update:value="(id: string | null) => does({ kind: 'within', entry: e.id, id: id ?? undefined })" /></div>
    <template v-if="e.kind === 'duration'">
      <div class="line"><span>Shown in</span><NSelect size="tiny" :value="e.unit || 'frames'" :options="[{ value: 'frames', label: 'frames' }, { value: 's', label: 'seconds' }]" aria-label="Shown in" @update:value="(u: string) => put('unit', u === 'frames' ? undefined : u)" /></div>
      <div class="grid">
        <NumberField label="Least" :value="e.min" unit="frames" :places="0" :min="1" @change="put('min', $event)" @press="put('min', $event)" />
        <NumberField label="Most" :value="e.max" unit="frames" :places="0" :min="1" @change="put('max', $event)" @press="put('max', $event)" />
      </div>
    </template>
    <template v-if="e.kind === 'media' && pocket">
      <NCheckbox size="small" :checked="pocket.required" @update:checked="(on: boolean) => does({ kind: 'set', path: `pockets/${pocket!.id}/required`, value: on })">An editor has to fill it</NCheckbox>
      <div class="checks" role="group" aria-label="What of its framing an editor may change"><span class="quiet">An editor may change its</span><NCheckbox v-for="(name, part) in parts" :key="part" size="small" :checked="e.framing.includes(part)" :data-part="part" @update:checked="(on: boolean) => leave(part, on)">{{ name }}</NCheckbox></div>
    </template>
    <template v-if="e.kind === 'words' || e.kind === 'lines'">
      <div class="grid">
        <NumberField label="Letters" name="Letters at most" :value="e.letters" :places="0" :min="1" :max="2000" :reset="2000" @change="put('letters', $event === 2000 ? undefined : $event)" @press="put('letters', $event === 2000 ? undefined : $event)" />
        <NumberField v-if="e.kind === 'lines'" label="Lines" name="Lines at most" :value="e.lines" :places="0" :min="1" :max="50" :reset="50" @change="put('lines', $event === 50 ? undefined : $event)" @press="put('lines', $event === 50 ? undefined : $event)" />
      </div>
      <NCheckbox size="small" :checked="e.required" data-test="required" @update:checked="(on: boolean) => put('required', on || undefined)">It may not be left empty</NCheckbox>
    </template>
    <div v-if="e.kind === 'typeface'" class="options">
      <div v-for="(o, i) in e.options" :key="o.id" class="row"><span class="facename">{{ o.name }}</span><button class="icon-button" :disabled="e.options.length < 3 || e.default === o.id" :aria-label="`Remove ${o.name}`" :title="e.default === o.id ? 'It is the default' : 'Remove'" @click="option(i, null)"><IconTrash :size="14" /></button></div>
      <NSelect size="tiny" :value="null" :disabled="!otherFaces.length" placeholder="One more face" :options="otherFaces.map((f) => ({ value: f.id, label: f.name }))" aria-label="One more face" @update:value="offerFace" />
    </div>
    <div v-if="e.kind === 'choice' || e.kind === 'gradient'" class="options">
      <div v-for="(o, i) in e.options" :key="o.id" class="row"><GradientStrip v-if="e.kind === 'gradient'" class="strip" :stops="o.stops" /><TextField size="tiny" :value="o.name" :most="80" needed :label="`Option ${i + 1}`" @change="(n) => option(i, n.trim())" /><button class="icon-button" :disabled="e.options.length < 3 || e.default === o.id" :aria-label="`Remove ${o.name}`" :title="e.default === o.id ? 'It is the default' : 'Remove'" @click="option(i, null)"><IconTrash :size="14" /></button></div>
      <NSelect v-if="e.kind === 'gradient'" size="tiny" :value="null" :disabled="!others.length" :placeholder="others.length ? 'One more gradient' : 'All named gradients are there'" :options="others.map((g) => ({ value: g.id, label: g.name }))" aria-label="One more gradient" @update:value="offer" />
      <NButton v-else size="tiny" data-test="add-option" @click="option(e.options.length, `Option ${e.options.length + 1}`)"><template #icon><IconPlus :size="13" /></template>Option</NButton>
    </div>
    <div v-if="switches.length" class="line"><span>Shown</span><NSelect size="tiny" clearable :value="when?.entry ?? null" placeholder="always" :options="switches.map((x) => ({ value: x.id, label: `when ${x.label} is …` }))" aria-label="Shown when" @update:value="wait" /></div>
    <div v-if="when" class="line"><span /><NSelect size="tiny" multiple :value="isNow" :options="says.map(([value, label]) => ({ value, label }))" aria-label="… one of these" @update:value="setIs" /></div>
    <div class="line"><span>Best at</span><NSelect size="tiny" clearable :value="e.cue || null" placeholder="wherever one looks" :options="doc.draft!.cues.map((c) => ({ value: c.id, label: c.name }))" aria-label="The cue at which it is best seen" @update:value="(id: string | null) => put('cue', id ?? undefined)" /></div>
    <NCheckbox v-if="e.kind !== 'media' && e.kind !== 'duration'" size="small" :checked="e.bench!.fixed" title="Its default holds in all pieces" data-test="fixed" @update:checked="(on: boolean) => put('fixed', on || undefined)">Fixed for good: no editor sees it</NCheckbox>
    <template v-if="ties.length">
      <h3 class="heading">What it drives</h3>
      <TieLine v-for="(t, i) in ties" :key="`${e.id} ${i}`" :e="e" :tie="t.tie as Tie" :called="t.called" @go="t.layer && (selection.layers = [t.layer])" @change="retie(i, $event)" @off="retie(i, null)" />
    </template>
  </div>
</template>

<style scoped>
.settings { display: grid; gap: 6px; padding: 6px 2px 4px 20px; grid-template-columns: minmax(0, 1fr); }
.line { display: grid; grid-template-columns: 56px minmax(0, 1fr); align-items: center; }
.line > span { color: var(--ink-quiet); font-size: 12px; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 5px 8px; }
.checks { display: flex; flex-wrap: wrap; gap: 2px 10px; font-size: 12px; }
.unit { display: flex; gap: 6px; align-items: baseline; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; padding: 3px 8px; min-width: 0; }
.unit span { color: var(--ink-quiet); }
.unit input { flex: 1; min-width: 0; border: 0; background: none; outline: 0; text-align: right; color: var(--ink); }
.unit:focus-within { border-color: var(--ivy); }
.options { display: grid; gap: 4px; justify-items: start; }
.row { display: flex; gap: 4px; width: 100%; align-items: center; }
.row .strip { flex: none; width: 54px; }
.row :deep(.n-input) { align-self: center; }
</style>
