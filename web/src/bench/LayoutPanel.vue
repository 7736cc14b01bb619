<script setup lang="ts">
import { NButton, NInputNumber, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import { useDocument } from '../common/document'
import { plain } from '../common/format'
import NumberField from '../common/NumberField.vue'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useActs } from './acts'
import OfferButton from './OfferButton.vue'

/** A split: its lines by weights, its gutter, margin and radius, and the cell that is selected. */
const props = defineProps<{ id: string }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const { act, does } = useActs()
const layout = computed(() => doc.draft!.layouts.find((l) => l.id === props.id))
const split = computed(() => layout.value?.splits[selection.format])
/** Changes stay in the format alone where it has its own, or where that is wished. */
const where = (name: string) => (selection.apart || doc.draft!.formats.find((f) => f.id === selection.format)?.own.some((o) => o.path === `layouts/${props.id}/${name}`) ? selection.format : undefined)
const op = (name: string, value: number | number[] | string) => ({ ...act({ kind: 'rest', path: `layouts/${props.id}/${name}`, value, layers: [] }), apart: !!where(name) })

const weights = ref({ columns: '', rows: '' })
watch(split, (s) => s && (weights.value = { columns: s.columns.map((n) => plain(n, 2)).join('  '), rows: s.rows.map((n) => plain(n, 2)).join('  ') }), { immediate: true })
const wrong = ref('')
function weigh(name: 'columns' | 'rows') {
  const s = split.value!
  const list = weights.value[name].trim().split(/[\s;:]+/).map((t) => Number(t.replace(',', '.')))
  if (list.some((n) => !(n > 0)) || list.length < 1 || list.length > 16) return void (wrong.value = `Weights above 0, such as 2 1 1; as many as there are ${name}.`)
  if (list.length < s[name].length && doc.draft!.layers.some((y) => y.layout === props.id)) return void (wrong.value = `There are layers in ${s[name].length} ${name}; merge or delete cells first.`)
  wrong.value = ''
  void doc.change(op(name, list))
}
const one = computed(() => (selection.layers.length === 1 && selection.line?.layout === props.id ? selection.line : null))
const free = computed(() => layout.value?.cells[selection.format]?.filter((c) => c.free) ?? [])
const sewInto = (c: { row: number; column: number }) => does({ kind: 'sew', path: `layouts/${props.id}`, numbers: { row: c.row, column: c.column }, layers: [] })
const parts = ref<number | null>(2)
const lengths = [
  ['gutter', 'Gutter'],
  ['margin', 'Margin'],
  ['radius', 'Corner radius', 'Radius'],
] as const
</script>

<template>
  <div v-if="layout && split" class="layout" data-test="layout">
    <div class="line"><h3 class="heading">Split</h3><span v-if="split.own" class="chip">{{ selection.formatView?.name.toLowerCase() }}</span></div>
    <div v-if="one" class="acts">
      <NInputNumber v-model:value="parts" size="tiny" :min="2" :max="15" class="parts" :input-props="{ 'aria-label': 'Into how many' }" />
      <NButton size="tiny" data-test="divide-columns" title="The cell becomes so many side by side" @click="does({ kind: 'divide', way: 'columns', to: [parts ?? 2, 0] })">columns</NButton>
      <NButton size="tiny" data-test="divide-rows" title="The cell becomes so many under one another" @click="does({ kind: 'divide', way: 'rows', to: [parts ?? 2, 0] })">rows</NButton>
      <NButton size="tiny" quaternary data-test="uncell" title="It keeps its place and size, and is free of the split" @click="does({ kind: 'uncell' })">Take it out</NButton>
    </div>
    <div v-if="free.length" class="acts"><NButton v-for="c in free" :key="`${c.row} ${c.column}`" size="tiny" :data-free="c.name" title="Nothing stands in this cell: sew a pocket into it" @click="sewInto(c)">Pocket in the {{ c.name }} cell</NButton></div>
    <label v-for="name in (['columns', 'rows'] as const)" :key="name" class="weights"><span>{{ name === 'columns' ? 'Columns' : 'Rows' }}</span><input v-model="weights[name]" class="num" :aria-label="`Weights of the ${name}`" :data-weights="name" title="Weights: 2 1 makes the first twice as large; or drag the lines on the stage" @change="weigh(name)" @keydown.enter="weigh(name)" /></label>
    <p v-if="wrong" class="rust" role="alert">{{ wrong }}</p>
    <div class="grid">
      <div v-for="[name, label, short] in lengths" :key="name" class="length"><OfferButton :paths="[`layouts/${id}/${name}`]" :what="label" /><NumberField :label="short ?? label" :name="label" unit="px" :value="split[name]" :min="0" :max="8192" :reset="0" @draft="transient.show(op(name, $event))" @press="transient.soon(op(name, $event))" @change="transient.keep(op(name, $event))" @cancel="transient.hide()" /></div>
    </div>
    <NRadioGroup :value="split.by" size="small" aria-label="How the gutter is made" @update:value="(v: string) => doc.change(op('gutterBy', v))">
      <NRadioButton value="shrink" title="Cells get smaller; the outer edges stay">Smaller cells</NRadioButton>
      <NRadioButton value="outwards" title="Cells keep their size and move apart; the outer edges are lost">Moved outwards</NRadioButton>
    </NRadioGroup>
  </div>
</template>

<style scoped>
.layout { display: grid; gap: 7px; grid-template-columns: minmax(0, 1fr); }
.line { display: flex; justify-content: space-between; align-items: baseline; }
.chip { font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 0 5px; color: var(--ink-quiet); }
.acts { display: flex; gap: 5px; flex-wrap: wrap; align-items: center; }
.parts { width: 62px; }
.weights { display: flex; align-items: baseline; gap: 8px; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; padding: 3px 8px; }
.weights:focus-within { border-color: var(--ivy); }
.weights span { color: var(--ink-quiet); }
.weights input { flex: 1; min-width: 0; border: 0; outline: 0; background: none; text-align: right; color: var(--ink); }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
.length { display: grid; grid-template-columns: 20px minmax(0, 1fr); gap: 3px; }
.rust { color: var(--rust); font-size: 12px; }
</style>
