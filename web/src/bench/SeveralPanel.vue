<script setup lang="ts">
import { IconLayoutAlignBottom, IconLayoutAlignCenter, IconLayoutAlignLeft, IconLayoutAlignMiddle, IconLayoutAlignRight, IconLayoutAlignTop, IconLayoutDistributeHorizontal, IconLayoutDistributeVertical } from '@tabler/icons-vue'
import { NButton, NDropdown } from 'naive-ui'
import { computed, ref } from 'vue'

import { tip } from '../common/commands'
import { useSelection } from '../common/selection'
import SpoolIcon from '../common/SpoolIcon.vue'
import { useActs } from './acts'

/** What is done to the selection as a whole: how it stands, its order, and numbers of several at once. */
const selection = useSelection()
const { chosen, does, copy, cut, paste, dress, alone } = useActs()
const clips = [
  { key: 'copy', label: tip('copy', 'Copy') },
  { key: 'cut', label: tip('cut', 'Cut') },
  { key: 'paste', label: tip('paste', 'Paste above it') },
  { key: 'look', label: tip('paste-look') },
  { key: 'masks', label: 'Paste only the masks' },
  { key: 'motion', label: 'Paste only the motion' },
  { key: 'share', label: 'Lengths in shares of the shorter side' },
  { key: 'px', label: 'Lengths in px on every canvas' },
]
function clip(key: string) {
  const what = { copy, cut, paste }[key]
  if (what) void what()
  else if (key === 'share' || key === 'px') void does({ kind: 'unit', way: key })
  else void dress(key as 'look')
}
const aligns = [
  ['left', 'Left edges', IconLayoutAlignLeft],
  ['centre', 'Middles, across', IconLayoutAlignCenter],
  ['right', 'Right edges', IconLayoutAlignRight],
  ['top', 'Upper edges', IconLayoutAlignTop],
  ['middle', 'Middles, down', IconLayoutAlignMiddle],
  ['bottom', 'Lower edges', IconLayoutAlignBottom],
] as const
const numbers = [
  ['place.x', 'x', 'px'],
  ['place.y', 'y', 'px'],
  ['size.x', 'Width', 'px'],
  ['size.y', 'Height', 'px'],
  ['turn', 'Turn', '°'],
  ['scale', 'Scale', '%'],
  ['opacity', 'Opacity', '%'],
  ['radius', 'Corner radius', 'px'],
] as const
/** What of all of them may be put on the sheet at once. */
const offers = computed(() => [
  ...(chosen.value.some((y) => y.pocket) ? [{ key: 'pockets', label: 'Their pockets' }] : []),
  ...(chosen.value.every((y) => y.kind === 'shape' || y.kind === 'ground') ? [{ key: 'fill', label: 'Fill' }] : []),
  ...[['opacity', 'Opacity'], ['hidden', 'Whether they are shown'], ['place', 'Place'], ['turn', 'Turn'], ['scale', 'Scale']].map(([key, label]) => ({ key, label })),
])
function offer(key: string) {
  const paths = key === 'pockets' ? [...new Set(chosen.value.filter((y) => y.pocket).map((y) => `pockets/${y.pocket}`))] : chosen.value.map((y) => `layers/${y.id}/${key}`)
  void does({ kind: 'offer', paths, layers: [] })
}
const typed = ref<Record<string, string>>({})
const wrong = ref('')
async function set(path: string) {
  const text = typed.value[path]?.trim()
  if (!text) return
  if (!/^([*/+]|-=)?\s*[-−]?[\d.,]+$/.test(text)) return void (wrong.value = path)
  wrong.value = ''
  if (await does({ kind: 'adjust', path, name: text })) typed.value[path] = ''
}
</script>

<template>
  <section class="several" data-test="several">
    <div class="icons" role="toolbar" aria-label="Align">
      <button v-for="[way, name, icon] in aligns" :key="way" class="icon-button" :title="`${name}${selection.layers.length > 1 ? '' : ', to the canvas'}`" :aria-label="`Align: ${name}`" :data-align="way" @click="does({ kind: 'align', way })"><component :is="icon" :size="17" /></button>
      <button class="icon-button" :disabled="selection.layers.length < 3" title="Equal gaps, across" aria-label="Equal gaps, across" data-test="spread-across" @click="does({ kind: 'spread', way: 'across' })"><IconLayoutDistributeVertical :size="17" /></button>
      <button class="icon-button" :disabled="selection.layers.length < 3" title="Equal gaps, down" aria-label="Equal gaps, down" data-test="spread-down" @click="does({ kind: 'spread', way: 'down' })"><IconLayoutDistributeHorizontal :size="17" /></button>
    </div>
    <div class="acts">
      <NButton v-if="chosen.length > 1" size="tiny" :title="tip('group')" data-test="group" @click="does({ kind: 'group' })">Group</NButton>
      <NButton v-if="chosen.every((y) => y.kind === 'group')" size="tiny" :title="tip('ungroup')" data-test="ungroup" @click="does({ kind: 'ungroup' })">Ungroup</NButton>
      <NButton v-if="chosen.length === 1 && chosen[0]?.kind === 'group'" size="tiny" :title="tip('make-motif', 'Built once, used many times: a change of it changes all uses')" data-test="motif" @click="does({ kind: 'motif' })">Make a motif</NButton>
      <NButton v-if="chosen.every((y) => y.motif)" size="tiny" :title="tip('make-motif', 'A group again, with layers of its own')" data-test="unmotif" @click="does({ kind: 'unmotif' })">Make it a group</NButton>
      <NButton v-if="chosen.every((y) => y.kind === 'shape' || y.kind === 'picture')" size="tiny" :title="tip('make-pocket', 'Make a pocket of it')" data-test="make-pocket" @click="does({ kind: 'sew' })">Make a pocket</NButton>
      <NButton v-if="chosen.every((y) => y.kind === 'view')" size="tiny" :title="tip('make-pocket', 'A picture or a shape again')" data-test="unpick" @click="does({ kind: 'unpick' })">Unpick</NButton>
      <NButton v-if="chosen.length > 1 && chosen.every((y) => y.layout)" size="tiny" title="One cell of these; the first takes it" data-test="merge" @click="does({ kind: 'merge' })">Merge cells</NButton>
      <NButton size="tiny" :title="tip('duplicate')" @click="does({ kind: 'duplicate' })">Duplicate</NButton>
      <NDropdown trigger="click" :options="clips" @select="clip"><NButton size="tiny" data-test="clip">More …</NButton></NDropdown>
      <NButton size="tiny" :type="selection.alone.length ? 'warning' : 'default'" :title="tip('alone')" data-test="alone" @click="alone()">{{ selection.alone.length ? 'Show all' : 'Alone' }}</NButton>
      <NButton size="tiny" quaternary :title="tip('discard')" data-test="discard" @click="does({ kind: 'discard' })">Delete</NButton>
    </div>
    <template v-if="chosen.length > 1">
      <NDropdown trigger="click" :options="offers" @select="offer"><NButton size="tiny" class="sheet" data-test="offer-several" title="What is alike in all becomes one entry, else there is one for each"><template #icon><SpoolIcon kind="amount" :size="13" /></template>Put on sheet …</NButton></NDropdown>
      <h3 class="heading">Numbers of all {{ chosen.length }}</h3>
      <div class="grid">
        <label v-for="[path, label, sign] in numbers" :key="path" :class="{ wrong: wrong === path }"><span>{{ label }}</span>
          <input v-model="typed[path]" class="num" :placeholder="sign" :aria-label="`${label} of all`" :data-adjust="path" title="A number for all, or what is done to each: *1.2, /2, +40, -=10" @change="set(path)" @keydown.enter="set(path)" />
        </label>
      </div>
      <p class="quiet small">A number sets all; <span class="num">*1.2</span>, <span class="num">/2</span>, <span class="num">+40</span> and <span class="num">-=10</span> are done to each.</p>
    </template>
  </section>
</template>

<style scoped>
.several { display: grid; gap: 9px; }
.icons { display: flex; flex-wrap: wrap; gap: 1px; }
.icons .icon-button { width: 29px; height: 27px; }
.acts { display: flex; flex-wrap: wrap; gap: 5px; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 5px 8px; }
label { display: flex; align-items: baseline; gap: 6px; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; padding: 3px 8px; min-width: 0; }
label:focus-within { border-color: var(--ivy); }
label.wrong { border-color: var(--rust); background: var(--rust-wash); }
label span { color: var(--ink-quiet); white-space: nowrap; }
input { flex: 1; width: 20px; min-width: 0; border: 0; outline: 0; background: none; text-align: right; color: var(--ink); }
.sheet { justify-self: start; }
.small { font-size: 12px; }
</style>
