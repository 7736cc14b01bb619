<script setup lang="ts">
import { NButton, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, Failure } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import DoneBar from '../common/DoneBar.vue'
import { useDocument } from '../common/document'
import { ago } from '../common/format'
import { usePieces } from '../common/pieces'
import { useSelection } from '../common/selection'
import { useTransport } from '../common/transport'
import { useTrial } from '../common/trials'
import CompareDialog from './CompareDialog.vue'

/** Makes a release of the draft: frozen, numbered, and on the shelf for everybody who fills. */
const show = defineModel<boolean>('show', { required: true })
const doc = useDocument()
const router = useRouter()
const selection = useSelection()
const transport = useTransport()
const draft = computed(() => doc.draft!)
const note = ref('')
const as = ref<'next' | 'new'>('next')
const busy = ref(false)
const failure = ref('')
const made = ref<{ id: string; name: string; number: number } | null>(null)
const pieces = usePieces()
/** The release that is compared with the newest. */
const compared = ref(0)
const comparing = computed({ get: () => compared.value > 0, set: (on) => on || (compared.value = 0) })
/** Pieces of earlier releases, once there is a new one. */
const behind = computed(() => (made.value ? pieces.all.filter((p) => p.template === made.value!.id && p.release < made.value!.number) : []))
/** The draft as an editor would fill it: what the swap trial tries. */
const tryout = ref('')
const { trial, failure: trialFailure, running, faults, groups, start } = useTrial(tryout)
const tried = computed(() => trial.value?.state === 'done')
const trialIsOld = computed(() => tried.value && trial.value!.revision !== draft.value.revision)
/** A few findings in short: kind, where, and how many cases. */
const short = computed(() => groups.value.filter((g) => !g[0]!.hint).slice(0, 5).map((g) => `${g[0]!.kind.charAt(0).toUpperCase()}${g[0]!.kind.slice(1)}: ${g[0]!.where}, ${formatName(g[0]!.format)}${g.length > 1 ? `, in ${g.length} cases` : `, ${g[0]!.case}`}`))
const formatName = (id: string) => draft.value.formats.find((f) => f.id === id)?.name.toLowerCase() ?? id
const toTrial = () => {
  show.value = false
  void router.push({ path: `/desk/${tryout.value}`, query: { format: selection.format, frame: String(transport.frame), panel: 'trial' } })
}
const last = ref<{ number: number; note: string; when: string; pieces: number }[]>([])
watch(show, async (on) => {
  if (!on) return
  failure.value = ''
  made.value = null
  note.value = ''
  tryout.value = draft.value.formats.length ? await ask(api.POST('/api/drafts/{id}/desk', { params: { path: { id: draft.value.id } } })).then((p) => p.id).catch(() => '') : ''
  as.value = draft.value.from.id ? 'next' : 'new'
  last.value = draft.value.from.id ? await ask(api.GET('/api/templates/{id}/releases', { params: { path: { id: draft.value.from.id } } })).catch(() => []) : []
})
async function release() {
  busy.value = true
  failure.value = ''
  try {
    made.value = await ask(api.POST('/api/drafts/{id}/release', { params: { path: { id: draft.value.id } }, body: { note: note.value.trim() || undefined, new: as.value === 'new' } }))
    void doc.again()
    void pieces.load()
    last.value = await ask(api.GET('/api/templates/{id}/releases', { params: { path: { id: made.value.id } } })).catch(() => [])
  } catch (e) {
    failure.value = (e as Failure).message
  } finally {
    busy.value = false
  }
}
async function fill() {
  const p = await ask(api.POST('/api/templates/{id}/open', { params: { path: { id: made.value!.id }, query: { new: true } } }))
  doc.take('piece', p)
  show.value = false
  await router.push(`/desk/${p.id}`)
}
</script>

<template>
  <CardDialog v-model:show="show" :title="made ? `Release ${made.number} of ${made.name}` : 'Release this template'" :width="520">
    <div v-if="made" class="form" data-test="released">
      <p>It is on the shelf, frozen as it is now. Pieces that were made of earlier releases keep theirs.</p>
      <p v-if="behind.length" class="behind"><span>{{ behind.length === 1 ? `“${behind[0]!.name}” is of an earlier one.` : `${behind.length} pieces are of earlier ones.` }}</span><NButton size="small" data-test="move-behind" @click="pieces.move(behind)">{{ behind.length === 1 ? 'Move it here' : 'Move all here' }}</NButton></p>
      <DoneBar v-model="pieces.done" />
      <p v-if="pieces.failure" class="rust" role="alert">{{ pieces.failure }}</p>
      <p v-if="last.length > 1"><NButton size="small" data-test="compare" @click="compared = last[1]!.number">Compare with release {{ last[1]!.number }}</NButton></p>
    </div>
    <div v-else class="form">
      <div v-if="draft.lacks.length" class="needs" role="alert"><strong>It can’t be released yet:</strong>
        <ul><li v-for="l in draft.lacks.slice(0, 8)" :key="l">{{ l }}</li><li v-if="draft.lacks.length > 8">and {{ draft.lacks.length - 8 }} more</li></ul>
      </div>
      <details v-if="draft.remarks.length" class="told"><summary>{{ draft.remarks.length === 1 ? 'One remark' : `${draft.remarks.length} remarks` }} on the sheet</summary>
        <ul><li v-for="r in draft.remarks.slice(0, 12)" :key="r.what">{{ r.what }}</li></ul>
      </details>
      <div v-if="tryout" class="trial" data-test="release-trial">
        <div class="line"><span v-if="running" role="status">Trying swaps: <span class="num">{{ trial!.done }} / {{ trial!.total || '…' }}</span></span>
          <span v-else-if="!tried" class="quiet">Swaps were not tried yet: bright, dark, tall, wide and tiny media, both ends of every entry.</span>
          <b v-else-if="!faults.length" :class="{ quiet: trialIsOld }">Sound: {{ trial!.cases }} cases tried, nothing broke.</b>
          <b v-else class="rust">{{ faults.length === 1 ? '1 finding' : `${faults.length} findings` }} in {{ trial!.cases }} cases</b>
          <NButton v-if="!running" size="tiny" data-test="try-release" @click="start">{{ tried ? 'Try again' : 'Try all swaps' }}</NButton>
        </div>
        <p v-if="trialIsOld" class="quiet small">The draft has changed since.</p>
        <ul v-if="tried && short.length"><li v-for="s in short" :key="s">{{ s }}</li></ul>
        <button v-if="tried && faults.length" class="link small" @click="toTrial">Look at all of them</button>
        <p v-if="trialFailure || trial?.failure" class="rust small" role="alert">{{ trialFailure || trial?.failure }}</p>
      </div>
      <NRadioGroup v-if="draft.from.id" v-model:value="as" aria-label="What it becomes">
        <NRadio value="next" class="as">Release {{ draft.from.number + 1 }} of {{ draft.from.name }}</NRadio>
        <NRadio value="new" class="as" data-test="as-new">A template of its own</NRadio>
      </NRadioGroup>
      <label class="note"><span class="quiet">What is new in it</span><NInput v-model:value="note" type="textarea" :autosize="{ minRows: 2, maxRows: 6 }" :maxlength="2000" placeholder="For whoever fills it, and for yourself in a year" :input-props="{ 'aria-label': 'What is new in it' }" /></label>
      <div v-if="last.length && as === 'next'"><span class="quiet">Before it</span>
        <ul class="last"><li v-for="r in last.slice(0, 4)" :key="r.number"><b class="num">{{ r.number }}</b><span>{{ r.note || 'No note' }}</span><span class="quiet">{{ r.pieces === 1 ? '1 piece' : `${r.pieces} pieces` }}, {{ ago(r.when) }}</span><button v-if="last.length > 1" class="link" :aria-label="`Compare release ${r.number}`" :data-compare="r.number" @click="compared = r.number">compare</button></li></ul>
      </div>
      <p v-if="failure" class="rust" role="alert">{{ failure }}</p>
    </div>
    <template #acts>
      <template v-if="made"><NButton @click="show = false">Go on building</NButton><NButton type="primary" data-test="fill-release" @click="fill">Fill it</NButton></template>
      <template v-else><NButton @click="show = false">Leave it</NButton><NButton type="primary" :loading="busy" :disabled="draft.lacks.length > 0" data-test="release-now" @click="release">Release</NButton></template>
    </template>
  </CardDialog>
  <CompareDialog v-if="draft.from.id || made" v-model:show="comparing" :template="made ?? draft.from" :releases="last" :from="compared" />
</template>

<style scoped>
.form { display: grid; gap: 12px; }
.note { display: grid; gap: 3px; }
.needs { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; }
.told summary { cursor: pointer; color: var(--amber); font-weight: 600; }
ul { margin: 4px 0 0; padding-left: 18px; display: grid; gap: 3px; font-size: 12px; overflow-wrap: anywhere; max-height: 180px; overflow: auto; }
.last { list-style: none; padding: 0; }
.last li { display: grid; grid-template-columns: 22px minmax(0, 1fr) auto auto; gap: 6px; align-items: baseline; }
.as { display: flex; }
.trial { border: 1px solid var(--rule); border-radius: 8px; padding: 8px 12px; display: grid; gap: 4px; justify-items: start; }
.trial .line { display: flex; justify-content: space-between; gap: 12px; align-items: center; width: 100%; }
.small { font-size: 12px; }
.behind { display: flex; justify-content: space-between; gap: 10px; align-items: center; }
.link { background: none; border: 0; padding: 0; color: var(--ivy-deep); text-decoration: underline; cursor: pointer; font: inherit; }
.rust { color: var(--rust); white-space: pre-line; }
</style>
