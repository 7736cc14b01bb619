<script setup lang="ts">
import { IconDownload, IconFolder, IconFolderOpen, IconNeedleThread, IconReplace, IconSearch, IconTrash, IconZoomIn } from '@tabler/icons-vue'
import { NButton, NInput, NRadioButton, NRadioGroup, NSkeleton } from 'naive-ui'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'

import { Failure, type Stored } from '../api/client'
import { useAccess } from '../common/access'
import DoneBar from '../common/DoneBar.vue'
import { droppedFiles } from '../common/drop'
import { ago, bytes, seconds } from '../common/format'
import { useHealth } from '../common/health'
import { finder } from '../common/search'
import ArrivalCard from './ArrivalCard.vue'
import { bundles, chooseFiles } from './choose'
import FillDialog from './FillDialog.vue'
import LookDialog from './LookDialog.vue'
import { useMediaStore } from './media'
import MediaThumb from './MediaThumb.vue'
import StorePicker from './StorePicker.vue'
import { useUploads } from './uploads'

const media = useMediaStore()
const access = useAccess()
const health = useHealth()
const cleared = computed(() => health.state?.clearedBytes ?? 0)
const freed = ref('')
async function purge() {
  try {
    const f = await health.purge()
    freed.value = f.files ? `Made ${bytes(f.bytes)} of room.` : ''
    if (f.left) freed.value += ` ${f.left === 1 ? '1 file stays' : `${f.left} files stay`}, as undo may bring ${f.left === 1 ? 'it' : 'them'} back.`
    media.done = null
  } catch (e) {
    media.failure = (e as Failure).message
  }
}
const uploads = useUploads()
media.watched = true
void media.load()
onScopeDispose(() => (media.watched = false))

const search = ref('')
const kind = ref('')
const picked = ref('')
const over = ref(false)
const kinds = [
  ['', 'All'],
  ['picture', 'Pictures'],
  ['footage', 'Clips'],
  ['sound', 'Sound'],
  ['font', 'Fonts'],
] as const

const found = computed(() => {
  const fits = finder(search.value)
  return media.list.filter((m) => (!kind.value || m.kind === kind.value) && fits(`${m.name} ${m.type} ${m.kind} ${m.uses.map((u) => `${u.name} ${u.pocket}`).join(' ')}`))
})
const chosen = computed(() => media.list.find((m) => m.hash === picked.value))
const total = computed(() => found.value.reduce((n, m) => n + m.bytes, 0))

async function take(files: File[]) {
  try {
    for (const b of await bundles(files)) uploads.add(b).medium.catch(() => {})
  } catch (e) {
    media.failure = (e as Failure).message
  }
}
async function bring(folder: boolean) {
  const files = await chooseFiles(folder)
  if (files.length) await take(files)
}
async function drop(e: DragEvent) {
  over.value = false
  if (!e.dataTransfer) return
  const files = await droppedFiles(e.dataTransfer)
  if (files.length) await take(files)
}

const naming = ref(false)
const name = ref('')
watch(picked, () => (naming.value = false))
function rename(m: Stored) {
  name.value = m.name
  naming.value = true
}
function named(m: Stored) {
  if (!naming.value) return
  naming.value = false
  if (name.value.trim() && name.value !== m.name) void media.rename(m, name.value)
}
const replacing = ref(false)
const filling = ref(false)
const looking = ref(false)
const places = (m: Stored) => m.uses.filter((u) => u.piece).length
/** What can be seen as a picture, or stand in one's place. */
const pictured = (kind: string) => kind !== 'sound' && kind !== 'font'
function used(m: Stored): string {
  const n = places(m)
  if (m.kind === 'font') return m.uses.length === 1 ? '1 layer of words' : m.uses.length ? `${m.uses.length} layers of words` : m.kept ? 'used' : 'never used'
  if (n) return n === 1 ? '1 pocket' : `${n} pockets`
  return m.uses.length ? 'stand-in' : m.used ? 'used before' : 'never used'
}
function facts(m: Stored): string {
  if (m.kind === 'sound') return `${m.type}, ${seconds(m.seconds)}`
  if (m.kind === 'footage') return `${m.type}, ${seconds(m.seconds)}`
  if (m.kind === 'font') return m.type
  return `${m.width} × ${m.height}`
}
</script>

<template>
  <div class="media cloth" :class="{ over }" @dragenter.prevent="over = true" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="drop">
    <div class="main">
      <header>
        <div>
          <h1>Media</h1>
          <p class="quiet"><template v-if="media.loaded"><span class="num">{{ found.length }}</span> {{ found.length === 1 ? 'file' : 'files' }}, {{ bytes(total) }}. What was used last comes first.</template></p>
        </div>
        <div class="tools">
          <NInput v-model:value="search" placeholder="Search name, kind, piece" clearable style="width: 240px" :input-props="{ 'aria-label': 'Search the media store' }"><template #prefix><IconSearch :size="16" /></template></NInput>
          <NRadioGroup v-model:value="kind" aria-label="Kind"><NRadioButton v-for="[v, label] in kinds" :key="v" :value="v" :data-kind="v || 'all'">{{ label }}</NRadioButton></NRadioGroup>
          <NButton type="primary" data-test="add-media" @click="bring(false)"><template #icon><IconFolderOpen :size="16" /></template>Bring in</NButton>
          <NButton title="A folder; of numbered pictures it is asked whether they are a clip" aria-label="Bring in a folder" @click="bring(true)"><template #icon><IconFolder :size="16" /></template></NButton>
        </div>
      </header>
      <p v-if="media.failure" class="failure" role="alert">{{ media.failure }}</p>
      <DoneBar v-model="media.done" />
      <div v-if="!media.loaded" class="grid" aria-busy="true"><NSkeleton v-for="i in 10" :key="i" height="168px" /></div>
      <div v-else-if="!media.list.length" class="empty">
        <svg width="140" height="80" viewBox="0 0 140 80" aria-hidden="true"><path d="M12 16 H128 V52 C128 64 118 70 106 70 H34 C22 70 12 64 12 52Z" fill="none" stroke="#C9C1AD" stroke-width="2" stroke-dasharray="7 7" stroke-linecap="round" /></svg>
        <h2>Nothing has come in yet</h2>
        <p class="quiet">Drop pictures, clips, marks, sound and fonts here, or a folder of numbered pictures.</p>
      </div>
      <p v-else-if="!found.length" class="quiet none">Nothing that fits.</p>
      <ul v-else class="grid">
        <li v-for="m in found" :key="m.hash">
          <button class="card" :class="{ on: picked === m.hash }" :data-medium="m.name" :aria-pressed="picked === m.hash" @click="picked = picked === m.hash ? '' : m.hash">
            <span class="view"><MediaThumb :medium="m" /><svg class="stitch" aria-hidden="true"><rect x="1" y="1" width="100%" height="100%" rx="5" /></svg></span>
            <b :title="m.name">{{ m.name }}</b>
            <span class="line"><small class="num quiet">{{ facts(m) }}</small><small class="use" :class="{ idle: !m.kept }">{{ used(m) }}</small></span>
            <i v-if="m.kind === 'footage' && m.proxyDone < m.frames" class="growing" title="A light copy for the stage is being made"><i :style="{ width: `${(m.proxyDone / m.frames) * 100}%` }" /></i>
          </button>
        </li>
      </ul>
      <footer v-if="media.unused.length || cleared || freed">
        <div v-if="media.unused.length">
          <span class="quiet"><span class="num">{{ media.unused.length }}</span> of these {{ media.unused.length === 1 ? 'is' : 'are' }} used by no piece and no template.</span>
          <NButton size="small" data-test="clear-unused" @click="media.clear()"><template #icon><IconTrash :size="15" /></template>Clear unused away</NButton>
        </div>
        <div v-if="cleared" data-test="cleared">
          <span class="quiet">What was cleared away still takes {{ bytes(cleared) }}, so that it can be brought back for seven days.</span>
          <NButton v-if="access.builds" size="small" data-test="purge" @click="purge()">Make the room now</NButton>
        </div>
        <span v-if="freed" role="status" class="quiet" data-test="freed">{{ freed }}</span>
      </footer>
    </div>
    <aside v-if="chosen || uploads.list.length" class="side">
      <section v-if="uploads.list.length" class="arrivals">
        <h2 class="heading">Coming in</h2>
        <ArrivalCard v-for="a in uploads.list" :key="a.key" :arrival="a" />
      </section>
      <section v-if="chosen" class="one" data-test="one">
        <span class="large"><MediaThumb :key="chosen.hash" :medium="chosen" :side="640" /><button v-if="pictured(chosen.kind)" class="closer" title="Look closer, with guides" aria-label="Look closer" data-test="look-closer" @click="looking = true"><IconZoomIn :size="17" /></button></span>
        <input v-if="naming" v-model="name" class="name-field" maxlength="180" aria-label="Name" autofocus @blur="named(chosen)" @keydown.enter="named(chosen)" @keydown.esc="naming = false" />
        <button v-else class="name" title="Rename" @click="rename(chosen)">{{ chosen.name }}</button>
        <audio v-if="chosen.kind === 'sound'" controls preload="none" :src="`/api/media/${chosen.hash}/file`" />
        <dl class="num">
          <template v-if="pictured(chosen.kind)"><dt>Size</dt><dd>{{ chosen.width }} × {{ chosen.height }}</dd></template>
          <dt>Kind</dt><dd>{{ chosen.type }}, {{ bytes(chosen.bytes) }}</dd>
          <template v-if="chosen.kind === 'footage'"><dt>Frames</dt><dd>{{ chosen.frames }} at {{ chosen.rate }}{{ chosen.uneven ? ' on average' : '' }}</dd></template>
          <template v-if="chosen.seconds"><dt>Length</dt><dd>{{ seconds(chosen.seconds) }}</dd></template>
          <template v-if="chosen.kind === 'picture' && chosen.alpha"><dt>Seen</dt><dd>{{ Math.round((chosen.seen[2]! - chosen.seen[0]!) * chosen.width) }} × {{ Math.round((chosen.seen[3]! - chosen.seen[1]!) * chosen.height) }} at {{ Math.round(chosen.seen[0]! * chosen.width) }}, {{ Math.round(chosen.seen[1]! * chosen.height) }}</dd></template>
          <dt>Came in</dt><dd>{{ ago(chosen.created) }}</dd>
        </dl>
        <ul v-if="chosen.notes.length" class="notes quiet"><li v-for="n in chosen.notes" :key="n">{{ n }}</li></ul>
        <h2 class="heading">Used in</h2>
        <p v-if="!chosen.uses.length" class="quiet">No piece{{ chosen.used ? ' now; it was used before' : '' }}{{ chosen.kind === 'font' ? ' and no template; it is chosen in the list of faces of any words' : '' }}.</p>
        <ul v-else class="uses">
          <li v-for="u in chosen.uses" :key="`${u.piece}${u.template}${u.pocket}`">
            <RouterLink v-if="u.piece" :to="`/desk/${u.piece}`">{{ u.name }}</RouterLink><span v-else>{{ u.name }}</span>
            <small class="quiet">{{ u.pocket }}{{ u.standIn && chosen.kind !== 'font' ? ', stand-in' : '' }}</small>
          </li>
        </ul>
        <div class="acts">
          <NButton v-if="chosen.kind !== 'font'" size="small" type="primary" data-test="fill-with" @click="filling = true"><template #icon><IconNeedleThread :size="15" /></template>Fill with this</NButton>
          <NButton size="small" data-test="replace" :disabled="!pictured(chosen.kind)" @click="replacing = true"><template #icon><IconReplace :size="15" /></template>Replace everywhere</NButton>
          <NButton size="small" tag="a" :href="`/api/media/${chosen.hash}/file`" :download="chosen.name" aria-label="Download" title="Download the original"><template #icon><IconDownload :size="15" /></template></NButton>
          <NButton size="small" :disabled="chosen.kept" :title="chosen.kept ? 'It is in use' : 'Clear it away'" aria-label="Clear away" @click="media.clear([chosen.hash])"><template #icon><IconTrash :size="15" /></template></NButton>
        </div>
      </section>
    </aside>
    <LookDialog v-if="chosen && pictured(chosen.kind)" v-model:show="looking" :medium="chosen" />
    <FillDialog v-if="chosen" v-model:show="filling" :first="chosen" />
    <StorePicker v-if="chosen" v-model:show="replacing" :title="`In place of ${chosen.name}, everywhere`" :except="chosen.hash" :takes="pictured"
      @use="(m) => { replacing = false; void media.replace(chosen!, m) }"
      @files="async (f) => { replacing = false; const old = chosen!; const [b] = await bundles(f); if (b) void media.replace(old, await uploads.add(b).medium) }" />
  </div>
</template>

<style scoped>
.media { height: 100%; display: grid; grid-template-columns: minmax(0, 1fr) auto; min-height: 0; }
.media.over { box-shadow: inset 0 0 0 3px var(--ivy); }
.main { overflow: auto; padding: 26px 32px 32px; display: flex; flex-direction: column; gap: 18px; }
header { display: flex; justify-content: space-between; align-items: flex-end; gap: 16px 20px; flex-wrap: wrap; }
h1 { font-size: 24px; letter-spacing: -0.02em; line-height: 1.2; }
.tools { display: flex; gap: 8px; align-items: center; flex-wrap: wrap; }
.grid { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(168px, 1fr)); gap: 10px; }
.card { position: relative; display: grid; gap: 2px; width: 100%; padding: 7px; border: 1px solid transparent; border-radius: 10px; background: none; text-align: left; cursor: pointer; min-width: 0; }
.card:hover { background: var(--linen-raised); border-color: var(--rule); }
.card.on { background: var(--linen-raised); border-color: var(--ivy); }
.view { position: relative; display: block; height: 104px; border-radius: 6px; overflow: hidden; margin-bottom: 4px; }
.view .stitch { position: absolute; inset: 3px; width: calc(100% - 8px); height: calc(100% - 8px); overflow: visible; opacity: 0; pointer-events: none; }
.view .stitch rect { stroke: #fffefa; stroke-width: 1.4; stroke-dasharray: 4 4.6; }
.card:hover .stitch, .card.on .stitch { opacity: 0.9; }
.card b { font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.line { display: flex; justify-content: space-between; gap: 6px; align-items: baseline; min-width: 0; }
.line small { font-size: 11px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.use { color: var(--ivy-deep); flex: none; }
.use.idle { color: var(--ink-quiet); }
.growing { position: absolute; left: 7px; right: 7px; top: 107px; height: 4px; background: rgba(255, 255, 255, 0.7); }
.growing i { display: block; height: 100%; background: var(--media); }
footer { display: flex; align-items: center; gap: 8px 32px; flex-wrap: wrap; margin-top: auto; padding-top: 10px; }
footer div { display: flex; align-items: center; gap: 14px; }
.side { width: 296px; border-left: 1px solid var(--rule); overflow: auto; padding: 16px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 18px; align-content: start; background: var(--linen); }
.arrivals { display: grid; gap: 6px; }
.one { display: grid; gap: 10px; }
.closer { position: absolute; right: 6px; bottom: 6px; width: 28px; height: 28px; display: grid; place-items: center; border: 0; border-radius: 7px; background: var(--linen-raised); color: var(--ink); cursor: pointer; box-shadow: 0 0 0 1px var(--rule-strong); }
.large { position: relative; display: block; height: 172px; border-radius: 9px; overflow: hidden; }
.name { background: none; border: 0; padding: 0; font-weight: 600; font-size: 15px; text-align: left; cursor: text; overflow-wrap: anywhere; line-height: 1.25; }
.name-field { font: inherit; font-weight: 600; font-size: 15px; padding: 2px 6px; border: 1px solid var(--ivy); border-radius: 6px; background: #fffefa; color: var(--ink); }
audio { width: 100%; height: 36px; }
dl { display: grid; grid-template-columns: 66px 1fr; gap: 3px 8px; margin: 0; font-size: 12px; }
dt { color: var(--ink-quiet); font-family: 'Figtree', sans-serif; }
dd { margin: 0; }
.notes { margin: 0; padding-left: 15px; font-size: 12px; }
.uses { list-style: none; margin: 0; padding: 0; display: grid; gap: 4px; }
.uses li { display: flex; justify-content: space-between; gap: 8px; }
.uses a { color: var(--ivy-deep); font-weight: 600; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; }
.empty { display: grid; justify-items: center; gap: 8px; padding: 90px 0; }
.none { padding: 60px 0; text-align: center; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; }
@media (max-width: 720px) {
  .media { grid-template-columns: minmax(0, 1fr); grid-template-rows: minmax(0, 1fr) auto; }
  .main { padding: 16px 14px; }
  .side { width: auto; max-height: 46vh; border-left: 0; border-top: 1px solid var(--rule); }
}
</style>
