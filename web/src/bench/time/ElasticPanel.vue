<script setup lang="ts">
import { IconTrash } from '@tabler/icons-vue'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'

import { tip } from '../../common/commands'
import { useDocument } from '../../common/document'
import NumberField from '../../common/NumberField.vue'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import LengthsDialog from './LengthsDialog.vue'
import { useLength } from './length'
import { keyPath, useMotion } from './motion'
import { useSelection } from '../../common/selection'

/** What of the template's time is held, how short a piece may be, and what goes on across a border. */
const doc = useDocument()
const transport = useTransport()
const length = useLength()
const motion = useMotion()
const selection = useSelection()
const { does } = useActs()
const draft = computed(() => doc.draft!)
const held = computed(() => draft.value.time.filter((p) => p.kind === 'held'))
const trying = ref(false)
const border = (id: string, way: 'from' | 'to', at: number) => does({ kind: 'border', id, way, at: Math.round(at), layers: [] })
/** The keys from which something goes on across a border of held time. */
const crossing = computed(() => draft.value.layers.flatMap((y) => y.tracks.flatMap((t) => t.keys.filter((k) => k.crosses).map((k) => ({ layer: y.id, path: keyPath(t.path, k.id) })))))
function pick() {
  selection.layers = [...new Set(crossing.value.map((c) => c.layer))]
  motion.pick(crossing.value.map((c) => c.path))
  for (const c of crossing.value) motion.open(c.layer, true)
}
const stretches = computed(() => draft.value.longest > draft.value.shortest)
const range = computed(() => transport.range ?? null)
</script>

<template>
  <section data-test="elastic">
    <h3 class="heading">Elastic time</h3>
    <p v-if="!held.length" class="quiet small">All of it stretches. Drag over the pleats under the strip to hold a part: it always plays at its own speed.</p>
    <div v-for="p in held" :key="p.id" class="span" :data-span="p.id">
      <NumberField label="Held" :name="`First frame of the held span at ${p.from}`" :value="p.from" :min="0" :max="p.to - 1" :places="0" @change="border(p.id, 'from', $event)" @press="border(p.id, 'from', $event)" />
      <NumberField label="to" :name="`Last frame of the held span at ${p.from}`" :value="p.to - 1" :min="p.from" :max="draft.frames - 1" :places="0" @change="border(p.id, 'to', $event + 1)" @press="border(p.id, 'to', $event + 1)" />
      <button class="icon-button" :aria-label="`Let frames ${p.from} to ${p.to - 1} stretch`" title="Let it stretch" @click="does({ kind: 'loosen', from: [p.from, p.to], layers: [] })"><IconTrash :size="15" /></button>
    </div>
    <div class="acts">
      <NButton v-if="range" size="tiny" :title="tip('hold-time')" data-test="hold-range" @click="does({ kind: 'hold', from: [range.from, range.to], layers: [] })">Hold {{ range.from }}–{{ range.to - 1 }}</NButton>
      <NButton v-if="stretches" size="tiny" data-test="try-lengths" @click="trying = true">Try lengths</NButton>
    </div>
    <p v-if="stretches" class="quiet small">A piece has at least <strong class="num" data-test="shortest">{{ draft.shortest }}</strong> {{ draft.shortest === 1 ? 'frame' : 'frames' }}{{ held.length ? ', its held time' : '' }}.</p>
    <p v-else class="quiet small">All of it is held: pieces are as long as the template.</p>
    <p v-if="crossing.length" class="caution small" data-test="crossing">{{ crossing.length === 1 ? 'One way' : `${crossing.length} ways` }} from key to key {{ crossing.length === 1 ? 'crosses' : 'cross' }} a border of held time: a part of {{ crossing.length === 1 ? 'it' : 'each' }} stretches. <button class="link" data-test="pick-crossing" @click="pick">Pick {{ crossing.length === 1 ? 'it' : 'them' }}</button></p>
    <p v-if="length.tried" class="small">Tried at <span class="num">{{ length.tried }}</span> frames. <button class="link" @click="length.tryOut(draft.frames)">Back to {{ draft.frames }}</button></p>
    <LengthsDialog v-model:show="trying" />
  </section>
</template>

<style scoped>
.span { display: grid; grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr) auto; gap: 6px; align-items: center; margin-bottom: 4px; }
.acts { display: flex; gap: 6px; flex-wrap: wrap; }
.small { font-size: 12px; margin: 4px 0; }
.link { border: 0; background: none; padding: 0; color: var(--ivy-deep); text-decoration: underline; cursor: pointer; font: inherit; }
</style>
