<script setup lang="ts">
import { IconArrowBack } from '@tabler/icons-vue'
import { NCheckbox, NColorPicker, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Op, Property } from '../api/client'
import { plain } from '../lib/format'
import { usePiece } from '../stores/piece'
import NumberField from './NumberField.vue'

/** The selected layer's properties: where it stands and how it looks, live. */
const store = usePiece()
const view = computed(() => (store.layerView?.id === store.layer ? store.layerView : null))
const formatName = computed(() => store.formatView?.name.toLowerCase() ?? '')
const several = computed(() => store.piece!.template.formats.length > 1)

const names: Record<string, string> = {
  place: 'Place', size: 'Size', scale: 'Scale', turn: 'Turn', skew: 'Skew', origin: 'Origin', anchor: 'Anchored to', corners: 'Corners moved by', opacity: 'Opacity', fill: 'Fill', radius: 'Corner radius',
  'stroke.colour': 'Colour', 'stroke.width': 'Width', 'stroke.shift': 'Dashes begin', 'stroke.from': 'Drawn from', 'stroke.to': 'Drawn to', 'gradient.from': 'Gradient from', 'gradient.to': 'Gradient to',
  'content.turn': 'Turn', 'content.pan': 'Pan', 'content.zoom': 'Zoom', 'grade.slope': 'Slope', 'grade.offset': 'Offset', 'grade.power': 'Power', 'grade.saturation': 'Saturation',
  inner: 'Inner corners', head: 'Head', shaft: 'Shaft', round: 'Rounding', path: 'Path', feather: 'Feather', growth: 'Growth',
}
const last = (p: Property) => p.name.split('.').pop()!
const label = (p: Property) => names[p.name] ?? names[last(p)] ?? last(p)
/** Shares are shown in hundredths. */
const shares = new Set(['opacity', 'scale', 'origin', 'pan', 'zoom', 'from', 'to', 'inner', 'head', 'shaft', 'saturation'])
const by = (p: Property) => (p.unit === '' && shares.has(last(p)) ? 100 : 1)
const unit = (p: Property) => (by(p) === 100 ? '%' : p.unit)
const parts = (p: Property) => {
  if (last(p) === 'radius') return p.rest.every((n) => n === p.rest[0]) ? [''] : ['↖', '↗', '↘', '↙']
  if (last(p) === 'size') return ['Width', 'Height']
  if (p.rest.length === 2) return ['x', 'y']
  if (p.rest.length === 3) return ['R', 'G', 'B']
  return p.rest.length === 8 ? ['↖ x', '↖ y', '↗ x', '↗ y', '↘ x', '↘ y', '↙ x', '↙ y'] : ['']
}
const locked = (p: Property, i: number) => p.driver !== '' || !!p.formulas[p.formulas.length === 1 ? 0 : i]

const sections = computed(() => {
  const out: { title: string; props: Property[] }[] = []
  const into = (title: string, p: Property) => {
    const s = out.find((x) => x.title === title)
    if (s) s.props.push(p)
    else out.push({ title, props: [p] })
  }
  for (const p of view.value?.properties ?? []) {
    const head = p.name.split('.')[0]!
    if (head === 'masks') into(`Mask ${p.name.split('.')[1]}`, p)
    else if (head === 'stroke') into('Stroke', p)
    else if (head === 'content') into('Media inside', p)
    else if (head === 'grade') into('Grade', p)
    else if (['opacity', 'fill', 'radius', 'gradient', 'form'].includes(head)) into('Look', p)
    else into('Place', p)
  }
  const rank = (t: string) => ['Place', 'Look', 'Stroke', 'Grade', 'Media inside'].indexOf(t) + 1 || 9
  return out.sort((a, b) => rank(a.title) - rank(b.title))
})
/** Turned corners and skewing are rare; they wait folded up. */
const rare = new Set(['corners', 'skew', 'origin'])

/** Numbers and colours on the way, shown before they are kept. */
const drafts = ref<Record<string, number[] | string>>({})
watch(view, () => (drafts.value = {}))
const numbers = (p: Property) => (drafts.value[p.name] as number[] | undefined) ?? p.rest
function op(p: Property, rest: number[] | string): Op {
  const value = typeof rest === 'object' && rest.length === 1 ? rest[0] : rest
  return { kind: 'rest', layer: store.layer, property: p.name, rest: value, format: store.where(p) }
}
function with_(p: Property, i: number, v: number): number[] {
  const n = [...numbers(p)]
  if (parts(p).length === 1) n.fill(v / by(p))
  else n[i] = v / by(p)
  return n
}
function draft(p: Property, rest: number[] | string) {
  drafts.value[p.name] = rest
  store.draft = op(p, rest)
}
/** Puts the template's value back where somebody set another. */
function reset(p: Property) {
  if (p.changed) void store.change({ kind: 'rest', layer: store.layer, property: p.name, format: p.here ? store.format : undefined })
}
async function set(p: Property, rest: number[] | string) {
  drafts.value[p.name] = rest
  if (!(await store.change(op(p, rest)))) drafts.value = {}
  store.draft = null
}
const hex = (v: string) => v.toLowerCase().replace(/ff$/, (m, at: number) => (at === 7 ? '' : m))
/** What the property is at the playhead, where that is not where it rests. */
function now(p: Property): string {
  if (p.kind !== 'number' || !p.now.some((n, i) => Math.abs(n - p.rest[i]!) > 1e-9)) return ''
  const n = last(p) === 'radius' && p.now.every((v) => v === p.now[0]) ? p.now.slice(0, 1) : p.now
  return `${n.map((v) => plain(v * by(p), by(p) === 100 ? 1 : 2)).join(', ')}${unit(p) === '%' ? ' %' : unit(p) ? ` ${unit(p)}` : ''}`
}
function source(p: Property): string {
  if (p.driver) return `Set by ${p.driver}`
  const f = p.formulas.filter(Boolean)
  if (f.length) return `By formula: ${f.join('; ')}`
  return ''
}
</script>

<template>
  <div v-if="view" class="layer" :data-layer-panel="view.id">
    <p class="facts quiet small">
      <template v-if="view.blend !== 'normal'">Blends by {{ view.blend }}. </template><template v-if="view.matte">Cut by the {{ view.matte }}. </template><template v-if="view.follows">Follows {{ view.follows }}. </template><template v-if="view.copies">{{ view.copies }} copies.</template>
    </p>
    <NCheckbox v-if="several" v-model:checked="store.apart" size="small" data-test="apart">Set in {{ formatName }} alone</NCheckbox>
    <section v-for="s in sections" :key="s.title">
      <h3 class="heading">{{ s.title }}</h3>
      <template v-for="p in s.props" :key="p.name">
        <component :is="rare.has(p.name) ? 'details' : 'div'" class="property" :class="{ single: p.kind === 'number' && parts(p).length === 1 }" :data-property="p.name">
          <component :is="rare.has(p.name) ? 'summary' : 'div'" class="line">
            <span class="name">{{ label(p) }}</span>
            <span v-if="p.here || p.own" class="chip" :title="`Its own value in ${formatName}`">{{ formatName }}</span>
            <span v-if="p.moves" class="chip moves" title="Keys move it from where it rests">moves</span>
            <span v-if="now(p)" class="now num" title="At the playhead">{{ now(p) }}</span>
            <button v-if="p.changed" class="icon-button back" :title="`Reset ${label(p)} to the template’s`" :aria-label="`Reset ${label(p)}`" @click.prevent="reset(p)"><IconArrowBack :size="14" /></button>
          </component>
          <p v-if="source(p)" class="quiet small source" :title="source(p)">{{ source(p) }}</p>
          <p v-if="p.kind === 'path'" class="quiet small">Drawn by its points.</p>
          <NColorPicker v-else-if="p.kind === 'colour' && !p.driver && !p.formulas[0]" :value="String(drafts[p.name] ?? p.text) || null" :modes="['hex']" size="small" :actions="['confirm']"
            @update:value="(v: string) => draft(p, hex(v))" @confirm="(v: string) => set(p, hex(v))" @update:show="(open: boolean) => !open && drafts[p.name] !== undefined && set(p, drafts[p.name]!)" />
          <NSelect v-else-if="p.kind === 'words'" :value="p.text" size="small" :disabled="!!p.driver" :options="p.words.map((w) => ({ label: w, value: w }))" @update:value="(v: string) => set(p, v)" />
          <div v-else-if="p.kind === 'number'" class="grid" :class="{ three: parts(p).length === 3 }">
            <NumberField v-for="(part, i) in parts(p)" :key="part" :label="part" :unit="unit(p)" :value="numbers(p)[i]! * by(p)" :min="p.min * by(p)" :max="p.max * by(p)" :places="by(p) === 100 ? 1 : 2"
              resets :readonly="locked(p, i)" @reset="reset(p)" @draft="draft(p, with_(p, i, $event))" @change="set(p, with_(p, i, $event))" />
          </div>
        </component>
      </template>
    </section>
  </div>
</template>

<style scoped>
.layer { display: grid; gap: 12px; }
section { display: grid; gap: 8px; padding-top: 13px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
.property { display: grid; gap: 3px; }
.property.single { grid-template-columns: minmax(0, 1fr) 126px; column-gap: 8px; align-items: center; }
.property.single .grid { grid-template-columns: 1fr; grid-row: 1; grid-column: 2; }
.property.single .source { grid-column: 1 / -1; }
.property.single .line { flex-wrap: wrap; row-gap: 0; }
.line { display: flex; align-items: baseline; gap: 6px; min-height: 20px; }
details.property > .line { cursor: pointer; color: var(--ink-quiet); }
.name { font-weight: 500; }
.now { margin-left: auto; font-size: 11px; color: var(--ivy-deep); white-space: nowrap; }
.now::before { content: 'now '; font-family: 'Figtree', sans-serif; color: var(--ink-quiet); }
.chip { font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 0 5px; color: var(--ink-quiet); }
.chip.moves { background: var(--ivy-wash); color: var(--ivy-deep); }
.back { width: 22px; height: 20px; margin-left: auto; align-self: center; }
.now + .back { margin-left: 0; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 5px 8px; }
.grid.three { grid-template-columns: 1fr 1fr 1fr; }
.small { font-size: 12px; }
.facts:empty { display: none; }
.source { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
