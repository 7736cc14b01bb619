<script setup lang="ts">
import { IconColumns2 } from '@tabler/icons-vue'
import { NButton, NInput } from 'naive-ui'
import { ref, watch } from 'vue'

import { api, ask, type Failure, type Past } from '../api/client'
import { useDocument } from '../common/document'
import { ago } from '../common/format'
import { useNotices } from '../common/notices'
import { useTool } from './tool'

/** What was done to the draft, by whom and when; any point of it can be gone back to. */
const doc = useDocument()
const tool = useTool()
const past = ref<Past[]>([])
const more = ref(false)
const failure = ref('')
const name = ref('')
const PAGE = 100

async function load(below = 0) {
  const id = doc.draft?.id
  if (!id) return
  try {
    const got = await ask(api.GET('/api/drafts/{id}/history', { params: { path: { id }, query: { below } } }))
    if (doc.draft?.id !== id) return
    past.value = below ? [...past.value, ...got] : got
    more.value = got.length === PAGE
    failure.value = ''
  } catch (e) {
    failure.value = (e as Failure).message
  }
}
watch(() => [doc.draft?.id, doc.draft?.revision], () => void load(), { immediate: true })
void ask(api.GET('/api/author')).then((n) => (name.value = n.name)).catch(() => {})
async function call() {
  try {
    name.value = (await ask(api.PUT('/api/author', { body: { name: name.value } }))).name
    await load()
  } catch (e) {
    useNotices().say('error', (e as Failure).message)
  }
}
async function back(revision: number) {
  const d = doc.draft!
  try {
    const done = await ask(api.POST('/api/drafts/{id}/back', { params: { path: { id: d.id } }, body: { id: crypto.randomUUID(), base: d.revision, revision } }))
    doc.take('draft', done.draft)
  } catch (e) {
    useNotices().say('error', (e as Failure).message)
    if (doc.home) await doc.load(doc.home)
  }
}
const who = (p: Past) => (p.mine ? p.who || 'You' : p.who || 'Somebody else')
</script>

<template>
  <div class="history" data-test="history">
    <label class="me"><span class="quiet">Others read your name as</span><NInput v-model:value="name" size="small" placeholder="Somebody else" :maxlength="80" :input-props="{ 'aria-label': 'Your name' }" @blur="call" @keydown.enter="call" /></label>
    <p v-if="failure" class="rust" role="alert">{{ failure }}</p>
    <ol>
      <li v-for="(p, i) in past" :key="p.revision" :class="{ now: i === 0, off: p.state === 'undone' || p.state === 'gone' }">
        <span class="what">{{ p.title }}</span>
        <span class="quiet by">{{ who(p) }}, {{ ago(p.when) }}<template v-if="p.state === 'undone'">, undone</template></span>
        <span v-if="i > 0" class="go"><button class="icon-button" :class="{ on: tool.version === p.revision }" :aria-pressed="tool.version === p.revision" title="See it beside how it is now" aria-label="See it beside how it is now" :data-beside="p.revision" @click="tool.version = tool.version === p.revision ? -1 : p.revision"><IconColumns2 :size="14" /></button><NButton size="tiny" quaternary :data-back="p.revision" @click="back(p.revision)">Back to here</NButton></span>
      </li>
      <li v-if="past.length && !more"><span class="what">It was begun</span><NButton size="tiny" quaternary class="go" data-back="0" @click="back(0)">Back to here</NButton></li>
    </ol>
    <p v-if="!past.length && !failure" class="quiet">Nothing was done yet. Every change is kept at once, and stands here from then on.</p>
    <NButton v-if="more" size="small" @click="load(past.at(-1)!.revision)">Earlier steps</NButton>
  </div>
</template>

<style scoped>
.history { display: grid; gap: 12px; }
.me { display: grid; gap: 3px; font-size: 12px; }
ol { list-style: none; margin: 0; padding: 0; }
/* Steps are stitches along a thread. */
li { position: relative; display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 0 6px; padding: 5px 0 5px 18px; align-items: center; }
li::before { content: ''; position: absolute; left: 4px; top: 0; bottom: 0; width: 2px; background: repeating-linear-gradient(180deg, var(--ivy) 0 6px, transparent 6px 10px); }
li.now { background: var(--ivy-wash); border-radius: 6px; }
li.off .what { color: var(--ink-quiet); text-decoration: line-through; }
.what { overflow-wrap: anywhere; }
.by { grid-column: 1; font-size: 11.5px; }
.go { grid-column: 2; grid-row: 1 / span 2; display: flex; align-items: center; }
.go .icon-button { width: 24px; height: 22px; }
.rust { color: var(--rust); }
</style>
