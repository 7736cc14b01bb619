<script setup lang="ts">
import { IconDots, IconPlus } from '@tabler/icons-vue'
import { NButton, NDropdown, NSkeleton } from 'naive-ui'
import { computed, onScopeDispose, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, ask, Failure, type Shelf } from '../api/client'
import { useAccess } from '../common/access'
import CardDialog from '../common/CardDialog.vue'
import DoneBar from '../common/DoneBar.vue'
import { useDocument } from '../common/document'
import { ago, plain } from '../common/format'
import { useHealth } from '../common/health'
import { finder } from '../common/search'
import { useDrafts } from './drafts'
import BinList from './BinList.vue'
import { useDocuments } from './documents'
import FileDialog from './FileDialog.vue'
import { useFind } from './find'
import ShelfHead from './ShelfHead.vue'
import { useTemplates } from './templates'

const router = useRouter()
const access = useAccess()
const doc = useDocument()
const health = useHealth()
const templates = useTemplates()
templates.watched = true
void templates.load()
onScopeDispose(() => (templates.watched = false))
const wrong = ref('')
const search = useFind()
const opening = ref('')
/** Posters in the format that the pointer is on. */
const shownFormat = ref<Record<string, string>>({})

const failure = computed(() => wrong.value || templates.failure)
const loaded = computed(() => templates.loaded)
function load() {
  wrong.value = ''
  return templates.load()
}

const found = computed(() => {
  const fits = finder(search.value)
  return templates.all.filter((t) => fits(`${t.name} ${t.category} ${t.family} ${t.about}`))
})
/** Whoever searches for a piece is led to it. */
const foundPieces = computed(() => {
  if (!search.value.trim()) return 0
  const fits = finder(search.value)
  return templates.all.reduce((n, t) => n + t.pieces.filter((p) => fits(`${p.name} ${t.name} ${t.category}`)).length, 0)
})

async function open(t: Shelf, fresh: boolean) {
  opening.value = t.id
  try {
    const p = await ask(api.POST('/api/templates/{id}/open', { params: { path: { id: t.id }, query: { new: fresh } } }))
    doc.take('piece', p)
    await router.push(`/desk/${p.id}`)
  } catch (e) {
    wrong.value = (e as Failure).message
  } finally {
    opening.value = ''
  }
}
/** A template of which there are pieces: whether a new one is wanted, or the last one, is asked before anything is changed. */
const choosing = ref<Shelf | null>(null)
const asks = computed({ get: () => !!choosing.value, set: (on) => !on && (choosing.value = null) })
/** It fades away with what it held. */
const chosenOf = computed<Shelf | null>((was) => choosing.value ?? was ?? null)
function press(t: Shelf) {
  if (t.pieces.length) choosing.value = t
  else void open(t, true)
}
function chose(fresh: boolean) {
  const t = choosing.value
  choosing.value = null
  if (t) void open(t, fresh)
}
const drafts = useDrafts()
/** A copy of a template to build on. */
async function build(t: Shelf) {
  opening.value = t.id
  const id = await drafts.begin({ template: t.id })
  opening.value = ''
  if (id) await router.push(`/bench/${id}`)
  else wrong.value = drafts.failure
}
const documents = useDocuments()
const { over } = documents
async function dropped(e: DragEvent) {
  if (!access.builds) return
  wrong.value = await documents.dropped(e)
}
const filing = ref<Shelf | null>(null)
const names = (of: 'category' | 'family') => [...new Set(templates.all.map((t) => t[of]).filter(Boolean))]
const more = [
  { key: 'file', label: 'Rename or file …' },
  { key: 'copy', label: 'Copy' },
  { key: 'bin', label: 'Put in the bin' },
]
function act(t: Shelf, key: string) {
  if (key === 'file') filing.value = t
  else if (key === 'copy') void templates.copy(t)
  else void templates.remove([t.id], t.name)
}
const poster = (t: Shelf) => `/api/templates/${t.id}/poster?side=720&release=${t.release}&format=${shownFormat.value[t.id] ?? t.formats[0]!.id}`
</script>

<template>
  <div class="shelf cloth" :class="{ over }" @dragover.prevent="dropped" @dragleave.self="over = false" @drop.prevent="dropped">
    <ShelfHead v-model:search="search" about="Templates to fill. Swap anything, break nothing." placeholder="Search templates" />
    <p v-if="foundPieces" class="preparing"><RouterLink :to="{ path: '/pieces', query: { find: search } }" data-test="found-pieces">{{ foundPieces === 1 ? '1 piece matches' : `${foundPieces} pieces match` }} “{{ search }}”</RouterLink></p>
    <DoneBar v-model="templates.done" class="preparing" />
    <div v-if="access.builds" class="binline"><BinList :items="templates.binned.map((t) => ({ ...t, kept: t.pieces.length ? 'seven days, and as long as it has pieces' : 'seven days' }))" out="Put it back on the shelf" @out="(id) => void templates.back([id])" /></div>
    <p v-if="failure" class="failure" role="alert">{{ failure }} <NButton size="small" @click="load">Try again</NButton></p>
    <div v-if="!loaded" class="cards" aria-busy="true">
      <div v-for="i in 3" :key="i" class="card"><NSkeleton height="230px" /><div class="body"><NSkeleton text width="60%" /><NSkeleton text :repeat="2" /></div></div>
    </div>
    <p v-if="loaded && health.state?.preparing" class="preparing" role="status" data-test="preparing">The demo is being drawn: {{ health.state.preparing.replace(/^Drawing /, '') }}. Templates appear as they become ready.</p>
    <div v-if="loaded && !templates.all.length && health.state?.preparing" class="cards" aria-busy="true">
      <div v-for="i in 3" :key="i" class="card"><NSkeleton height="230px" /><div class="body"><NSkeleton text width="60%" /><NSkeleton text :repeat="2" /></div></div>
    </div>
    <div v-else-if="loaded && !templates.all.length && !failure" class="empty">
      <img src="/mark.svg" width="72" height="72" alt="" />
      <h2>The shelf is bare</h2>
      <p class="quiet">Stop the server and run <code class="num">ivypocket demo</code> to put the kite festival's templates on it.</p>
    </div>
    <p v-else-if="loaded && !found.length && !failure" class="empty quiet">No template matches “{{ search }}”.</p>
    <div v-else-if="loaded" class="cards">
        <article v-for="t in found" :key="t.id" class="card" :data-template="t.id">
          <button class="picture" :aria-label="`Open ${t.name}`" :disabled="!!opening" @click="press(t)">
            <img :src="poster(t)" :alt="`${t.name}, its poster`" />
          </button>
          <div class="body">
            <p class="category">{{ t.category }}</p>
            <div class="title">
              <h2>{{ t.name }}</h2>
              <div class="formats">
                <button v-for="f in t.formats" :key="f.id" class="format num" :title="`${f.name}, ${f.width} × ${f.height}`"
                  :class="{ on: (shownFormat[t.id] ?? t.formats[0]!.id) === f.id }" @click="shownFormat[t.id] = f.id">
                  <span class="shape" :style="{ aspectRatio: `${f.width} / ${f.height}` }" />{{ f.width }} × {{ f.height }}
                </button>
              </div>
            </div>
            <p class="about">{{ t.about }}</p>
            <p class="quiet facts"><span class="num">{{ plain(t.seconds, 1) }}</span> s at <span class="num">{{ t.rate }}</span>, {{ t.pockets }} {{ t.pockets === 1 ? 'pocket' : 'pockets' }}, {{ t.entries }} entries · {{ t.family }}, release {{ t.release }}</p>
            <div v-if="t.pieces.length" class="pieces">
              <RouterLink v-for="p in t.pieces.slice(0, 4)" :key="p.id" :to="`/desk/${p.id}`" class="piece">
                <img :src="`/api/pieces/${p.id}/poster?side=96&rev=${p.revision}`" alt="" /><span>{{ p.name }}</span><span class="quiet">{{ ago(p.changed) }}</span>
              </RouterLink>
              <RouterLink v-if="t.pieces.length > 4" :to="{ path: '/pieces', query: { template: t.id } }" class="piece all" data-test="all-pieces">All {{ t.pieces.length }} pieces</RouterLink>
              <button class="piece new" :disabled="!!opening" data-test="new-piece" @click="open(t, true)"><IconPlus :size="16" />New piece</button>
            </div>
            <div class="acts">
              <NButton type="primary" :loading="opening === t.id" :title="t.pieces.length ? `Go on with ${t.pieces[0]!.name}` : undefined" @click="open(t, false)">{{ t.pieces.length ? 'Go on filling' : 'Fill it' }}</NButton>
              <NButton v-if="access.builds" quaternary :disabled="!!opening" title="A copy of it as a draft" data-test="to-bench" @click="build(t)">Open on the bench</NButton>
              <NDropdown v-if="access.builds" trigger="click" :options="more" @select="(key: string) => act(t, key)"><button class="icon-button dots" :aria-label="`More for ${t.name}`" title="Rename, file, copy, bin" :data-more="t.id"><IconDots :size="18" /></button></NDropdown>
            </div>
          </div>
        </article>
    </div>
    <CardDialog v-if="chosenOf?.pieces.length" v-model:show="asks" :title="chosenOf.name" :width="460">
      <div class="choice">
        <button data-test="choose-new" @click="chose(true)"><IconPlus :size="26" /><span><b>A new piece</b><small class="quiet">As the template comes</small></span></button>
        <button data-test="choose-last" @click="chose(false)"><img :src="`/api/pieces/${chosenOf.pieces[0]!.id}/poster?side=96&rev=${chosenOf.pieces[0]!.revision}`" alt="" /><span><b>Go on with {{ chosenOf.pieces[0]!.name }}</b><small class="quiet">Changed {{ ago(chosenOf.pieces[0]!.changed) }}</small></span></button>
      </div>
    </CardDialog>
    <FileDialog :of="filing" :categories="names('category')" :families="names('family')" @keep="(as) => void templates.shelve(filing!, as)" @close="filing = null" />
  </div>
</template>

<style scoped>
.preparing { background: var(--ivy-wash); color: var(--ivy-deep); border-radius: 8px; padding: 8px 14px; margin-bottom: 16px; }
.shelf { height: 100%; overflow: auto; padding: 26px 32px 48px; }
.shelf.over { box-shadow: inset 0 0 0 3px var(--ivy); }
.category { font-size: 11.5px; font-weight: 600; color: var(--ink-quiet); margin-bottom: -7px; }
.cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(350px, 100%), 1fr)); gap: 20px; max-width: 1900px; align-items: start; }
.card { background: var(--linen-raised); border: 1px solid var(--rule); border-radius: 14px; overflow: hidden; max-width: 620px; }
.picture { display: grid; place-items: center; width: 100%; height: 220px; padding: 12px; border: 0; background: var(--surround); cursor: pointer; }
.picture img { max-width: 100%; max-height: 196px; border-radius: 4px; display: block; transition: transform 0.18s; }
.picture:hover img { transform: scale(1.012); }
.picture:focus-visible { outline-offset: -4px; outline-color: #fff; }
.body { padding: 14px 18px 16px; display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); }
.title { display: flex; flex-wrap: wrap; justify-content: space-between; align-items: center; gap: 5px 10px; }
.title h2 { font-size: 17px; letter-spacing: -0.01em; }
.formats { display: flex; gap: 4px; }
.format { display: flex; align-items: center; gap: 5px; border: 1px solid var(--rule); background: none; border-radius: 6px; padding: 2px 7px; cursor: pointer; color: var(--ink-quiet); font-size: 11px; white-space: nowrap; }
.format.on { border-color: var(--ivy); color: var(--ivy-deep); background: var(--ivy-wash); }
.shape { height: 10px; border: 1.4px solid currentColor; border-radius: 2px; }
.about { max-width: 52ch; }
.facts { font-size: 12px; }
.pieces { display: grid; gap: 2px; margin: 2px -8px; }
.piece { display: flex; align-items: center; gap: 9px; padding: 4px 8px; border-radius: 7px; text-decoration: none; color: var(--ink); font-weight: 500; }
.piece:hover { background: var(--linen-deep); }
.piece img { width: 44px; height: 28px; object-fit: contain; background: var(--surround); border-radius: 3px; }
.piece .quiet { margin-left: auto; font-weight: 400; }
.preparing a { color: inherit; font-weight: 600; }
.new { border: 0; background: none; cursor: pointer; font: inherit; font-weight: 500; color: var(--ivy-deep); text-align: left; }
.all { color: var(--ivy-deep); text-decoration: underline; text-underline-offset: 3px; }
.acts { display: flex; gap: 4px; margin-top: 4px; }
.dots { margin-left: auto; }
.binline { display: flex; flex-wrap: wrap; gap: 10px; }
.binline:not(:empty) { margin-bottom: 16px; }
@media (max-width: 720px) {
  .shelf { padding: 16px 14px 32px; }
}
.empty { display: grid; justify-items: center; gap: 10px; padding: 90px 0; text-align: center; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; margin-bottom: 16px; display: flex; gap: 12px; align-items: center; justify-content: space-between; }
.choice { display: grid; gap: 10px; }
.choice button { display: flex; align-items: center; gap: 14px; min-height: 76px; padding: 10px 14px; border: 1px solid var(--rule); border-radius: 10px; background: #fffefa; text-align: left; cursor: pointer; color: var(--ink); }
.choice button:hover, .choice button:focus-visible { border-color: var(--ivy); background: var(--ivy-wash); }
.choice svg, .choice img { flex: none; width: 64px; max-height: 56px; object-fit: contain; color: var(--ivy); border-radius: 4px; }
.choice span { display: grid; min-width: 0; overflow-wrap: anywhere; }
</style>
