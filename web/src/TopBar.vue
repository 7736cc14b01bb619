<script setup lang="ts">
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconNeedleThread, IconRosetteDiscountCheck } from '@tabler/icons-vue'
import { NButton, useMessage, type MessageReactive } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import ReleaseDialog from './bench/ReleaseDialog.vue'
import { useAccess } from './common/access'
import { tip, useCommands } from './common/commands'
import { useDocument } from './common/document'
import KeysDialog from './common/KeysDialog.vue'
import { useNews } from './common/news/news'
import { useNotices } from './common/notices'
import { useSelection } from './common/selection'
import { useTransport } from './common/transport'
import MoveDialog from './desk/MoveDialog.vue'
import { useUploads } from './media/uploads'
import PersonMenu from './people/PersonMenu.vue'
import RenderDialog from './renders/RenderDialog.vue'
import { useRenders } from './renders/renders'
import { useDrafts } from './shelf/drafts'

const access = useAccess()
const route = useRoute()
const router = useRouter()
const drafts = useDrafts()
const selection = useSelection()
const transport = useTransport()
const doc = useDocument()
const notices = useNotices()
const news = useNews()
const renders = useRenders()
const uploads = useUploads()
const message = useMessage()

const atDesk = computed(() => route.name === 'desk')
const atBench = computed(() => route.name === 'bench')
/** The draft that is tried out at the desk, if one is. */
const tryout = computed(() => (atDesk.value ? doc.piece?.tryout : undefined))
/** The document that is before one, at the desk or at the bench. */
const face = computed(() => ((atDesk.value && doc.piece) || (atBench.value && doc.draft) ? doc.face : null))
/** Where the last piece and the last draft are found again. */
const last = ref<{ piece?: string; draft?: string }>({})
watch(
  () => doc.home,
  (h) => h && !doc.piece?.tryout && (last.value = { ...last.value, [h.kind]: h.id }),
  { immediate: true },
)
const deskTo = computed(() => (last.value.piece ? `/desk/${last.value.piece}` : null))
const benchTo = computed(() => (last.value.draft ? `/bench/${last.value.draft}` : null))
const rendering = ref(false)
const releasing = ref(false)
const moving = ref(false)
/** From a piece to its template: the draft that was worked on last, else a new one. Back leads the bar's own way. */
async function toBench() {
  const id = await drafts.ofTemplate(doc.piece!.template.id)
  if (id) await router.push(`/bench/${id}`)
}
// The dialog is about the piece that it was opened on, and ends with it.
watch(
  () => doc.key,
  () => (rendering.value = releasing.value = moving.value = false),
)
const keys = ref(false)

const told = new Map<string, MessageReactive>()
watch(
  () => notices.last,
  (n) => {
    if (!n) return
    if (n.kind === 'error') message.error(n.text, { duration: 7000, closable: true })
    else {
      if (n.series) told.get(n.series)?.destroy()
      const one = message.info(n.text)
      if (n.series) told.set(n.series, one)
    }
    notices.last = null
  },
)

const naming = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()
async function rename() {
  name.value = face.value?.name ?? ''
  naming.value = true
  await nextTick()
  field.value?.select()
}
function named() {
  if (!naming.value) return
  naming.value = false
  if (name.value.trim() && name.value.trim() !== face.value?.name) void doc.change(doc.draft ? { kind: 'describe', path: 'name', name: name.value } : { kind: 'name', name: name.value })
}

useCommands({ keys: () => (keys.value = true) })
useCommands({ undo: () => void doc.step('undo'), redo: () => void doc.step('redo') }, () => !!face.value)
</script>

<template>
  <header class="bar">
    <RouterLink to="/" class="brand" aria-label="Ivy Pocket, to the shelf">
      <img src="/mark.svg" width="30" height="30" alt="" /><span>Ivy Pocket</span>
    </RouterLink>
    <nav aria-label="Places">
      <RouterLink to="/" class="place" :class="{ here: ['shelf', 'pieces', 'drafts'].includes(String(route.name)) }">Shelf</RouterLink>
      <RouterLink v-if="benchTo" :to="benchTo" class="place" :class="{ here: atBench || tryout }">Bench</RouterLink>
      <RouterLink v-if="deskTo" :to="deskTo" class="place" :class="{ here: atDesk && !tryout }">Desk</RouterLink>
      <RouterLink to="/media" class="place" :class="{ here: route.name === 'media' }">
        Media<span v-if="uploads.open > 0" class="count num">{{ uploads.open }}</span>
      </RouterLink>
      <RouterLink to="/renders" class="place" :class="{ here: route.name === 'renders' }">
        Renders<span v-if="renders.busy > 0" class="count num">{{ renders.busy }}</span>
      </RouterLink>
    </nav>
    <div v-if="face" class="middle">
      <h1>
        <input v-if="naming" ref="field" v-model="name" class="name-field" maxlength="120" :aria-label="`Name of the ${atBench ? 'template' : 'piece'}`"
          @blur="named" @keydown.enter="named" @keydown.esc="naming = false" />
        <span v-else-if="tryout" class="name">{{ face.name }}</span>
        <button v-else class="name" :title="`Rename ${face.name}`" @click="rename">{{ face.name }}</button>
      </h1>
      <span v-if="tryout" class="trying" data-test="trying">as an editor sees it</span>
      <span v-else-if="atDesk && doc.piece" class="quiet of">of <button v-if="doc.piece.newest && access.builds" class="to" title="Open the template on the bench" data-test="to-template" @click="toBench">{{ doc.piece.template.name }}</button><template v-else>{{ doc.piece.template.name }}</template>, release {{ doc.piece.template.release }}</span>
      <span v-else-if="doc.draft" class="quiet of">draft{{ doc.draft.from.id ? ` of ${doc.draft.from.name}` : doc.draft.category ? ` in ${doc.draft.category}` : '' }}</span>
      <button v-if="atDesk && doc.piece && doc.piece.newest > doc.piece.template.release" class="newer" :title="`See what release ${doc.piece.newest} changes`" data-test="newer" @click="moving = true">Release {{ doc.piece.newest }} is out</button>
      <div class="history">
        <span v-if="news.connected" class="quiet saved" role="status">{{ doc.saving ? 'Saving' : 'Saved' }}</span>
        <button class="icon-button" :disabled="!face.undo" :title="face.undo ? tip('undo', `Undo: ${face.undo}`) : 'Nothing to undo'" aria-label="Undo" @click="doc.step('undo')"><IconArrowBackUp :size="19" :stroke-width="1.8" /></button>
        <button class="icon-button" :disabled="!face.redo" :title="face.redo ? tip('redo', `Redo: ${face.redo}`) : 'Nothing to redo'" aria-label="Redo" @click="doc.step('redo')"><IconArrowForwardUp :size="19" :stroke-width="1.8" /></button>
      </div>
    </div>
    <div class="right">
      <span v-if="!news.connected && !access.out" class="lost" role="status">The server does not answer; trying again</span>
      <button class="icon-button keys" :title="tip('keys', 'Keys')" aria-label="Keys" @click="keys = true"><IconKeyboard :size="19" :stroke-width="1.8" /></button>
      <PersonMenu />
      <NButton v-if="tryout" type="primary" data-test="back-to-bench" @click="router.push({ path: `/bench/${tryout}`, query: { format: selection.format, frame: String(transport.frame), panel: 'sheet' } })">Back to the bench</NButton>
      <NButton v-else-if="atDesk && doc.piece" type="primary" :disabled="doc.piece.faults.length > 0" data-test="render" @click="rendering = true">
        <template #icon><IconNeedleThread :size="17" /></template>Render
      </NButton>
      <NButton v-if="atBench && doc.draft" type="primary" data-test="release" @click="releasing = true">
        <template #icon><IconRosetteDiscountCheck :size="17" /></template>Release
      </NButton>
    </div>
    <RenderDialog v-if="doc.piece" v-model:show="rendering" />
    <MoveDialog v-if="doc.piece" v-model:show="moving" />
    <ReleaseDialog v-if="doc.draft" v-model:show="releasing" />
    <KeysDialog v-model:show="keys" />
  </header>
</template>

<style scoped>
.bar { display: flex; align-items: center; gap: 18px; padding: 0 14px; background: var(--linen-raised); border-bottom: 1px solid var(--rule); min-width: 0; }
.brand { display: flex; align-items: center; gap: 8px; font-weight: 700; font-size: 15px; letter-spacing: -0.01em; color: var(--ink); text-decoration: none; white-space: nowrap; }
nav { display: flex; gap: 2px; align-self: stretch; }
.place { display: flex; align-items: center; gap: 6px; padding: 0 11px; color: var(--ink-quiet); font-weight: 500; text-decoration: none; position: relative; }
.place:hover { color: var(--ink); }
.place.here { color: var(--ivy-deep); font-weight: 600; }
.place.here::after { content: ''; position: absolute; left: 9px; right: 9px; bottom: 5px; height: 2px; border-radius: 2px;
  background: repeating-linear-gradient(90deg, var(--ivy) 0 6px, transparent 6px 10px); }
.count { background: var(--ivy); color: #fff; border-radius: 9px; padding: 0 6px; font-size: 11px; }
.middle { flex: 1; min-width: 0; display: flex; align-items: center; gap: 8px; }
h1 { display: flex; font-size: 14px; font-weight: 600; line-height: 1.4; min-width: 0; margin-left: auto; }
.history { display: flex; align-items: center; gap: 4px; margin-left: auto; flex: none; }
.name { background: none; border: 0; border-radius: 6px; padding: 3px 8px; font-weight: 600; font-size: 14px; cursor: text; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; max-width: 300px; min-width: 0; }
.name:hover { background: var(--linen-deep); }
.name-field { font: inherit; font-weight: 600; font-size: 14px; padding: 3px 8px; border: 1px solid var(--ivy); border-radius: 6px; background: #fffefa; color: var(--ink); width: 260px; }
.trying { flex: none; background: #e7a13a; color: #3a2606; border-radius: 5px; padding: 0 8px; font-size: 12px; font-weight: 600; white-space: nowrap; }
.to { background: none; border: 0; padding: 0; font: inherit; color: inherit; cursor: pointer; text-decoration: underline dotted; text-underline-offset: 3px; }
.to:hover { color: var(--ivy-deep); }
.newer { flex: none; white-space: nowrap; border: 1px dashed var(--ivy); background: var(--ivy-wash); color: var(--ivy-deep); border-radius: 5px; padding: 0 7px; font: inherit; font-size: 12px; font-weight: 600; cursor: pointer; }
.of { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.right { display: flex; align-items: center; gap: 4px; margin-left: auto; }
.right .n-button { margin-left: 8px; }
.saved { margin-right: 6px; min-width: 40px; text-align: right; }
.lost { color: var(--rust); font-weight: 500; margin-right: 8px; }
@media (max-width: 900px) {
  .brand span, .of, .saved { display: none; }
  .bar { gap: 10px; padding: 0 10px; }
}
/* On a telephone the piece and its history have a line of their own. */
@media (max-width: 620px) {
  .bar { flex-wrap: wrap; gap: 0 4px; height: auto; min-height: 48px; }
  .brand img { width: 26px; height: 26px; }
  nav { height: 48px; margin-right: auto; }
  .place { padding: 0 5px; }
  .place.here::after { left: 4px; right: 4px; }
  .right .n-button { margin-left: 4px; padding: 0 11px; }
  .middle { order: 3; flex-basis: 100%; height: 36px; margin-top: -4px; }
  h1 { margin-left: 0; }
  .keys { display: none; }
}
</style>
