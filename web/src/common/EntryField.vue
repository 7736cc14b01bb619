<script setup lang="ts">
import { NRadioButton, NRadioGroup, NSelect, NSlider, NSwitch } from 'naive-ui'
import { computed, ref } from 'vue'

import type { Entry, EntryValue } from '../api/client'
import ColourField from './ColourField.vue'
import FacePicker from './FacePicker.vue'
import { useDocument } from './document'
import GradientStrip from './GradientStrip.vue'
import { vNamed } from './named'
import NumberField from './NumberField.vue'
import { useTransient } from './transient'
import WordsField from './WordsField.vue'

/**
 * The control of one entry of the sheet, by its kind. `draft` tells of values on the way,
 * `press` of one by a key, which others may follow, `change` of one that is meant, `cancel`
 * that none was.
 */
const props = defineProps<{ e: Entry; value: EntryValue }>()
const emit = defineEmits<{ draft: [EntryValue]; press: [EntryValue]; change: [EntryValue]; cancel: [] }>()
const doc = useDocument()
const transient = useTransient()

/** The slider's knob is held: what it says is kept when it is let go, else when it has been quiet for a while. */
const held = ref(false)
const last = ref<number | null>(null)
function slid(v: number) {
  last.value = v
  if (held.value) emit('draft', v)
  else emit('press', v)
}
function hold() {
  held.value = true
  transient.drop()
}
function letGo() {
  held.value = false
  if (last.value !== null) emit('change', last.value)
}
const number = computed(() => Number(props.value))
const place = computed(() => (Array.isArray(props.value) ? props.value : [0, 0]).map((n) => Number.parseFloat(String(n))))
/** A place is written in the unit of its default. */
const unit = computed(() => (String((props.e.default as unknown[])?.[0] ?? '').endsWith('vmin') ? 'vmin' : ''))
function put(i: number, n: number): EntryValue {
  const next = [...place.value]
  next[i] = n
  return unit.value ? (next.map((v) => `${v}vmin`) as unknown as number[]) : next
}
const marks = computed(() => Object.fromEntries((props.e.notches as number[]).map((n) => [n, ''])))
const few = computed(() => props.e.options.length <= 4 && props.e.options.reduce((n, o) => n + o.name.length, 0) <= 34)
/** A duration in seconds is kept in frames. */
const fps = computed(() => doc.face!.rateN / doc.face!.rateD)
const inSeconds = computed(() => props.e.kind === 'duration' && props.e.unit === 's')
const shown = (frames: number) => (inSeconds.value ? frames / fps.value : frames)
const frames = (v: number) => Math.round(inSeconds.value ? v * fps.value : v)
</script>

<template>
  <div v-if="e.kind === 'amount' || e.kind === 'angle'" class="amount-row">
    <NSlider v-named="e.label" :value="number" :min="e.min" :max="e.max" :step="e.step" :marks="e.notches.length ? marks : undefined" :tooltip="false" @update:value="(v: number | number[]) => slid(v as number)" @dragstart="hold" @dragend="letGo" />
    <NumberField label="" :name="e.label" :value="number" :unit="e.kind === 'angle' ? '°' : e.unit" :min="e.min" :max="e.max" :step="e.step" :reset="Number(e.default)" @draft="emit('draft', $event)" @press="emit('press', $event)" @change="emit('change', $event)" @cancel="emit('cancel')" />
  </div>
  <NumberField v-else-if="e.kind === 'duration'" label="" :name="e.label" :value="shown(number)" :unit="inSeconds ? 's' : 'frames'" :min="shown(e.min)" :max="shown(e.max)" :places="inSeconds ? 2 : 0" :step="inSeconds ? 0.1 : 1" :reset="shown(Number(e.default))" @press="emit('press', frames($event))" @change="emit('change', frames($event))" @cancel="emit('cancel')" />
  <div v-else-if="e.kind === 'place'" class="place">
    <NumberField v-for="(part, i) in ['x', 'y']" :key="part" :label="part" :name="`${e.label} ${part}`" :unit="unit ? '%' : 'px'" :value="place[i]!" :min="e.area.length ? e.area[i]! : -32768" :max="e.area.length ? e.area[i + 2]! : 32768" :places="1" @draft="emit('draft', put(i, $event))" @press="emit('press', put(i, $event))" @change="emit('change', put(i, $event))" @cancel="emit('cancel')" />
  </div>
  <WordsField v-else-if="e.kind === 'words' || e.kind === 'lines'" :e="e" :value="String(value)" @press="emit('press', $event)" @change="emit('change', $event)" />
  <FacePicker v-else-if="e.kind === 'typeface'" :value="String(value)" :label="e.label" :sample="e.sample" :among="e.options" @change="emit('change', $event)" />
  <NSwitch v-else-if="e.kind === 'switch'" class="switch" size="small" :value="value === true" :aria-label="e.label" @update:value="(v: boolean) => emit('change', v)" />
  <NRadioGroup v-else-if="e.kind === 'choice' && few" :value="String(value)" size="small" :aria-label="e.label" @update:value="(v: string) => emit('change', v)">
    <NRadioButton v-for="o in e.options" :key="o.id" :value="o.id" :data-option="o.id">{{ o.name }}</NRadioButton>
  </NRadioGroup>
  <NSelect v-else-if="e.kind === 'choice'" :value="String(value)" size="small" :options="e.options.map((o) => ({ value: o.id, label: o.name }))" :aria-label="e.label" @update:value="(v: string) => emit('change', v)" />
  <div v-else-if="e.kind === 'gradient'" class="strips" role="radiogroup" :aria-label="e.label">
    <label v-for="o in e.options" :key="o.id" :class="{ on: o.id === value }" :data-option="o.id"><input type="radio" :name="`${e.id} gradient`" :value="o.id" :checked="o.id === value" @change="emit('change', o.id)" /><GradientStrip :stops="o.stops" /><span>{{ o.name }}</span></label>
  </div>
  <ColourField v-else-if="e.kind === 'colour'" :label="e.label" :value="String(value)" @draft="emit('draft', $event)" @change="emit('change', $event)" @cancel="emit('cancel')" />
</template>

<style scoped>
.switch { justify-self: start; margin-left: 8px; }
.amount-row { display: grid; grid-template-columns: minmax(0, 1fr) 88px; gap: 12px; align-items: center; padding-left: 8px; }
.strips { display: grid; grid-template-columns: repeat(auto-fill, minmax(74px, 1fr)); gap: 4px; }
.strips label { position: relative; display: grid; gap: 2px; padding: 3px; border: 1px solid transparent; border-radius: 8px; cursor: pointer; font-size: 12px; min-width: 0; }
.strips label:hover { border-color: var(--rule-strong); }
.strips label.on { border-color: var(--ivy); background: var(--ivy-wash); font-weight: 600; }
.strips label:focus-within { box-shadow: 0 0 0 2px var(--ivy); }
.strips input { position: absolute; opacity: 0; inset: 0; margin: 0; cursor: pointer; }
.strips span:last-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.place { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
</style>
