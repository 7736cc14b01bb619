<script setup lang="ts">
import { IconColumnInsertRight, IconDownload, IconFileImport, IconPlus, IconTrash, IconX } from '@tabler/icons-vue'
import { NButton, NDropdown, NSkeleton } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import CardDialog from '../common/CardDialog.vue'
import DoneBar from '../common/DoneBar.vue'
import { useDocument } from '../common/document'
import { bundles } from '../media/choose'
import MediaThumb from '../media/MediaThumb.vue'
import StorePicker from '../media/StorePicker.vue'
import { useUploads } from '../media/uploads'
import { useRows } from './rows'

/** The list that is kept with the template: a row fills the piece, and the piece becomes a row. */
const show = defineModel<boolean>('show', { required: true })
const doc = useDocument()
const rows = useRows()
const uploads = useUploads()
const list = computed(() => rows.list)
/** A row that would empty something is looked at before it fills the piece. */
const asked = ref<{ id: string; name: string; sets: string[]; empties: string[] } | null>(null)
watch(show, (on) => {
  asked.value = null
  if (on) void rows.open(doc.piece!.template.id)
})

async function fill(id: string, name: string) {
  const changes = await rows.look(id).catch(() => [])
  const empties = changes.filter((c) => c.before && !c.after).map((c) => `${c.label} (${c.before})`)
  if (empties.length) asked.value = { id, name, sets: changes.filter((c) => c.after).map((c) => `${c.label}: ${c.after}`), empties }
  else await filled(id)
}
async function filled(id: string) {
  asked.value = null
  if (await rows.fill(id)) show.value = false
}
/** What was typed is meant, also when it is nothing. */
const set = (row: number, col: number, text: string) =>
  void rows.change((l) => {
    const r = l.rows[row]!
    r.cells[col] = text
    r.leaves = r.leaves.filter((c) => c !== l.columns[col])
  })
/** A cell is taken when it is left or Enter is pressed; Escape leaves it as it was. */
function typed(e: Event, was: string, take: (text: string) => void) {
  const text = (e.target as HTMLInputElement).value.trim()
  if (text !== was) take(text)
}
function escape(e: KeyboardEvent, was: string) {
  ;(e.target as HTMLInputElement).value = was
  ;(e.target as HTMLInputElement).blur()
  e.stopPropagation()
}
const add = () => void rows.change((l) => l.rows.push({ id: crypto.randomUUID(), name: `Row ${l.rows.length + 1}`, cells: l.columns.map(() => ''), leaves: [] }))
const remove = (i: number, name: string) => void rows.change((l) => l.rows.splice(i, 1), `${name || 'The row'} was taken off the list.`)
const more = computed(() => (list.value?.more ?? []).map((c) => ({ key: c.data, label: c.label })))
const widen = (data: string) =>
  void rows.change((l) => {
    l.columns.push(data)
    for (const r of l.rows) {
      r.cells.push('')
      r.leaves.push(data)
    }
  })
function narrow(i: number, label: string) {
  void rows.change((l) => {
    l.columns.splice(i, 1)
    l.rows.forEach((r) => r.cells.splice(i, 1))
  }, `The column ${label} was taken off the list.`)
}

/** How a cell reads that says nothing. */
const nothing = (r: { leaves: string[] }, column: string) => (r.leaves.includes(column) ? 'as it is' : '—')

/** The cell that media is chosen for. */
const picking = ref<{ row: number; col: number } | null>(null)
const takes = computed(() => (picking.value ? list.value!.columns[picking.value.col]!.takes : []))
function chosen(hash: string) {
  const p = picking.value
  picking.value = null
  if (p) set(p.row, p.col, hash)
}
const file = ref<HTMLInputElement>()
const csvs = [
  { key: 'after', label: 'Read CSV, after these rows' },
  { key: 'instead', label: 'Read CSV, in place of all rows' },
]
let after = true
function choose(key: string) {
  after = key === 'after'
  file.value!.value = ''
  file.value!.click()
}
function read() {
  const f = file.value?.files?.[0]
  if (f) void rows.read(f, after)
}
</script>

<template>
  <CardDialog v-model:show="show" :title="`List of ${doc.piece?.template.name ?? ''}`" :width="980">
    <DoneBar v-model="rows.done" class="bar" />
    <p v-if="rows.failure" class="wrong" role="alert">{{ rows.failure }}</p>
    <div v-if="asked" class="asked" role="alertdialog" aria-label="What the row empties" data-test="row-empties">
      <p><strong>{{ asked.name }}</strong> has nothing for {{ asked.empties.join(', ') }}: the template’s own comes in {{ asked.empties.length === 1 ? 'its' : 'their' }} place.<template v-if="asked.sets.length"> It sets {{ asked.sets.join('; ') }}.</template></p>
      <NButton size="small" type="primary" data-test="row-fill" @click="filled(asked.id)">Fill</NButton><NButton size="small" @click="asked = null">Not now</NButton>
    </div>
    <NSkeleton v-if="!list" height="120px" />
    <template v-else>
      <p v-if="!list.rows.length"
        class="quiet none">Rows that pieces of this template are filled from: a person, a picture, a colour each. Keep this piece as the first, add one by hand, or read a table.</p>
      <div v-else class="frame">
        <table data-test="list">
          <thead>
            <tr>
              <td /><th scope="col">Row</th>
              <th v-for="(c, i) in list.columns" :key="c.data" scope="col" :class="{ idle: !c.kind }"><span
                :title="c.kind ? c.data : `No entry of the sheet is called ${c.data} for data`">{{ c.label }}</span><button
                class="icon-button" :aria-label="`Take the column ${c.label} off`" title="Take the column off"
                @click="narrow(i, c.label)"><IconX :size="12" /></button></th>
              <td />
            </tr>
          </thead>
          <tbody>
            <tr v-for="(r, n) in list.rows" :key="r.id" :data-row="r.name">
              <td><NButton size="tiny" type="primary" :aria-label="`Fill from ${r.name}`" data-test="fill-row"
                @click="fill(r.id, r.name)">Fill</NButton></td>
              <th scope="row"><input :value="r.name" maxlength="180" :aria-label="`Name of row ${n + 1}`"
                @change="typed($event, r.name, (text) => rows.change((l) => (l.rows[n]!.name = text)))"
                @keydown.enter="($event.target as HTMLInputElement).blur()" @keydown.esc="escape($event, r.name)" /></th>
              <td v-for="(c, i) in list.columns" :key="c.data" :class="{ bad: r.cells[i]!.why }" :data-cell="c.data">
                <button v-if="c.kind === 'media'" class="medium"
                  :aria-label="`${c.label} of ${r.name}: ${list.media[r.cells[i]!.media ?? '']?.name ?? (r.cells[i]!.text || 'nothing')}`"
                  @click="picking = { row: n, col: i }">
                  <span v-if="r.cells[i]!.media && list.media[r.cells[i]!.media!]" class="view"><MediaThumb
                    :medium="list.media[r.cells[i]!.media!]!" :side="96" /></span>
                  <span class="name">{{ list.media[r.cells[i]!.media ?? '']?.name ?? (r.cells[i]!.text || nothing(r, c.data)) }}</span>
                </button>
                <select v-else-if="c.options.length && (!r.cells[i]!.text || c.options.includes(r.cells[i]!.text))"
                  :value="r.cells[i]!.text" :aria-label="`${c.label} of ${r.name}`"
                  @change="set(n, i, ($event.target as HTMLSelectElement).value)">
                  <option value="">{{ nothing(r, c.data) }}</option><option v-for="o in c.options" :key="o">{{ o }}</option>
                </select>
                <span v-else class="field">
                  <i v-if="c.kind === 'colour' && /^#[0-9a-f]{6}/i.test(r.cells[i]!.text)" class="swatch"
                    :style="{ background: r.cells[i]!.text }" />
                  <input :value="r.cells[i]!.text" maxlength="900" :placeholder="nothing(r, c.data)" :aria-label="`${c.label} of ${r.name}`"
                    :aria-invalid="!!r.cells[i]!.why" @change="typed($event, r.cells[i]!.text, (text) => set(n, i, text))"
                    @keydown.enter="($event.target as HTMLInputElement).blur()" @keydown.esc="escape($event, r.cells[i]!.text)" />
                </span>
                <small v-if="r.cells[i]!.why" class="why">{{ r.cells[i]!.why }}</small>
              </td>
              <td><button class="icon-button" :aria-label="`Take ${r.name} off the list`" title="Take the row off"
                data-test="remove-row" @click="remove(n, r.name)"><IconTrash :size="15" /></button></td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="quiet about">A row sets each of its columns. An empty cell — brings the template’s own back; where it says “as it is”, nothing is changed.</p>
    </template>
    <input ref="file" type="file" accept=".csv,.tsv,.txt,text/csv" hidden data-test="csv-file" @change="read" />
    <template #acts>
      <NDropdown v-if="more.length" trigger="click" :options="more" @select="widen"><NButton data-test="add-column"><template
        #icon><IconColumnInsertRight :size="16" /></template>Column</NButton></NDropdown>
      <NDropdown trigger="click" :options="csvs" @select="choose"><NButton data-test="read-csv"><template #icon><IconFileImport
        :size="16" /></template>Read CSV</NButton></NDropdown>
      <NButton tag="a" :href="rows.csv()" download data-test="save-csv"><template #icon><IconDownload :size="16"
        /></template>Save CSV</NButton>
      <NButton :disabled="!list" data-test="add-row" @click="add"><template #icon><IconPlus :size="16" /></template>Row</NButton>
      <NButton type="primary" :disabled="!list" data-test="keep-row" @click="rows.keep(doc.piece!.name)">Keep this piece as a row</NButton>
    </template>
  </CardDialog>
  <StorePicker :show="!!picking" title="For this cell" :takes="(k) => takes.includes(k) || (k === 'picture' && takes.includes('logo'))"
    @update:show="(on) => !on && (picking = null)" @use="(m) => chosen(m.hash)"
    @files="async (f) => { const p = picking; const [b] = await bundles(f); if (b) { const m = await uploads.add(b).medium; picking = p; chosen(m.hash) } }" />
</template>

<style scoped>
.bar { margin-bottom: 10px; }
.wrong { color: #8c3518; margin-bottom: 10px; white-space: pre-line; }
.none { padding: 18px 0; max-width: 60ch; }
.frame { overflow: auto; max-height: 56vh; border: 1px solid var(--rule); border-radius: 8px; }
table { border-collapse: separate; border-spacing: 0; width: 100%; font-size: 13px; }
thead th, thead td { position: sticky; top: 0; z-index: 1; background: var(--linen-deep); text-align: left; font-size: 11.5px;
  font-weight: 600; padding: 4px 8px; white-space: nowrap; }
thead th .icon-button { width: 18px; height: 18px; margin-left: 4px; vertical-align: middle; }
thead th.idle { color: var(--ink-quiet); font-style: italic; }
tbody td, tbody th { border-top: 1px solid var(--rule); padding: 3px 6px; text-align: left; vertical-align: middle; }
tbody th { min-width: 120px; }
tbody th input { font-weight: 600; }
input:not([type]), select { width: 100%; min-width: 74px; font: inherit; color: var(--ink); background: none;
  border: 1px solid transparent; border-radius: 5px; padding: 3px 5px; }
input:hover, select:hover { border-color: var(--rule-strong); }
input:focus, select:focus { border-color: var(--ivy); background: #fffefa; outline: none; }
.medium { display: flex; align-items: center; gap: 7px; border: 0; background: none; padding: 2px; border-radius: 5px; cursor: pointer;
  font: inherit; max-width: 190px; min-width: 96px; text-align: left; }
.medium:hover { background: var(--linen-deep); }
.view { flex: none; width: 44px; height: 30px; border-radius: 4px; overflow: hidden; }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: 12px; }
.field { display: flex; align-items: center; gap: 5px; }
.swatch { flex: none; width: 14px; height: 14px; border-radius: 4px; border: 1px solid rgba(0, 0, 0, 0.25); }
.bad { background: var(--rust-wash); }
.why { display: block; color: #8c3518; font-size: 11px; line-height: 1.3; max-width: 190px; padding: 0 5px 2px; overflow-wrap: anywhere; }
.about { font-size: 12px; margin-top: 8px; }
.asked { display: flex; align-items: center; gap: 8px; padding: 8px 12px; margin-bottom: 10px; border: 1px solid var(--amber); border-radius: 8px; background: #fdf4e3; }
.asked p { flex: 1; margin: 0; overflow-wrap: anywhere; }
</style>
