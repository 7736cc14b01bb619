<script setup lang="ts">
import { IconCopy, IconPencil, IconTrash } from '@tabler/icons-vue'
import { NCheckbox } from 'naive-ui'
import { nextTick, ref } from 'vue'
import { RouterLink } from 'vue-router'

import type { PieceItem } from '../api/client'
import { ago } from '../common/format'

const props = defineProps<{ piece: PieceItem; picked: boolean }>()
const emit = defineEmits<{ pick: [range: boolean]; rename: [name: string]; duplicate: []; remove: [] }>()

const naming = ref(false)
const name = ref('')
let before = ''
/** Enter was pressed in the field: the key that opened it is let go there too, and the one that ends it must not press what comes next. */
let pressed = false
const field = ref<HTMLInputElement>()
const pencil = ref<HTMLButtonElement>()
async function rename() {
  name.value = before = props.piece.name
  naming.value = true
  pressed = false
  await nextTick()
  field.value?.select()
}
/** Ends naming; by a key the focus goes on from where it was. */
async function named(keep: boolean, byKey: boolean) {
  if (!naming.value) return
  naming.value = false
  // What was not touched is no wish, whatever it is called by now.
  if (keep && name.value.trim() && name.value.trim() !== before) emit('rename', name.value.trim())
  if (!byKey) return
  await nextTick()
  pencil.value?.focus()
}
defineExpose({ rename })
</script>

<template>
  <tr :data-piece="piece.id" :class="{ picked }">
    <td class="tick" @mousedown.shift.prevent><NCheckbox :checked="picked" :aria-label="`Choose ${piece.name}`" @update:checked="(_: boolean, e: MouseEvent | KeyboardEvent) => emit('pick', e.shiftKey)" /></td>
    <td class="poster"><RouterLink :to="`/desk/${piece.id}`" tabindex="-1" aria-hidden="true"><img :src="`/api/pieces/${piece.id}/poster?side=192&rev=${piece.revision}`" loading="lazy" alt="" /></RouterLink></td>
    <td class="what">
      <input v-if="naming" ref="field" v-model="name" class="name-field" maxlength="120" aria-label="Name of the piece"
        @blur="named(true, false)" @keydown.enter.prevent="pressed = true" @keyup.enter="pressed && named(true, true)" @keydown.esc.stop="named(false, true)" />
      <RouterLink v-else :to="`/desk/${piece.id}`" class="name" :title="piece.name">{{ piece.name }}</RouterLink>
      <span class="quiet of">{{ piece.of }}, release {{ piece.release }}<span v-if="piece.newest > piece.release" class="newer">{{ piece.newest }} is out</span></span>
    </td>
    <td class="when"><span class="tag quiet">Changed </span>{{ ago(piece.changed) }}</td>
    <td class="when">
      <template v-if="piece.rendered"><span class="tag quiet">Rendered </span>{{ ago(piece.rendered) }}<span v-if="piece.since" class="since">changed since</span></template>
      <span v-else class="quiet">not yet<span class="tag"> rendered</span></span>
    </td>
    <td class="acts">
      <button ref="pencil" class="icon-button" title="Rename" :aria-label="`Rename ${piece.name}`" data-test="rename" @click="rename"><IconPencil :size="17" :stroke-width="1.7" /></button>
      <button class="icon-button" title="Duplicate" :aria-label="`Duplicate ${piece.name}`" data-test="duplicate" @click="emit('duplicate')"><IconCopy :size="17" :stroke-width="1.7" /></button>
      <button class="icon-button" title="Delete" :aria-label="`Delete ${piece.name}`" data-test="delete" @click="emit('remove')"><IconTrash :size="17" :stroke-width="1.7" /></button>
    </td>
  </tr>
</template>

<style scoped>
tr { border-top: 1px solid var(--rule); }
tr:hover { background: var(--linen-raised); }
tr.picked { background: var(--ivy-wash); }
td { padding: 7px 10px; vertical-align: middle; }
.tick { width: 34px; padding-right: 0; }
.poster { width: 108px; }
.poster a { display: grid; place-items: center; width: 96px; height: 56px; background: var(--surround); border-radius: 5px; overflow: hidden; }
.poster img { max-width: 96px; max-height: 56px; display: block; }
.what { min-width: 0; max-width: 0; width: 50%; }
.name { display: block; width: fit-content; max-width: 100%; font-weight: 600; font-size: 14px; color: var(--ink); text-decoration: none; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.name:hover { text-decoration: underline; }
.newer { margin-left: 8px; border: 1px dashed var(--ivy); background: var(--linen-raised); color: var(--ivy-deep); border-radius: 4px; padding: 0 6px; font-size: 11.5px; font-weight: 600; }
.of { display: block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.name-field { font: inherit; font-weight: 600; font-size: 14px; padding: 1px 6px; margin-left: -7px; border: 1px solid var(--ivy); border-radius: 6px; background: #fffefa; color: var(--ink); width: 100%; max-width: 340px; }
.when { white-space: nowrap; }
.tag { display: none; }
.since { display: block; color: var(--amber); }
.acts { white-space: nowrap; text-align: right; width: 112px; }
@media (max-width: 720px) {
  tr { display: grid; grid-template-columns: 26px 84px minmax(0, 1fr); column-gap: 8px; padding: 8px 0; }
  td { padding: 0; }
  .tick { grid-row: 1 / 5; align-self: center; width: auto; }
  .poster { grid-row: 1 / 5; width: auto; align-self: center; }
  .poster a { width: 84px; }
  .poster img { max-width: 84px; }
  .what, .when, .acts { grid-column: 3; max-width: none; width: auto; }
  /* Where the row is narrow a long name has two lines: the end often tells it apart. */
  .name { white-space: normal; display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow-wrap: anywhere; }
  .tag { display: inline; }
  .since { display: inline; margin-left: 6px; }
  .acts { text-align: left; margin-left: -7px; }
}
</style>
