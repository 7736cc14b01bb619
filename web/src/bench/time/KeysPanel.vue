<script setup lang="ts">
import { IconClipboard, IconCopy } from '@tabler/icons-vue'
import { NButton, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Act } from '../../api/client'
import ColourField from '../../common/ColourField.vue'
import { useDocument } from '../../common/document'
import NumberField from '../../common/NumberField.vue'
import { useTransient } from '../../common/transient'
import { useActs, type Deed } from '../acts'
import { useCurves } from './curves'
import EaseEditor from './EaseEditor.vue'
import EaseShelf from './EaseShelf.vue'
import type { Bezier } from './easings'
import { keyPath, useMotion } from './motion'
import OwnEasings from './OwnEasings.vue'

/** The keys that are picked: when they are, what is seen there, and how the ways go that begin at them. */
const doc = useDocument()
const motion = useMotion()
const transient = useTransient()
const { act, does } = useActs()

const keys = computed(() => motion.chosen)
const first = computed(() => keys.value[0]!)
const paths = computed(() => [...new Set(keys.value.map((k) => k.track.path))])
const labels = computed(() => [...new Set(keys.value.map((k) => k.track.label))])
const curves = useCurves(() => paths.value)
/** What is seen at the first of them, where all are of the same property. */
const curve = computed(() => (labels.value.length === 1 ? curves.value.find((c) => c.path === first.value.track.path) : undefined))
const value = computed(() => curve.value?.keys.find((k) => k.id === first.value.key.id))
const asOne = computed(() => !!curve.value?.alike && new Set(value.value?.value).size === 1)
const mixed = computed(() => {
  const said = curves.value.flatMap((c) => c.keys.filter((k) => motion.isPicked.has(keyPath(c.path, k.id))).map((k) => JSON.stringify(k.text || k.value.map((v) => Math.round(v * 1000)))))
  return new Set(said).size > 1
})

const op = (deed: Deed): Act => act({ ...deed, keys: motion.picked, layers: [] })
const span = computed(() => motion.span ?? { from: 0, to: 0 })
const at = (n: number) => does({ kind: 'retime', keys: motion.picked, frames: Math.round(n - span.value.from), layers: [] })
const scaled = (to: number) => does({ kind: 'retime', keys: motion.picked, from: [span.value.from, span.value.to], to: [span.value.from, to], layers: [] })
function valued(i: number, v: number): Act {
  const all = (value.value?.value ?? []).map((n, k) => (i < 0 || k === i ? v / curve.value!.factor : n))
  return op({ kind: 'keyed', value: all.length === 1 ? all[0] : all })
}

/** Of keys that go nowhere nothing is eased: the last of each property. */
const leading = computed(() => keys.value.filter((k) => k.track.keys.at(-1)?.id !== k.key.id))
const way = computed(() => {
  const k = (leading.value[0] ?? first.value).key
  return k.hold ? 'hold' : k.steps ? 'steps' : k.ease ? 'curve' : 'linear'
})
const alike = computed(() => new Set(leading.value.map((k) => JSON.stringify([k.key.ease, k.key.steps, k.key.hold]))).size < 2)
const LINEAR: Bezier = [0.25, 0.25, 0.75, 0.75]
const ease = computed<Bezier>(() => ((leading.value[0] ?? first.value).key.ease as Bezier | undefined) ?? LINEAR)
const steps = computed(() => (leading.value[0] ?? first.value).key.steps ?? { count: 4 })
const drafted = ref<Bezier | null>(null)
watch(() => [doc.draft?.revision, motion.picked], () => (drafted.value = null))
const eased = (e: Bezier): Act => op({ kind: 'ease', way: 'curve', value: e })
function keep(e: Bezier) {
  drafted.value = e
  void transient.keep(eased(e)).then((kept) => kept || (drafted.value = null))
}
function show(e: Bezier) {
  drafted.value = e
  transient.show(eased(e))
}
const ways = [
  ['linear', 'Even'],
  ['curve', 'Curve'],
  ['steps', 'Steps'],
  ['hold', 'Hold'],
] as const
function choose(w: (typeof ways)[number][0]) {
  if (w === 'curve') return keep(way.value === 'curve' ? ease.value : [0.6, 0, 0.3, 1])
  void does({ kind: 'ease', way: w, keys: motion.picked, steps: w === 'steps' ? { count: 4 } : undefined, layers: [] })
}
const jumps = [
  { value: 'end', label: 'at the end' },
  { value: 'start', label: 'at the start' },
  { value: 'none', label: 'at neither end' },
  { value: 'both', label: 'at both ends' },
]
const numbered = (i: number, v: number) => ease.value.map((n, k) => (k === i ? v : n)) as Bezier

/** Properties of several numbers, whose keys come apart; and numbers whose keys come together. */
const whole = computed(() => (curve.value && curve.value.parts.length > 1 ? paths.value : []))
const parts = computed(() => (keys.value.every((k) => k.track.whole) ? [...new Set(keys.value.map((k) => k.track.whole))] : []))
</script>

<template>
  <section class="keys" data-test="keys-panel" aria-label="Picked keys">
    <header><h3 class="heading">{{ keys.length === 1 ? 'Key' : `${keys.length} keys` }}</h3><span class="quiet">{{ labels.length === 1 ? labels[0] : `of ${labels.length} properties` }}</span></header>
    <p v-if="keys.some((k) => k.track.by)" class="quiet small" data-test="of-a-move">{{ keys.every((k) => k.track.by) ? 'They are' : 'Some are' }} of a saved move: what is changed here is changed for all who perform it.</p>
    <div class="grid">
      <NumberField :label="keys.length === 1 ? 'Frame' : 'From frame'" name="Frame of the keys" :value="span.from" :min="-200000" :max="200000" :places="2" data-test="key-frame" @press="at" @change="at" />
      <NumberField v-if="span.to > span.from" label="to" name="Last frame of the keys" :value="span.to" :min="span.from + 1" :max="200000" :places="2" data-test="key-until" @press="scaled" @change="scaled" />
    </div>
    <template v-if="curve && value">
      <div v-if="curve.counted" class="grid values" data-test="key-values">
        <NumberField v-if="asOne" :label="curve.label" :name="`${curve.label} at the key`" :unit="curve.sign" :value="value.value[0]! * curve.factor" :places="2" @draft="transient.show(valued(-1, $event))" @press="transient.soon(valued(-1, $event))" @change="transient.keep(valued(-1, $event))" @cancel="transient.hide" />
        <NumberField v-for="(part, i) in asOne ? [] : curve.parts" :key="`${part}${i}`" :label="part || curve.label" :name="`${curve.label} ${part} at the key`" :unit="curve.sign" :value="value.value[i]! * curve.factor" :places="2" @draft="transient.show(valued(i, $event))" @press="transient.soon(valued(i, $event))" @change="transient.keep(valued(i, $event))" @cancel="transient.hide" />
      </div>
      <ColourField v-else-if="value.text.startsWith('#')" :label="curve.label" :value="value.text" clear :colours="doc.draft?.colours" named="" @draft="transient.show(op({ kind: 'keyed', value: $event }))" @change="transient.keep(op({ kind: 'keyed', value: $event }))" @cancel="transient.hide" />
      <p v-else-if="value.text" class="quiet small">{{ value.text }}</p>
      <p v-if="mixed" class="quiet small">They differ; shown is the first. What you set they all get.</p>
    </template>
    <template v-if="leading.length">
      <div class="ways" role="radiogroup" aria-label="How the way to the next key goes">
        <button v-for="[id, name] in ways" :key="id" role="radio" :aria-checked="way === id && alike" :class="{ on: way === id && alike }" :data-way="id" @click="choose(id)">{{ name }}</button>
      </div>
      <p v-if="!alike" class="quiet small">They go in different ways; shown is the first.</p>
      <template v-if="way === 'curve'">
        <EaseEditor :ease="drafted ?? ease" @draft="show" @change="keep" @cancel="((drafted = null), transient.hide())" />
        <div class="four">
          <NumberField v-for="(n, i) in drafted ?? ease" :key="i" :label="['x₁', 'y₁', 'x₂', 'y₂'][i]!" :name="`cubic-bezier ${['x1', 'y1', 'x2', 'y2'][i]}`" :value="n" :step="0.01" :min="i % 2 ? -20 : 0" :max="i % 2 ? 20 : 1" :places="3" :data-ease="i" @draft="show(numbered(i, $event))" @press="transient.soon(eased(numbered(i, $event)))" @change="keep(numbered(i, $event))" @cancel="((drafted = null), transient.hide())" />
        </div>
      </template>
      <div v-else-if="way === 'steps'" class="grid">
        <NumberField label="Steps" :value="steps.count" :min="steps.jump === 'none' ? 2 : 1" :max="1000" :places="0" data-test="steps" @press="does({ kind: 'ease', way: 'steps', keys: motion.picked, steps: { ...steps, count: $event }, layers: [] })" @change="does({ kind: 'ease', way: 'steps', keys: motion.picked, steps: { ...steps, count: $event }, layers: [] })" />
        <NSelect size="small" :value="steps.jump ?? 'end'" :options="jumps" aria-label="Where a step is made" @update:value="(j: 'end' | 'start' | 'none' | 'both') => does({ kind: 'ease', way: 'steps', keys: motion.picked, steps: { count: Math.max(j === 'none' ? 2 : 1, steps.count), jump: j === 'end' ? undefined : j }, layers: [] })" />
      </div>
      <EaseShelf :ease="way === 'curve' ? (drafted ?? ease) : null" @pick="keep" />
      <OwnEasings :ease="way === 'curve' ? ease : null" :steps="way === 'steps' ? steps : null" :named="alike ? ((leading[0] ?? first).key.named ?? '') : ''" />
      <div class="acts">
        <NButton size="tiny" title="This easing, for other keys" data-test="copy-ease" @click="motion.copied = { ...(leading[0] ?? first).key }"><template #icon><IconCopy :size="14" /></template>Copy easing</NButton>
        <NButton size="tiny" :disabled="!motion.copied" title="The copied easing on all picked keys" data-test="paste-ease" @click="motion.copied && does({ kind: 'ease', way: motion.copied.hold ? 'hold' : motion.copied.steps ? 'steps' : motion.copied.ease ? 'curve' : 'linear', value: motion.copied.ease, steps: motion.copied.steps, keys: motion.picked, layers: [] })"><template #icon><IconClipboard :size="14" /></template>Paste</NButton>
      </div>
    </template>
    <p v-else class="quiet small">It is the last key; no way begins here.</p>
    <div v-if="whole.length || parts.length" class="acts">
      <NButton v-if="whole.length" size="tiny" data-test="keys-apart" @click="does({ kind: 'apart', way: 'apart', paths: whole, layers: [] })">Keys for each number</NButton>
      <NButton v-if="parts.length" size="tiny" data-test="keys-together" @click="does({ kind: 'apart', way: 'together', paths: parts, layers: [] })">Keys for all numbers</NButton>
    </div>
  </section>
</template>

<style scoped>
.keys { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); padding: 10px 11px 12px; border-radius: 9px; background: rgba(231, 161, 58, 0.11); box-shadow: inset 0 0 0 1px rgba(168, 108, 20, 0.3); }
header { display: flex; align-items: baseline; justify-content: space-between; gap: 8px; }
.grid { display: grid; grid-template-columns: repeat(2, minmax(0, 1fr)); gap: 5px 8px; align-items: center; }
.four { display: grid; grid-template-columns: repeat(2, minmax(0, 1fr)); gap: 5px 8px; }
.ways { display: grid; grid-template-columns: repeat(4, 1fr); background: var(--linen-deep); border-radius: 8px; padding: 2px; }
.ways button { border: 0; background: none; border-radius: 6px; padding: 3px 0; cursor: pointer; font-size: 12px; }
.ways .on { background: #fffefa; color: var(--ivy-deep); font-weight: 600; box-shadow: 0 1px 2px rgba(0, 0, 0, 0.12); }
.acts { display: flex; gap: 6px; flex-wrap: wrap; }
.small { font-size: 12px; }
</style>
