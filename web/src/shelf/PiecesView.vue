<script setup lang="ts">
import { IconArrowDown, IconArrowUp, IconArrowUpRight, IconTrash } from '@tabler/icons-vue'
import { useSessionStorage } from '@vueuse/core'
import { NButton, NCheckbox, NSkeleton } from 'naive-ui'
import { computed, nextTick, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import type { PieceItem } from '../api/client'
import DoneBar from '../common/DoneBar.vue'
import { ago } from '../common/format'
import { usePicks } from '../common/picks'
import { finder } from '../common/search'
import { useFind } from './find'
import PieceRow from './PieceRow.vue'
import { usePieces } from '../common/pieces'
import ShelfHead from './ShelfHead.vue'

const pieces = usePieces()
pieces.watched = true
void pieces.load()
onScopeDispose(() => (pieces.watched = false))

const route = useRoute()
const router = useRouter()
const search = useFind()
/** Only pieces of one template, where the address names it. */
const template = computed(() => (typeof route.query.template === 'string' ? route.query.template : ''))
const templateName = computed(() => pieces.all.find((p) => p.template === template.value)?.of ?? template.value)

const words = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' })
const columns = {
  name: { label: 'Name', compare: (a: PieceItem, b: PieceItem) => words.compare(a.name, b.name), falls: false },
  changed: { label: 'Changed', compare: (a: PieceItem, b: PieceItem) => Date.parse(a.changed) - Date.parse(b.changed), falls: true },
  rendered: { label: 'Rendered', compare: (a: PieceItem, b: PieceItem) => (Date.parse(a.rendered) || 0) - (Date.parse(b.rendered) || 0), falls: true },
} as const
type Column = keyof typeof columns
const sort = useSessionStorage<{ by: Column; falls: boolean }>('ivy-pieces-sort', { by: 'changed', falls: true })
function sortBy(by: Column) {
  sort.value = { by, falls: sort.value.by === by ? !sort.value.falls : columns[by].falls }
}

const found = computed(() => {
  const fits = finder(search.value)
  const { compare } = columns[sort.value.by] ?? columns.changed
  const list = pieces.all.filter((p) => (!template.value || p.template === template.value) && fits(`${p.name} ${p.of} ${p.category}`))
  return list.sort((a, b) => (sort.value.falls ? -1 : 1) * compare(a, b) || words.compare(a.name, b.name))
})
/** How many rows are drawn: a long list is drawn as far as it is looked at. */
const STEP = 100
const rows = ref(STEP)
watch([search, template, sort], () => (rows.value = STEP))
const shown = computed(() => found.value.slice(0, rows.value))
const { picked, pick, all, some } = usePicks(computed(() => found.value.map((p) => p.id)))
const chosen = computed(() => found.value.filter((p) => picked.value.has(p.id)))

const behind = computed(() => chosen.value.filter((p) => p.newest > p.release))

const lines = ref<Record<string, InstanceType<typeof PieceRow>>>({})
async function duplicate(p: PieceItem) {
  const id = await pieces.duplicate(p)
  await nextTick()
  if (id) document.querySelector(`[data-piece="${id}"]`)?.scrollIntoView({ block: 'nearest' })
  void lines.value[id]?.rename()
}
const looksAtDeleted = ref(false)
</script>

<template>
  <div class="shelf cloth">
    <ShelfHead v-model:search="search" about="All pieces that were begun, of every template." placeholder="Search pieces" />
    <p v-if="pieces.failure" class="failure" role="alert">{{ pieces.failure }} <NButton size="small" @click="pieces.load()">Try again</NButton></p>
    <DoneBar v-model="pieces.done" class="done" />
    <p v-if="template" class="only">Pieces of {{ templateName }} <NButton size="small" @click="router.replace({ query: { ...route.query, template: undefined } })">Show all</NButton></p>
    <div v-if="!pieces.loaded" aria-busy="true"><NSkeleton v-for="i in 6" :key="i" height="64px" style="margin-bottom: 6px" /></div>
    <div v-else-if="!pieces.all.length && !pieces.failure" class="empty">
      <svg width="120" height="60" viewBox="0 0 120 60" aria-hidden="true"><rect x="6" y="6" width="108" height="48" rx="8" fill="none" stroke="#C9C1AD" stroke-width="2" stroke-dasharray="7 7" stroke-linecap="round" /></svg>
      <h2>No pieces yet</h2>
      <p class="quiet">Fill a template, and it stands here from then on.</p>
      <RouterLink to="/" custom #default="{ navigate }"><NButton type="primary" @click="navigate">To the templates</NButton></RouterLink>
    </div>
    <p v-else-if="!found.length" class="empty quiet">No piece matches{{ search ? ` “${search}”` : '' }}.</p>
    <table v-else>
      <thead>
        <tr>
          <th class="tick"><NCheckbox v-model:checked="all" :indeterminate="some" aria-label="Choose all" data-test="all" /></th>
          <th colspan="2" :aria-sort="sort.by === 'name' ? (sort.falls ? 'descending' : 'ascending') : undefined">
            <button :class="{ on: sort.by === 'name' }" data-sort="name" @click="sortBy('name')">Name<component :is="sort.falls ? IconArrowDown : IconArrowUp" v-if="sort.by === 'name'" :size="13" /></button>
          </th>
          <th v-for="by in (['changed', 'rendered'] as const)" :key="by" :aria-sort="sort.by === by ? (sort.falls ? 'descending' : 'ascending') : undefined">
            <button :class="{ on: sort.by === by }" :data-sort="by" @click="sortBy(by)">{{ columns[by].label }}<component :is="sort.falls ? IconArrowDown : IconArrowUp" v-if="sort.by === by" :size="13" /></button>
          </th>
          <th class="many">
            <NButton v-if="behind.length" size="small" class="move" data-test="move-chosen" title="One change; what a release does not take is put aside, and comes back" @click="pieces.move(behind)"><template #icon><IconArrowUpRight :size="15" /></template>Move {{ behind.length }} to the newest release</NButton>
            <NButton v-if="chosen.length" size="small" data-test="delete-chosen" @click="pieces.remove(chosen)"><template #icon><IconTrash :size="15" /></template>Delete {{ chosen.length }}</NButton>
            <span v-else class="quiet num">{{ found.length }} {{ found.length === 1 ? 'piece' : 'pieces' }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <PieceRow v-for="p in shown" :key="p.id" :ref="(r) => { if (r) lines[p.id] = r as InstanceType<typeof PieceRow>; else delete lines[p.id] }" :piece="p" :picked="picked.has(p.id)"
          @pick="(range) => pick(p.id, range)" @rename="(name) => pieces.rename(p, name)" @duplicate="duplicate(p)" @remove="pieces.remove([p])" />
      </tbody>
    </table>
    <p v-if="found.length > shown.length" class="more"><NButton data-test="more" @click="rows += STEP">Show {{ Math.min(STEP, found.length - shown.length) }} more of {{ found.length - shown.length }}</NButton></p>
    <footer v-if="pieces.deleted.length">
      <button class="quiet fold" :aria-expanded="looksAtDeleted" data-test="deleted" @click="looksAtDeleted = !looksAtDeleted">
        {{ pieces.deleted.length === 1 ? '1 deleted piece' : `${pieces.deleted.length} deleted pieces` }}, kept for seven days
      </button>
      <ul v-if="looksAtDeleted">
        <li v-for="p in pieces.deleted" :key="p.id" :data-deleted="p.id">
          <span class="gone">{{ p.name }}</span><span class="quiet">{{ p.of }}, deleted {{ ago(p.deleted) }}</span>
          <NButton size="small" data-test="back" :aria-label="`Bring it back: ${p.name}`" @click="pieces.back([p.id])">Bring it back</NButton>
        </li>
      </ul>
    </footer>
  </div>
</template>

<style scoped>
.move { margin-right: 8px; }
.shelf { height: 100%; overflow: auto; padding: 26px 32px 48px; }
table { width: 100%; max-width: 1320px; border-collapse: collapse; }
th { text-align: left; padding: 4px 10px 6px; font-weight: 500; white-space: nowrap; }
th.tick { width: 34px; padding-right: 0; }
th button { display: inline-flex; align-items: center; gap: 4px; background: none; border: 0; padding: 3px 6px; margin-left: -6px; border-radius: 6px; cursor: pointer; color: var(--ink-quiet); font-weight: 500; }
th button:hover { background: var(--linen-deep); color: var(--ink); }
th button.on { color: var(--ivy-deep); font-weight: 600; }
.many { text-align: right; height: 40px; }
.done { margin-bottom: 12px; max-width: 1320px; }
.only { display: flex; align-items: center; gap: 12px; margin-bottom: 10px; font-weight: 600; }
.more { padding: 14px 0; text-align: center; max-width: 1320px; }
footer { margin-top: 18px; max-width: 1320px; }
.fold { background: none; border: 0; padding: 4px 6px; margin-left: -6px; cursor: pointer; text-decoration: underline; text-underline-offset: 3px; text-decoration-style: dashed; }
footer ul { list-style: none; margin: 8px 0 0; padding: 0; display: grid; gap: 4px; }
footer li { display: flex; align-items: center; gap: 12px; }
.gone { font-weight: 600; }
footer .n-button { margin-left: auto; }
.empty { display: grid; justify-items: center; gap: 10px; padding: 90px 0; text-align: center; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; margin-bottom: 16px; display: flex; gap: 12px; align-items: center; justify-content: space-between; }
@media (max-width: 720px) {
  .shelf { padding: 16px 14px 32px; }
  thead, tbody { display: block; }
  thead tr { display: flex; flex-wrap: wrap; align-items: center; }
  .many { margin-left: auto; height: auto; }
}
</style>
