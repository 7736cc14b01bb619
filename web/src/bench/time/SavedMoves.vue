<script setup lang="ts">
import { IconPencil, IconReplace, IconTrash } from '@tabler/icons-vue'
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'

import { api, ask, type SavedMove } from '../../api/client'
import { useDocument } from '../../common/document'
import { useActs } from '../acts'
import { useMotion } from './motion'

/** Moves that are saved by name: performed by the selection, saved from picked keys, and those of other templates on the shelf. */
const doc = useDocument()
const motion = useMotion()
const { does, chosen } = useActs()
const own = computed(() => doc.draft?.savedMoves ?? [])
const others = ref<SavedMove[] | null>(null)
async function look() {
  others.value = others.value ? null : await ask(api.GET('/api/drafts/{id}/moves', { params: { path: { id: doc.draft!.id } } })).catch(() => [])
}
async function bring(m: SavedMove) {
  if (await does({ kind: 'perform', clip: m.clip })) others.value = null
}
/** Keys of one layer, which can be saved. */
const keys = computed(() => (new Set(motion.chosen.map((k) => k.layer.id)).size === 1 && motion.chosen.length > 1 && motion.chosen.every((k) => !k.track.by) ? motion.picked : []))
const name = ref('')
async function save() {
  if (name.value.trim() && (await does({ kind: 'save-move', keys: keys.value, name: name.value.trim(), layers: [] }))) name.value = ''
}
const renaming = ref('')
async function rename(m: SavedMove, text: string) {
  renaming.value = ''
  if (text.trim() && text.trim() !== m.name) await does({ kind: 'move-name', id: m.id, name: text.trim(), layers: [] })
}
const who = computed(() => (chosen.value.length === 1 ? chosen.value[0]!.name : `${chosen.value.length} layers`))
</script>

<template>
  <div class="saved" data-test="saved-moves">
    <p v-if="own.length" class="name">Saved</p>
    <div v-for="m in own" :key="m.id" class="one" :data-saved-move="m.id">
      <NInput v-if="renaming === m.id" size="tiny" autofocus :default-value="m.name" :maxlength="60" :input-props="{ 'aria-label': 'Name of the move' }" @change="rename(m, $event)" @blur="renaming = ''" />
      <button v-else class="give" :title="`${who} performs it from the playhead on: ${m.what.toLowerCase()}`" @click="does({ kind: 'perform', id: m.id })">{{ m.name }} <span class="quiet num">{{ m.length }} f, {{ m.uses }} ×</span></button>
      <button v-if="keys.length" class="icon-button" :title="`Let ${m.name} be the picked keys, for all who perform it`" :aria-label="`Let ${m.name} be the picked keys`" data-test="save-again" @click="does({ kind: 'save-move', id: m.id, keys, layers: [] })"><IconReplace :size="14" /></button>
      <button class="icon-button" :title="`Rename ${m.name}`" :aria-label="`Rename ${m.name}`" @click="renaming = m.id"><IconPencil :size="14" /></button>
      <button class="icon-button" :disabled="m.uses > 0" :title="m.uses ? 'It is performed; make keys of it there first' : `Remove ${m.name}`" :aria-label="`Remove ${m.name}`" @click="does({ kind: 'drop-move', id: m.id, layers: [] })"><IconTrash :size="14" /></button>
    </div>
    <div v-if="keys.length" class="keep"><NInput v-model:value="name" size="tiny" placeholder="Save the picked keys as …" :maxlength="60" :input-props="{ 'aria-label': 'Save the picked keys as a move' }" @keydown.enter="save" /><NButton size="tiny" :disabled="!name.trim()" data-test="save-move" @click="save">Save</NButton></div>
    <NButton size="tiny" quaternary :aria-expanded="!!others" data-test="shelf-moves" @click="look">{{ others ? 'Fold those of other templates' : 'Those of other templates …' }}</NButton>
    <p v-if="others && !others.length" class="quiet small">No other template on the shelf has one that is not here already.</p>
    <div v-for="m in others ?? []" :key="`${m.of} ${m.id} ${m.name}`" class="one"><button class="give" data-test="shelf-move" :title="`${who} performs it from the playhead on, and the move comes into this template: ${m.what.toLowerCase()}`" @click="bring(m)">{{ m.name }} <span class="quiet">{{ m.of }}</span></button></div>
  </div>
</template>

<style scoped>
.saved { display: grid; gap: 4px; justify-items: start; grid-template-columns: minmax(0, 1fr); margin-top: 10px; }
.name { margin: 0; font-weight: 500; }
.one { display: flex; align-items: center; gap: 3px; width: 100%; }
.give { flex: 1; min-width: 0; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; padding: 3px 7px; text-align: left; cursor: pointer; font-size: 12px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.give:hover { border-color: var(--ivy); }
.give .quiet { font-size: 11px; }
.icon-button { width: 22px; height: 22px; flex: none; }
.keep { display: flex; gap: 5px; width: 100%; }
.small { font-size: 11px; margin: 0; }
</style>
