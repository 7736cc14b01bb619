<script setup lang="ts">
import { NButton, NSelect } from 'naive-ui'
import { computed, onMounted, ref, watch } from 'vue'

import { api, ask, type ReadyMove } from '../../api/client'
import { useDocument } from '../../common/document'
import NumberField from '../../common/NumberField.vue'
import { useSelection } from '../../common/selection'
import { useTransient } from '../../common/transient'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import { useTool } from '../tool'
import AskedNumbers from './AskedNumbers.vue'
import { keyPath, useMotion } from './motion'
import SavedMoves from './SavedMoves.vue'
import StaggerLine from './StaggerLine.vue'

/** Ready moves for the selection, from the playhead on; and what several layers do, one after the other or backwards. */
const doc = useDocument()
const selection = useSelection()
const motion = useMotion()
const transient = useTransient()
const transport = useTransport()
const tool = useTool()
const { act, does, chosen } = useActs()

const moves = ref<ReadyMove[]>([])
onMounted(async () => (moves.value = await ask(api.GET('/api/moves')).catch(() => [])))
const open = ref('')
watch(() => selection.layers, () => (open.value = ''))
const move = computed(() => moves.value.find((m) => m.kind === open.value))
/** What each was last put on with. */
const numbers = ref<Record<string, Record<string, number>>>({})
const mine = computed(() => numbers.value[open.value] ?? {})
const set = (n: Record<string, number>) => (numbers.value[open.value] = n)
/** Of words each line, word or letter may do it, one after another. */
const worded = computed(() => chosen.value.length > 0 && chosen.value.every((y) => y.kind === 'words'))
const by = ref('whole')
const parts = [
  { value: 'whole', label: 'all at once' },
  { value: 'line', label: 'line by line' },
  { value: 'word', label: 'word by word' },
  { value: 'letter', label: 'letter by letter' },
]
/** The selection performs it from now on: what it is performed with are values, and the move is saved. */
async function perform() {
  const one = chosen.value[0]
  const before = new Set(one?.performs.map((p) => p.id))
  if (!(await does({ kind: 'perform', way: open.value, numbers: mine.value, by: worded.value && by.value !== 'whole' ? by.value : undefined }))) return
  for (const y of chosen.value) motion.open(y.id, true)
  tool.performance = chosen.value[0]?.performs.find((p) => !before.has(p.id))?.id ?? ''
  open.value = ''
}
async function put() {
  const before = new Set(motion.all.keys())
  if (!(await does({ kind: 'ready', way: open.value, numbers: mine.value }))) return
  // What came is picked, to be eased and moved.
  motion.pick([...motion.all.keys()].filter((k) => !before.has(k)))
  for (const y of chosen.value) motion.open(y.id, true)
  open.value = ''
}

const moving = computed(() => chosen.value.filter((y) => y.tracks.length || y.performs.length))
const keys = computed(() => moving.value.flatMap((y) => y.tracks.filter((t) => !t.by).flatMap((t) => t.keys.map((k) => keyPath(t.path, k.id)))))
const orders = [
  { value: 'order', label: 'from the lowest up' },
  { value: 'back', label: 'from the topmost down' },
  { value: 'right', label: 'from left to right' },
  { value: 'left', label: 'from right to left' },
  { value: 'down', label: 'from above down' },
  { value: 'up', label: 'from below up' },
  { value: 'middle', label: 'from the middle out' },
  { value: 'edges', label: 'from the edges in' },
  { value: 'random', label: 'by chance' },
]
const order = ref('order')
const each = ref(4)
const overlap = ref<number | null>(null)
const seed = ref(1)
/** Only the picked keys are staggered, where they are of several layers; those of saved moves begin when their layers perform them. */
const loose = computed(() => motion.chosen.filter((k) => !k.track.by))
const only = computed(() => (new Set(loose.value.map((k) => k.layer.id)).size > 1 ? loose.value.map((k) => k.path) : undefined))
/** When what each of them does begins and ends. */
const turns = computed(() =>
  moving.value.flatMap((y) => {
    const at = only.value ? loose.value.filter((k) => k.layer.id === y.id).map((k) => k.key.at) : [...y.tracks.filter((t) => !t.by).flatMap((t) => t.keys.map((k) => k.at)), ...y.performs.flatMap((p) => [p.from, p.until])]
    return at.length ? [{ id: y.id, name: y.name, from: Math.min(...at), until: Math.max(...at) }] : []
  }),
)
const spread = (from: number, frames: number) => act({ kind: 'stagger', way: order.value, keys: only.value, numbers: { from, spread: frames, ...(order.value === 'random' ? { seed: seed.value } : {}) } })
const stagger = (n: { each?: number; overlap?: number } = {}) => {
  const by = n.overlap ?? (n.each === undefined ? overlap.value : null)
  return act({ kind: 'stagger', way: order.value, keys: only.value, numbers: { ...(by === null ? { frames: n.each ?? each.value } : { overlap: by }), ...(order.value === 'random' ? { seed: seed.value } : {}) } })
}
function frames(v: number) {
  overlap.value = null
  each.value = Math.round(v)
  void transient.keep(stagger({ each: each.value }))
}
function overlaps(v: number) {
  overlap.value = v
  void transient.keep(stagger({ overlap: v }))
}
</script>

<template>
  <details class="moves" data-test="moves">
    <summary class="heading">Moves</summary>
    <div class="list">
      <button v-for="m in moves" :key="m.kind" class="move" :class="{ on: open === m.kind }" :aria-expanded="open === m.kind" :title="m.about" :data-move="m.kind" @click="open = open === m.kind ? '' : m.kind">{{ m.label }}</button>
    </div>
    <div v-if="move" class="asked">
      <p class="quiet small">{{ move.about }}, from frame {{ Math.floor(transport.shows) }} on.</p>
      <AskedNumbers :asked="move.numbers" :numbers="mine" @draft="set" @press="set" @change="set" />
      <label v-if="worded" class="by"><span>Done</span><NSelect v-model:value="by" size="small" :options="parts" aria-label="Done" data-test="done-by" /></label>
      <div class="two">
        <NButton size="small" type="primary" title="Its length, distance and softness stay values, which may be offered; a change of the move is one for all who perform it" data-test="perform" @click="perform">Perform it</NButton>
        <NButton size="small" :disabled="worded && by !== 'whole'" title="Keys of its own, which nothing else speaks of" data-test="put-move" @click="put">As loose keys</NButton>
      </div>
    </div>
    <SavedMoves />
    <template v-if="moving.length > 1">
      <p class="name">One after the other</p>
      <StaggerLine v-if="turns.length > 1" :list="turns" class="line" @draft="(from, n) => transient.show(spread(from, n))" @change="(from, n) => void transient.keep(spread(from, n))" @press="(from, n) => transient.soon(spread(from, n))" @cancel="transient.hide" />
      <div class="grid" data-test="stagger">
        <NumberField label="Each later by" unit="frames" :value="each" :min="-1000" :max="1000" :places="0" @draft="transient.show(stagger({ each: Math.round($event) }))" @press="frames" @change="frames" @cancel="transient.hide" />
        <NumberField label="Overlap" unit="%" :value="overlap ?? 0" :min="0" :max="100" :places="0" @draft="transient.show(stagger({ overlap: $event }))" @press="overlaps" @change="overlaps" @cancel="transient.hide" />
        <NSelect v-model:value="order" size="small" :options="orders" aria-label="Which begins when" data-test="stagger-order" @update:value="does(stagger())" />
        <NumberField v-if="order === 'random'" label="Seed" :value="seed" :min="0" :max="9999" :places="0" @press="((seed = $event), does(stagger()))" @change="((seed = $event), does(stagger()))" />
      </div>
    </template>
    <NButton v-if="keys.length > 1" size="tiny" class="back" title="All its keys the other way round: it leaves as it came" data-test="backwards" @click="doc.draft && does({ kind: 'reverse', keys, layers: [] })">Backwards</NButton>
  </details>
</template>

<style scoped>
.moves { padding-top: 10px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
summary { cursor: pointer; }
.list { display: grid; grid-template-columns: repeat(3, minmax(0, 1fr)); gap: 4px; margin-top: 8px; }
.move { border: 1px solid var(--rule-strong); border-radius: 7px; background: #fffefa; padding: 4px 2px; cursor: pointer; font-size: 12px; }
.move:hover { border-color: var(--ivy); }
.move.on { background: var(--ivy-wash); border-color: var(--ivy); font-weight: 600; }
.asked { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); margin-top: 8px; }
.name { margin: 12px 0 5px; font-weight: 500; }
.grid { display: grid; grid-template-columns: minmax(0, 1fr); gap: 5px; }
.back { margin-top: 10px; }
.two { display: flex; gap: 6px; }
.by { display: grid; grid-template-columns: 60px minmax(0, 1fr); align-items: center; }
.line { margin-bottom: 6px; }
.small { font-size: 12px; }
</style>
