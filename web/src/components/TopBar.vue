<script setup lang="ts">
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconNeedleThread } from '@tabler/icons-vue'
import { NButton, useMessage } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { useNews } from '../stores/news'
import { usePiece } from '../stores/piece'
import { useRenders } from '../stores/renders'
import { useUploads } from '../stores/uploads'
import RenderDialog from './RenderDialog.vue'
import ShortcutsDialog from './ShortcutsDialog.vue'

const route = useRoute()
const store = usePiece()
const news = useNews()
const renders = useRenders()
const uploads = useUploads()
const message = useMessage()

const onBench = computed(() => route.name === 'bench')
const benchTo = computed(() => (store.piece ? `/bench/${store.piece.id}` : null))
const rendering = ref(false)
const keys = ref(false)

watch(
  () => store.notice,
  (n) => {
    if (!n) return
    if (n.kind === 'error') message.error(n.text, { duration: 7000, closable: true })
    else message.info(n.text)
    store.notice = null
  },
)

const naming = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()
async function rename() {
  name.value = store.piece?.name ?? ''
  naming.value = true
  await nextTick()
  field.value?.select()
}
function named() {
  if (!naming.value) return
  naming.value = false
  if (name.value.trim() && name.value.trim() !== store.piece?.name) void store.change({ kind: 'name', name: name.value })
}

window.addEventListener('keydown', (e) => {
  const t = e.target as HTMLElement
  if (t.closest('input, textarea, [contenteditable]')) return
  if (e.key === '?') keys.value = true
  const z = (e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z'
  const y = (e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'y'
  if (onBench.value && (z || y)) {
    e.preventDefault()
    void store.step(y || e.shiftKey ? 'redo' : 'undo')
  }
})
</script>

<template>
  <header class="bar">
    <RouterLink to="/" class="brand" aria-label="Ivy Pocket, to the shelf">
      <img src="/mark.svg" width="30" height="30" alt="" /><span>Ivy Pocket</span>
    </RouterLink>
    <nav aria-label="Places">
      <RouterLink to="/" class="place" :class="{ here: route.name === 'shelf' }">Shelf</RouterLink>
      <RouterLink v-if="benchTo" :to="benchTo" class="place" :class="{ here: onBench }">Bench</RouterLink>
      <RouterLink to="/media" class="place" :class="{ here: route.name === 'media' }">
        Media<span v-if="uploads.open > 0" class="count num">{{ uploads.open }}</span>
      </RouterLink>
      <RouterLink to="/renders" class="place" :class="{ here: route.name === 'renders' }">
        Renders<span v-if="renders.open > 0" class="count num">{{ renders.open }}</span>
      </RouterLink>
    </nav>
    <div class="middle">
      <template v-if="onBench && store.piece">
        <input v-if="naming" ref="field" v-model="name" class="name-field" maxlength="120" aria-label="Name of the piece"
          @blur="named" @keydown.enter="named" @keydown.esc="naming = false" />
        <button v-else class="name" title="Rename" @click="rename">{{ store.piece.name }}</button>
        <span class="quiet of">of {{ store.piece.template.name }}, release {{ store.piece.template.release }}</span>
      </template>
    </div>
    <div class="right">
      <span v-if="!news.connected" class="lost" role="status">The server does not answer; trying again</span>
      <template v-else-if="onBench && store.piece">
        <span class="quiet saved" role="status">{{ store.saving ? 'Saving' : 'Saved' }}</span>
        <button class="icon-button" :disabled="!store.piece.undo" :title="store.piece.undo ? `Undo: ${store.piece.undo} (Ctrl Z)` : 'Nothing to undo'" aria-label="Undo" @click="store.step('undo')"><IconArrowBackUp :size="19" :stroke-width="1.8" /></button>
        <button class="icon-button" :disabled="!store.piece.redo" :title="store.piece.redo ? `Redo: ${store.piece.redo} (Ctrl Shift Z)` : 'Nothing to redo'" aria-label="Redo" @click="store.step('redo')"><IconArrowForwardUp :size="19" :stroke-width="1.8" /></button>
      </template>
      <button class="icon-button" title="Keys (?)" aria-label="Keys" @click="keys = true"><IconKeyboard :size="19" :stroke-width="1.8" /></button>
      <NButton v-if="onBench && store.piece" type="primary" :disabled="store.piece.faults.length > 0" data-test="render" @click="rendering = true">
        <template #icon><IconNeedleThread :size="17" /></template>Render
      </NButton>
    </div>
    <RenderDialog v-if="store.piece" v-model:show="rendering" />
    <ShortcutsDialog v-model:show="keys" />
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
.middle { flex: 1; min-width: 0; display: flex; align-items: baseline; justify-content: center; gap: 8px; }
.name { background: none; border: 0; border-radius: 6px; padding: 3px 8px; font-weight: 600; font-size: 14px; cursor: text; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; max-width: 300px; }
.name:hover { background: var(--linen-deep); }
.name-field { font: inherit; font-weight: 600; font-size: 14px; padding: 3px 8px; border: 1px solid var(--ivy); border-radius: 6px; background: #fffefa; color: var(--ink); width: 260px; }
.of { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.right { display: flex; align-items: center; gap: 4px; }
.right .n-button { margin-left: 8px; }
.saved { margin-right: 6px; min-width: 40px; text-align: right; }
.lost { color: var(--rust); font-weight: 500; margin-right: 8px; }
</style>
