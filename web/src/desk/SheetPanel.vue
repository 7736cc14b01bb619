<script setup lang="ts">
import { IconArrowBack, IconCopyPlus, IconFolderOpen, IconTable } from '@tabler/icons-vue'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import type { Entry } from '../api/client'
import EntryField from '../common/EntryField.vue'
import { useDocument } from '../common/document'
import { droppedFiles } from '../common/drop'
import { usePieces } from '../common/pieces'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import SpoolIcon from '../common/SpoolIcon.vue'
import { useFilling } from '../media/filling'
import { useEntries } from './entries'
import ListDialog from './ListDialog.vue'
import MeasureLine from './MeasureLine.vue'

const doc = useDocument()
const selection = useSelection()
const pockets = usePockets()
const { fill } = useFilling()
const over = ref('')
const listing = ref(false)
const { value, draft, press, set, cancel, toCue } = useEntries()
const pocket = (e: Entry) => doc.piece!.pockets.find((p) => p.id === e.pocket)!
const pieces = usePieces()
const router = useRouter()
/** Goes on with a piece that has all that is set here, and nothing in its pockets. */
async function next() {
  const id = await pieces.next(doc.piece!.id)
  if (id) await router.push(`/desk/${id}`)
}
/** What is still to be filled. */
const progress = computed(() => {
  const all = pockets.list
  const left = all.filter((p) => p.standIn)
  if (!left.length) return all.length === 1 ? 'The pocket is filled.' : `All ${all.length} pockets are filled.`
  const lent = left.some((p) => p.media)
  if (all.length === 1) return lent ? 'The pocket shows the template’s own stand-in.' : 'Nothing lies in the pocket yet.'
  if (left.length === all.length) return `No pocket is filled yet: each ${lent ? 'shows the template’s own stand-in' : 'is empty'}.`
  return `${left.length} of ${all.length} pockets ${left.length === 1 ? (lent ? 'shows its stand-in' : 'is empty') : lent ? 'show stand-ins' : 'are empty'}: ${left.slice(0, 3).map((p) => p.name).join(', ')}${left.length > 3 ? ` and ${left.length - 3} more` : ''}.`
})
async function drop(ev: DragEvent, e: Entry) {
  over.value = ''
  if (!ev.dataTransfer) return
  const files = await droppedFiles(ev.dataTransfer)
  if (files.length) void fill(e.pocket, files)
}
</script>

<template>
  <div class="sheet">
    <p v-if="pockets.list.length" class="quiet intro" data-test="progress">{{ progress }}</p>
    <p v-if="doc.piece!.aside" class="quiet intro" data-test="aside">{{ doc.piece!.aside === 1 ? 'One value is' : `${doc.piece!.aside} values are` }} put aside: this release does not take {{ doc.piece!.aside === 1 ? 'it' : 'them' }}.</p>
    <p v-for="f in doc.piece!.facesGone" :key="f" class="intro gone" data-test="face-gone">The font {{ f }} is not here, and another face stands in for it. Put the file in under Media, and it takes its place.</p>
    <MeasureLine />
    <NButton v-if="!doc.piece!.tryout" size="tiny" class="fromlist" data-test="open-list" title="Fill it from a row of the list that is kept with its template" @click="listing = true"><template #icon><IconTable :size="15" /></template>From the list</NButton>
    <details v-for="g in doc.piece!.sheet" :key="g.id" open>
      <summary><span>{{ g.label }}</span><span class="num quiet">{{ g.entries.filter((x) => x.shown).length }}</span></summary>
      <div v-for="e in g.entries.filter((x) => x.shown)" :key="e.id" class="entry" :class="[e.kind === 'media' ? 'media' : 'value', { over: over === e.id }]" :data-entry="e.id" @focusin="toCue(e)" @pointerdown="toCue(e)">
        <template v-if="e.kind === 'media'">
          <div class="line" @dragenter.prevent="over = e.id" @dragover.prevent.stop="over = e.id" @dragleave.self="over = ''" @drop.prevent.stop="drop($event, e)">
            <SpoolIcon kind="media" />
            <button class="pick" :title="`Select ${pocket(e).name}`" @click="selection.pocket = e.pocket"><b>{{ e.label }}</b><small class="quiet" :class="{ lent: pocket(e).standIn }">{{ pocket(e).mediaName || 'empty' }}</small></button>
            <button v-if="!pocket(e).standIn" class="icon-button" title="Put the stand-in back" :aria-label="`Put the stand-in back for ${e.label}`" @click="pockets.use(e.pocket, null)"><IconArrowBack :size="15" /></button>
            <button class="icon-button" :aria-label="`Choose media for ${e.label}`" title="Choose media" @click="pockets.picking = e.pocket"><IconFolderOpen :size="16" :stroke-width="1.8" /></button>
          </div>
        </template>
        <template v-else>
          <div class="line">
            <SpoolIcon :kind="e.thread" /><b :title="e.help">{{ e.label }}</b>
            <button v-if="e.given" class="icon-button back" :title="`Reset to ${e.resets}`" :aria-label="`Reset ${e.label}`" @click="set(e, undefined)"><IconArrowBack :size="15" /></button>
          </div>
          <EntryField :e="e" :value="value(e)" @draft="draft(e, $event)" @press="press(e, $event)" @change="set(e, $event)" @cancel="cancel" />
          <p v-if="e.help" class="quiet help">{{ e.help }}</p>
        </template>
      </div>
    </details>
    <template v-if="!doc.piece!.tryout">
      <NButton size="small" class="next" data-test="next-piece" title="A new piece with all that is set here, and empty pockets" @click="next"><template #icon><IconCopyPlus :size="16" /></template>Next piece like this</NButton>
      <ListDialog v-model:show="listing" />
    </template>
  </div>
</template>

<style scoped>
.sheet { display: grid; gap: 8px; }
.intro { font-size: 12px; }
summary { display: flex; justify-content: space-between; cursor: pointer; font-weight: 600; font-size: 13px; padding: 4px 0 6px; list-style: none;
  background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) bottom / 100% 1.2px no-repeat; }
summary::before { content: ''; width: 7px; height: 7px; border-right: 1.6px solid var(--ink-quiet); border-bottom: 1.6px solid var(--ink-quiet); transform: rotate(-45deg); margin: 5px 8px 0 2px; transition: transform 0.12s; }
details[open] summary::before { transform: rotate(45deg); margin-top: 3px; }
summary span:first-child { flex: 1; }
.entry { padding: 2px 6px; border-radius: 8px; border: 1px solid transparent; }
.entry.over { background: var(--ivy-wash); border-color: var(--ivy); }
.entry.value { padding: 6px 6px; display: grid; gap: 2px; }
.line { display: flex; align-items: center; gap: 8px; min-height: 24px; }
.line b { font-weight: 600; }
.pick { line-height: 1.25; flex: 1; min-width: 0; display: grid; text-align: left; background: none; border: 0; padding: 0; cursor: pointer; }
.pick small { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.next { justify-self: start; margin-top: 10px; }
.fromlist { justify-self: start; }
.lent { font-style: italic; }
.line .icon-button { width: 26px; height: 26px; }
.back { margin-left: auto; }
.help { font-size: 12px; }
</style>
