<script setup lang="ts">
import { IconArrowBack, IconDice5, IconHandFinger, IconMinus, IconPlus } from '@tabler/icons-vue'
import { NSelect, NSwitch } from 'naive-ui'
import { computed, ref } from 'vue'

import type { Property } from '../api/client'
import ColourField from '../common/ColourField.vue'
import { useDocument } from '../common/document'
import FacePicker from '../common/FacePicker.vue'
import { plain } from '../common/format'
import NumberField from '../common/NumberField.vue'
import { useSelection } from '../common/selection'
import TextField from '../common/TextField.vue'
import { useTransport } from '../common/transport'
import { useActs } from './acts'
import { useLayer } from './layer'
import FormulaField from './formula/FormulaField.vue'
import { keyPath, useMotion } from './time/motion'
import OfferButton from './OfferButton.vue'
import { useTaking } from './formula/taking'

export type Rest = number[] | string | boolean

/** One property of a layer: where it rests, what sets it, and what it is at the playhead. `drafted` is a value on the way. */
const props = defineProps<{ p: Property; drafted?: Rest; format: string }>()
const doc = useDocument()
const motion = useMotion()
const selection = useSelection()
const transport = useTransport()
const { does } = useActs()
const emit = defineEmits<{ draft: [Rest]; press: [Rest]; set: [Rest]; reset: []; cancel: []; unit: ['px' | 'share']; point: [] }>()

/** The property's place in its layer, such as masks/iris/feather. */
const place = computed(() => props.p.path.split('/').slice(2).join('/'))
/** While keys are recorded, and where they take rest's place, what is seen is what is set. */
const seen = computed(() => props.p.keys && (motion.recording || props.p.keyed))
const base = computed(() => (seen.value && props.p.now.length ? props.p.now.map((n) => Number(n.toFixed(6))) : props.p.rest))
const numbers = computed(() => (Array.isArray(props.drafted) ? props.drafted : base.value))
const text = computed(() => {
  if (typeof props.drafted === 'string') return props.drafted
  if (!seen.value) return props.p.text
  if (props.p.kind === 'choice') return props.p.words[props.p.now[0]!] ?? props.p.text
  return props.p.kind === 'colour' && props.p.now.length === 4 ? hex(props.p.now) : props.p.text
})
const on = computed(() => (typeof props.drafted === 'boolean' ? props.drafted : base.value[0] === 1))
const hex = (c: number[]) => `#${(c[3]! < 255 ? c : c.slice(0, 3)).map((n) => Math.round(n).toString(16).padStart(2, '0')).join('')}`

/** What a face is shown by: the words it is for. */
const layer = useLayer()
const sample = computed(() => layer.view?.properties.find((p) => p.name === 'text')?.text ?? '')

/** One field stands for all numbers while they are alike, unless each is asked for. */
const each = ref(false)
/** A layer, which can be pointed at. */
const pointed = computed(() => ['follow', 'matte.layer'].includes(props.p.name))
const joined = computed(() => props.p.alike && !each.value && base.value.every((n) => n === base.value[0]))
const parts = computed(() => (joined.value ? [''] : props.p.parts))
const places = computed(() => (props.p.whole ? 0 : props.p.factor === 100 ? 1 : 2))
/** At the bench the sheet follows what is set here. */
const driver = computed(() => (props.p.entry || (props.p.keyed && (motion.recording || props.p.kind === 'number')) ? '' : props.p.driver))

/** What moves of it: as a whole, or by its numbers. */
const tracks = computed(() => (selection.line?.tracks ?? []).filter((t) => t.path === props.p.path || t.whole === props.p.path))
const here = computed(() => tracks.value.flatMap((t) => t.keys.filter((k) => Math.abs(k.at - transport.shows) < 0.5).map((k) => keyPath(t.path, k.id))))
/** Puts a key at the playhead, or takes it away. */
function key() {
  if (here.value.length) void does({ kind: 'unkey', keys: here.value, layers: [] })
  else void does({ kind: 'key', paths: [props.p.path], layers: [] })
}
/** The numbers' fields: the name stands for the first. */
const first = ref<InstanceType<typeof NumberField>[]>()
const locked = (i: number) => driver.value !== '' || !!props.p.formulas[i]
const ruled = computed(() => driver.value !== '' || props.p.formulas.some(Boolean))

function changed(i: number, v: number): number[] {
  const n = [...numbers.value]
  if (joined.value) n.fill(v / props.p.factor)
  else n[i] = v / props.p.factor
  return n
}

/** Of a list: with another number in a place, with one more, and without the last. */
const one = (i: number, v: number) => numbers.value.map((n, k) => (k === i ? v / props.p.factor : n))
const longer = () => (numbers.value.length ? [...numbers.value, numbers.value.at(-2) ?? numbers.value[0]!] : [24, 16])
function shorter() {
  if (numbers.value.length < 2) emit('reset')
  else emit('set', numbers.value.slice(0, -1))
}

const now = computed(() => {
  const p = props.p
  if (seen.value) return ''
  if (!p.now.some((n, i) => Math.abs(n - p.rest[i]!) > 1e-9)) return ''
  if (p.kind === 'choice') return p.words[p.now[0]!] ?? ''
  if (p.kind === 'switch') return p.now[0] ? 'yes' : 'no'
  if (p.kind !== 'number' && p.kind !== 'list') return ''
  const n = p.alike && p.now.every((v) => v === p.now[0]) ? p.now.slice(0, 1) : p.now
  return n.map((v) => plain(v * p.factor, places.value)).join(', ') + (p.sign && ` ${p.sign}`)
})
const source = computed(() => (driver.value && !formulas.value.some((f) => f.text) ? `Set by ${driver.value}` : ''))

// Its formulas: of each number, or of all of them where they may be set as one.
const taking = useTaking()
const formulas = computed(() => {
  const p = props.p
  const whole = p.paths.length < 2 || (p.alike && p.formulas.every((f) => f === p.formulas[0]))
  if (whole) return [{ path: p.path, text: p.formulas[0] ?? '', part: '', label: p.label }]
  return p.paths.map((path, i) => ({ path, text: p.formulas[i] ?? '', part: p.parts[i] ?? '', label: `${p.label} ${p.parts[i] ?? ''}`.trim() }))
})
const openFormula = computed(() => formulas.value.find((f) => f.path === taking.open))
/** Opens the first formula, or the first that could be one; shuts it again. */
function formula() {
  taking.open = openFormula.value ? '' : (formulas.value.find((f) => f.text) ?? formulas.value[0]!).path
}
const takes = computed(() => props.p.offers && ['number', 'colour', 'choice', 'switch', 'time'].includes(props.p.kind))
</script>

<template>
  <div class="property" :class="{ single: p.kind === 'switch' || (p.kind === 'number' && parts.length === 1) }" :data-property="place">
    <div class="line">
      <span class="name" :title="p.about" @click="first?.[0]?.type()">{{ p.label }}</span>
      <button v-if="p.keys && !p.formulas.some(Boolean)" class="leaf" :class="{ some: tracks.length, here: here.length }" :aria-pressed="!!here.length" :title="here.length ? 'Take away its key at the playhead' : tracks.length ? 'It moves; put a key at the playhead' : 'Put a key at the playhead'" :aria-label="`${p.label}: key at the playhead`" :data-leaf-of="place" @click="key"><svg width="11" height="13" viewBox="-5.500 -6.500 11 13" aria-hidden="true"><path d="M0 5.500C-4.400 3 -4.400 -2.600 0 -6 4.400 -2.600 4.400 3 0 5.500Z" /></svg></button>
      <button v-if="takes || p.formulas.some(Boolean)" class="fx num" :class="{ some: p.formulas.some(Boolean), on: !!openFormula }" :aria-expanded="!!openFormula" :title="p.formulas.some(Boolean) ? 'Its formula' : 'Take it from another value, by a formula'" :aria-label="`${p.label}: formula`" :data-formula-of="place" @click="formula">ƒ</button>
      <OfferButton v-if="p.entry || (p.offers && !ruled)" :paths="[p.path]" :entry="p.entry" :what="p.label" />
      <button v-if="joined && !ruled" class="each" :title="`Set each of ${p.parts.length} numbers`" @click="each = true">each</button>
      <button v-if="p.in && !ruled" class="each" :data-unit="p.in" :title="p.in === 'px' ? 'So many px on every canvas; press: a share of the shorter side' : `A share of the canvas’ shorter side, shown in px of this one; press: so many px on every canvas`" @click="emit('unit', p.in === 'px' ? 'share' : 'px')">{{ p.in === 'px' ? 'px' : 'share' }}</button>
      <button v-if="p.name === 'copies.seed' && !ruled" class="icon-button back" title="Scatter them otherwise" aria-label="Scatter them otherwise" data-test="scatter" @click="emit('set', [Math.floor(Math.random() * 10000)])"><IconDice5 :size="15" /></button>
      <span v-if="p.own" class="chip" :title="`Its own value in ${format}`">{{ format }}</span>
      <span v-if="p.used" class="chip" title="This use of the motif has a value of its own">this use</span>
      <span v-if="p.moves" class="chip moves" :title="motion.recording ? 'It moves; what you set becomes a key' : 'It moves; what you set shifts all of its motion'">moves</span>
      <span v-if="now" class="now num" title="At the playhead">{{ now }}</span>
      <button v-if="p.given && !p.needed" class="icon-button back" :title="`Leave ${p.label} out`" :aria-label="`Reset ${p.label}`" @click.prevent="emit('reset')"><IconArrowBack :size="14" /></button>
    </div>
    <p v-if="source" class="quiet small source" :title="source">{{ source }}</p>
    <div v-if="!openFormula && formulas.some((f) => f.text)" class="small by"><button v-for="f in formulas.filter((f) => f.text)" :key="f.path" class="num" :title="f.text" @click="taking.open = f.path">{{ f.part ? `${f.part} ` : '' }}= {{ f.text }}</button></div>
    <p v-if="p.kind === 'path'" class="quiet small">Drawn by its points.</p>
    <NumberField v-else-if="p.kind === 'time' && !ruled" :label="p.text ? '' : 'as the template'" :name="p.label" :unit="p.sign" :value="Number(p.text || 0)" :min="-200000" :max="200000" :places="2" resets @reset="emit('reset')" @press="emit('set', [$event])" @change="emit('set', [$event])" />
    <div v-else-if="p.kind === 'reference' && pointed" class="pointed"><NSelect :value="p.text || null" size="small" :clearable="!p.needed" :disabled="ruled" placeholder="none" :options="p.options.map((o) => ({ label: o.name, value: o.id }))" :aria-label="p.label" @update:value="(v: string | null) => (v ? emit('set', v) : emit('reset'))" /><button class="icon-button" :disabled="ruled || !p.options.length" :title="`${p.label}: point at it on the stage or in the list`" :aria-label="`${p.label}: point at it`" :data-point="p.name" @click="emit('point')"><IconHandFinger :size="16" /></button></div>
    <NSelect v-else-if="p.kind === 'reference'" :value="p.text || null" size="small" :clearable="!p.needed" :disabled="ruled" placeholder="none" :options="p.options.map((o) => ({ label: o.name, value: o.id }))" :aria-label="p.label" @update:value="(v: string | null) => (v ? emit('set', v) : emit('reset'))" />
    <p v-else-if="p.kind === 'time'" class="num small">{{ p.text || 'not trimmed' }} {{ p.text && p.sign }}</p>
    <ColourField v-else-if="p.kind === 'colour' && !ruled" :label="p.label" :value="text" clear :colours="doc.draft?.colours" :named="typeof drafted === 'string' ? '' : p.named" @draft="emit('draft', $event)" @change="emit('set', $event)" @cancel="emit('cancel')" />
    <NSelect v-else-if="p.kind === 'choice'" :value="text" size="small" :disabled="ruled" :options="p.words.map((w) => ({ label: w, value: w }))" :aria-label="p.label" @update:value="(v: string) => emit('set', v)" />
    <FacePicker v-else-if="p.kind === 'typeface'" :value="text" :label="p.label" :sample="sample" brings :disabled="ruled" @change="emit('set', $event)" />
    <TextField v-else-if="p.kind === 'words'" :value="p.text" :label="p.label" :lines="p.name === 'text' ? 60 : 1" :rows="p.name === 'text' ? { minRows: 1, maxRows: 7 } : undefined" :most="p.most || undefined" :disabled="ruled" :placeholder="p.name === 'text' ? 'Nothing is said' : ''" :plain="p.name !== 'text'" live @press="emit('press', $event)" @change="emit('set', $event)" />
    <NSwitch v-else-if="p.kind === 'switch'" class="switch" size="small" :value="on" :disabled="ruled" :aria-label="p.label" @update:value="(v: boolean) => emit('set', v)" />
    <div v-else-if="p.kind === 'list'" class="grid list">
      <NumberField v-for="(n, i) in numbers" :key="i" label="" :name="`${p.label} ${i + 1}`" :unit="p.sign" :value="n * p.factor" :min="p.min * p.factor" :max="p.max * p.factor" :places="places" :readonly="ruled" @cancel="emit('cancel')" @draft="emit('draft', one(i, $event))" @press="emit('press', one(i, $event))" @change="emit('set', one(i, $event))" />
      <span v-if="!ruled" class="more"><button class="icon-button" :disabled="numbers.length >= p.most" :title="`One more of ${p.label.toLowerCase()}`" :aria-label="`One more of ${p.label}`" data-test="list-more" @click="emit('set', longer())"><IconPlus :size="14" /></button><button class="icon-button" :disabled="!numbers.length" title="Without the last one" :aria-label="`${p.label}: without the last one`" data-test="list-less" @click="shorter"><IconMinus :size="14" /></button></span>
    </div>
    <div v-else-if="p.kind === 'number'" class="grid" :class="{ three: parts.length === 3 }">
      <NumberField v-for="(part, i) in parts" ref="first" :key="part" :label="part" :name="[p.label, part].filter(Boolean).join(' ')" :unit="p.sign" :value="numbers[i]! * p.factor" :min="p.min * p.factor" :max="p.max * p.factor" :places="places"
        :step="p.step || 1" resets :readonly="locked(i)" @reset="emit('reset')" @cancel="emit('cancel')" @draft="emit('draft', changed(i, $event))" @press="emit('press', changed(i, $event))" @change="emit('set', changed(i, $event))" />
    </div>
    <template v-if="openFormula">
      <div v-if="formulas.length > 1" class="whose" role="tablist" :aria-label="`Formulas of ${p.label}`"><button v-for="f in formulas" :key="f.path" role="tab" :aria-selected="f.path === openFormula.path" :class="{ on: f.path === openFormula.path }" :data-formula-part="f.path" @click="taking.open = f.path">{{ f.part || p.label }}</button></div>
      <FormulaField :key="openFormula.path" :path="openFormula.path" :text="openFormula.text" :label="openFormula.label" />
    </template>
  </div>
</template>

<style scoped>
.leaf { border: 0; background: none; padding: 0 1px; cursor: pointer; align-self: center; line-height: 0; opacity: 0.4; }
.leaf path { fill: none; stroke: #8b6a2c; stroke-width: 1.2; }
.leaf.some { opacity: 1; }
.leaf.here { opacity: 1; }
.leaf.here path { fill: #e7a13a; stroke: #6b4a12; }
.property:hover .leaf, .leaf:focus-visible { opacity: 1; }
.property { display: grid; gap: 3px; grid-template-columns: minmax(0, 1fr); }
.property.single { grid-template-columns: minmax(0, 1fr) 126px; column-gap: 8px; align-items: center; }
.property.single .grid, .property.single .switch { grid-template-columns: 1fr; grid-row: 1; grid-column: 2; }
.property.single .switch { justify-self: start; }
.property.single .source { grid-column: 1 / -1; }
.line { display: flex; flex-wrap: wrap; align-items: baseline; gap: 0 6px; min-height: 20px; }
.name { font-weight: 500; }
.each { font-size: 11px; background: none; border: 0; padding: 0 2px; color: var(--ink-quiet); cursor: pointer; text-decoration: underline dotted; text-underline-offset: 2px; }
.now { margin-left: auto; font-size: 11px; color: var(--ivy-deep); white-space: nowrap; }
.now::before { content: 'now '; font-family: 'Figtree', sans-serif; color: var(--ink-quiet); }
.chip { font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 0 5px; color: var(--ink-quiet); }
.chip.moves { background: var(--ivy-wash); color: var(--ivy-deep); }
.back { width: 22px; height: 20px; margin-left: auto; align-self: center; }
.now + .back { margin-left: 0; }
.grid { display: grid; grid-template-columns: repeat(2, minmax(0, 1fr)); gap: 5px 8px; }
.list { align-items: center; }
.list .more { display: flex; gap: 4px; }
.pointed { display: grid; grid-template-columns: minmax(0, 1fr) 30px; gap: 4px; align-items: center; }
.grid.three { grid-template-columns: repeat(3, minmax(0, 1fr)); }
.small { font-size: 12px; }
.fx { border: 0; background: none; padding: 0 2px; cursor: pointer; font-style: italic; opacity: 0.35; font-size: 13px; line-height: 16px; border-radius: 4px; color: inherit; }
.fx.some { opacity: 1; color: var(--ivy-deep); font-weight: 600; }
.fx.on { background: var(--ivy-wash); opacity: 1; }
.property:hover .fx, .fx:focus-visible { opacity: 1; }
.by { display: grid; grid-column: 1 / -1; }
.by button { border: 0; background: none; padding: 0; text-align: left; cursor: pointer; color: var(--ivy-deep); font-size: 11.5px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.whose { grid-column: 1 / -1; display: flex; gap: 4px; }
.whose button { border: 0; background: none; border-radius: 5px; padding: 1px 7px; cursor: pointer; font: inherit; font-size: 12px; color: var(--ink-quiet); }
.whose button.on { background: var(--ivy-wash); color: var(--ivy-deep); }
.source { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
