<script setup lang="ts">
import { IconCopy, IconDownload, IconPencil, IconTrash } from '@tabler/icons-vue'
import { NButton, NSkeleton } from 'naive-ui'
import { computed, onScopeDispose, ref } from 'vue'
import { RouterLink } from 'vue-router'

import type { DraftItem } from '../api/client'
import DoneBar from '../common/DoneBar.vue'
import { ago } from '../common/format'
import { finder } from '../common/search'
import { useDrafts } from './drafts'
import BinList from './BinList.vue'
import { useDocuments } from './documents'
import FileDialog from './FileDialog.vue'
import { useFind } from './find'
import ShelfHead from './ShelfHead.vue'

const drafts = useDrafts()
drafts.watched = true
void drafts.load()
onScopeDispose(() => (drafts.watched = false))
const search = useFind()
const found = computed(() => {
  const fits = finder(search.value)
  return drafts.all.filter((d) => fits(`${d.name} ${d.category} ${d.family}`))
})
const head = ref<InstanceType<typeof ShelfHead>>()

const filing = ref<DraftItem | null>(null)
const names = (of: 'category' | 'family') => [...new Set(drafts.all.map((d) => d[of]).filter(Boolean))]

const { over, take, dropped } = useDocuments()
async function choose(e: Event) {
  const f = (e.target as HTMLInputElement).files?.[0]
  ;(e.target as HTMLInputElement).value = ''
  if (f) await take([f])
}
</script>

<template>
  <div class="shelf cloth" :class="{ over }" @dragover.prevent="dropped" @dragleave.self="over = false" @drop.prevent="dropped">
    <ShelfHead ref="head" v-model:search="search" about="Templates that are being built." placeholder="Search drafts" />
    <p v-if="drafts.failure" class="failure" role="alert">{{ drafts.failure }} <NButton size="small" @click="drafts.load()">Try again</NButton></p>
    <DoneBar v-model="drafts.done" class="done" />
    <div class="begin">
      <label class="file">Open a document file<input type="file" accept=".json,application/json" @change="choose" /></label>
      <BinList :items="drafts.deleted.map((d) => ({ ...d, kept: 'seven days' }))" out="Bring it back" @out="(id) => void drafts.back([id])" />
    </div>
    <div v-if="!drafts.loaded" aria-busy="true"><NSkeleton v-for="i in 3" :key="i" height="120px" style="margin-bottom: 10px" /></div>
    <div v-else-if="!drafts.all.length && !drafts.failure" class="empty">
      <svg width="150" height="90" viewBox="0 0 150 90" aria-hidden="true"><rect x="8" y="8" width="134" height="74" rx="8" fill="#fbfaf5" stroke="#C9C1AD" stroke-width="2" /><path d="M8 34H142M64 34V82" stroke="#2E6B4E" stroke-width="2" stroke-dasharray="6 6" stroke-linecap="round" /></svg>
      <h2>The cutting table is clear</h2>
      <p class="quiet">Begin a template from what it is for, take one from the shelf to the bench, or drop a document here.</p>
      <NButton type="primary" @click="head?.start()">New template</NButton>
    </div>
    <p v-else-if="!found.length" class="empty quiet">No draft matches “{{ search }}”.</p>
    <div v-else class="drafts">
      <article v-for="d in found" :key="d.id" class="draft" :data-draft="d.id">
        <RouterLink :to="`/bench/${d.id}`" class="picture" :aria-label="`Open ${d.name} on the bench`"><img v-if="d.formats.length" :src="`/api/drafts/${d.id}/poster?side=480&rev=${d.revision}`" alt="" loading="lazy" /></RouterLink>
        <div class="body">
          <RouterLink :to="`/bench/${d.id}`" class="title">{{ d.name }}</RouterLink>
          <p class="quiet">{{ [d.category, d.family].filter(Boolean).join(' · ') || 'Not filed yet' }}</p>
          <p class="quiet">{{ d.layers }} {{ d.layers === 1 ? 'layer' : 'layers' }}, {{ d.pockets }} {{ d.pockets === 1 ? 'pocket' : 'pockets' }}, {{ d.formats.map((f) => f.name.toLowerCase()).join(', ') }}</p>
          <p class="quiet">Changed {{ ago(d.changed) }}</p>
          <div class="acts">
            <button class="icon-button" title="Rename, file" :aria-label="`Rename ${d.name}`" @click="filing = d"><IconPencil :size="16" /></button>
            <button class="icon-button" title="Copy" :aria-label="`Copy ${d.name}`" @click="drafts.begin({ draft: d.id }).then(() => drafts.load())"><IconCopy :size="16" /></button>
            <a class="icon-button" title="Save the document" :aria-label="`Save the document of ${d.name}`" :href="`/api/drafts/${d.id}/document`" download><IconDownload :size="16" /></a>
            <button class="icon-button" title="Put in the bin" :aria-label="`Delete ${d.name}`" @click="drafts.remove([d])"><IconTrash :size="16" /></button>
          </div>
        </div>
      </article>
    </div>
    <FileDialog :of="filing" :categories="names('category')" :families="names('family')" @keep="(as) => void drafts.file(filing!, as)" @close="filing = null" />
  </div>
</template>

<style scoped>
.shelf { height: 100%; overflow: auto; padding: 26px 32px 48px; }
.shelf.over { box-shadow: inset 0 0 0 3px var(--ivy); }
.begin { display: flex; align-items: center; gap: 16px; margin-bottom: 20px; flex-wrap: wrap; }
.file { color: var(--ivy-deep); cursor: pointer; text-decoration: underline; text-underline-offset: 3px; }
.file input { position: absolute; opacity: 0; width: 1px; height: 1px; }
.file:focus-within { outline: 2px solid var(--ivy); outline-offset: 3px; border-radius: 4px; }
.drafts { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(400px, 100%), 1fr)); gap: 14px; max-width: 1900px; }
.draft { display: grid; grid-template-columns: 172px minmax(0, 1fr); background: var(--linen-raised); border: 1px solid var(--rule); border-radius: 12px; overflow: hidden; }
.picture { display: grid; place-items: center; background: var(--surround); padding: 10px; min-height: 128px; }
.picture img { max-width: 100%; max-height: 124px; border-radius: 3px; }
.body { padding: 10px 14px; display: grid; gap: 2px; align-content: start; min-width: 0; font-size: 12px; }
.title { font-weight: 600; font-size: 15px; color: var(--ink); text-decoration: none; overflow-wrap: anywhere; }
.title:hover { text-decoration: underline; }
.acts { display: flex; gap: 2px; margin: 4px 0 0 -7px; }
.empty { display: grid; justify-items: center; gap: 10px; padding: 70px 0; text-align: center; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; margin-bottom: 16px; display: flex; gap: 12px; align-items: center; justify-content: space-between; white-space: pre-line; overflow-wrap: anywhere; }
.done { margin-bottom: 14px; }
@media (max-width: 720px) { .shelf { padding: 16px 14px 32px; } .draft { grid-template-columns: 110px minmax(0, 1fr); } }
</style>
