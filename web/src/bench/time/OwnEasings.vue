<script setup lang="ts">
import { IconPencil, IconReplace, IconTrash } from '@tabler/icons-vue'
import { NButton, NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import { api, ask } from '../../api/client'
import type { components } from '../../api/schema'
import { useDocument } from '../../common/document'
import { useActs } from '../acts'
import { drawn, type Bezier } from './easings'
import { useMotion } from './motion'

/** The template's own easings, by name: given to picked keys, changed in one place for all that go by them, and those of its family. */
const props = defineProps<{ ease: Bezier | null; steps: { count: number; jump?: string } | null; named: string }>()
const doc = useDocument()
const motion = useMotion()
const { does } = useActs()
type Own = components['schemas']['EasingView']
const own = computed<Own[]>(() => doc.draft?.easings ?? [])
const family = ref<Own[]>([])
watch(
  () => JSON.stringify([doc.draft?.id, doc.draft?.family, own.value.map((e) => [e.name, e.ease, e.steps])]),
  async () => {
    const d = doc.draft
    family.value = d?.family ? await ask(api.GET('/api/drafts/{id}/easings', { params: { path: { id: d.id } } })).catch(() => []) : []
  },
  { immediate: true },
)
const give = (id: string) => does({ kind: 'ease', id, keys: motion.picked, layers: [] })
/** What the picked keys go by, as it is kept. */
const now = computed(() => (props.steps ? { steps: props.steps } : props.ease ? { value: props.ease } : null))
const name = ref('')
async function keep() {
  const text = name.value.trim()
  if (text && now.value && (await does({ kind: 'easing', name: text, ...(now.value as object), keys: motion.picked, layers: [] }))) name.value = ''
}
const same = (e: Own) => (props.steps ? e.steps?.count === props.steps.count && (e.steps?.jump ?? 'end') === (props.steps.jump ?? 'end') : !!e.ease && e.ease.join() === props.ease?.join())
const change = (e: Own) => does({ kind: 'easing', id: e.id, ...(now.value as object), layers: [] })
const renaming = ref('')
async function rename(e: Own, text: string) {
  renaming.value = ''
  if (text.trim() && text.trim() !== e.name) await does({ kind: 'easing', id: e.id, name: text.trim(), layers: [] })
}
/** One of the family comes into this template too, and the picked keys go by it; where it has one of that name, that becomes as it is there. */
async function take(e: Own) {
  const mine = own.value.find((o) => o.name === e.name)
  const what = e.steps ? { steps: e.steps } : { value: e.ease }
  if (mine) return void (await does({ kind: 'easing', id: mine.id, ...(what as object), layers: [] }))
  const before = new Set(own.value.map((o) => o.id))
  if (!(await does({ kind: 'easing', name: e.name, ...(what as object), layers: [] }))) return
  const come = own.value.find((o) => !before.has(o.id))
  if (come && motion.picked.length) await give(come.id)
}
const stairs = (n: number) => Array.from({ length: n }, (_, i) => `${i ? 'V' : 'M0 1V'}${1 - i / n}H${(i + 1) / n}`).join('') + 'V0'
const path = (e: Own) => (e.ease ? drawn(e.ease as Bezier) : stairs(Math.min(12, e.steps!.count)))
</script>

<template>
  <div class="own" data-test="own-easings">
    <div v-for="e in own" :key="e.id" class="one" :class="{ on: named === e.id }" :data-own-easing="e.id">
      <button class="give" :title="`Ease the picked keys by ${e.name}`" @click="give(e.id)"><svg viewBox="-0.1 -0.55 1.2 2.1" aria-hidden="true"><path :d="path(e)" /></svg></button>
      <NInput v-if="renaming === e.id" size="tiny" autofocus :default-value="e.name" :maxlength="60" :input-props="{ 'aria-label': 'Name of the easing' }" @change="rename(e, $event)" @blur="renaming = ''" />
      <button v-else class="name" @click="give(e.id)">{{ e.name }} <span class="quiet num">{{ e.uses }} {{ e.uses === 1 ? 'key' : 'keys' }}</span></button>
      <button v-if="now && !same(e)" class="icon-button" :title="`Change ${e.name}, and all keys that go by it, to this easing`" :aria-label="`Change ${e.name} to this easing`" data-test="change-easing" @click="change(e)"><IconReplace :size="14" /></button>
      <button class="icon-button" :title="`Rename ${e.name}`" :aria-label="`Rename ${e.name}`" @click="renaming = e.id"><IconPencil :size="14" /></button>
      <button class="icon-button" :title="`Take ${e.name} out; its keys go on as they do`" :aria-label="`Take ${e.name} out`" @click="does({ kind: 'drop-easing', id: e.id, layers: [] })"><IconTrash :size="14" /></button>
    </div>
    <div v-if="now && !named" class="keep"><NInput v-model:value="name" size="tiny" placeholder="Keep this easing as …" :maxlength="60" :input-props="{ 'aria-label': 'Keep this easing as' }" @keydown.enter="keep" /><NButton size="tiny" :disabled="!name.trim()" data-test="keep-easing" @click="keep">Keep</NButton></div>
    <template v-if="family.length">
      <p class="quiet small">Of the family</p>
      <div v-for="e in family" :key="`${e.from} ${e.id}`" class="one">
        <button class="give" :title="own.some((o) => o.name === e.name) ? `Change this template’s ${e.name} to that of ${e.from}` : `Take it over from ${e.from}`" @click="take(e)"><svg viewBox="-0.1 -0.55 1.2 2.1" aria-hidden="true"><path :d="path(e)" /></svg></button>
        <button class="name" data-test="family-easing" @click="take(e)">{{ e.name }} <span class="quiet">{{ own.some((o) => o.name === e.name) ? `otherwise in ${e.from}` : e.from }}</span></button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.own { display: grid; gap: 4px; }
.one { display: flex; align-items: center; gap: 4px; border-radius: 6px; }
.one.on { background: var(--ivy-wash); }
.give { width: 38px; height: 26px; border: 1px solid var(--rule); border-radius: 6px; background: #fffefa; padding: 0; cursor: pointer; flex: none; }
.give:hover { border-color: var(--ivy); }
svg { width: 100%; height: 100%; }
path { fill: none; stroke: var(--ivy-deep); stroke-width: 1.6; vector-effect: non-scaling-stroke; }
.name { flex: 1; min-width: 0; border: 0; background: none; text-align: left; cursor: pointer; font: inherit; color: inherit; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; padding: 2px 2px; }
.name .quiet { font-size: 11px; }
.icon-button { width: 22px; height: 22px; }
.keep { display: flex; gap: 5px; }
.small { font-size: 11px; margin: 4px 0 0; }
</style>
