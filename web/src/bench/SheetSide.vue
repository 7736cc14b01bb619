<script setup lang="ts">
import { IconChevronDown, IconChevronRight, IconEye, IconGripVertical, IconPin, IconPlus, IconTrash } from '@tabler/icons-vue'
import { NButton, NDropdown, NInput } from 'naive-ui'
import { computed, nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, type Act, type Entry, type EntryValue, type Failure } from '../api/client'
import EntryField from '../common/EntryField.vue'
import SpoolIcon from '../common/SpoolIcon.vue'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'
import { useNotices } from '../common/notices'
import { useSelection } from '../common/selection'
import TextField from '../common/TextField.vue'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'
import { useActs, type Deed } from './acts'
import EntrySettings from './EntrySettings.vue'
import { useSheet } from './sheet'

/** The sheet as the designer lays it out: groups and entries in the order in which an editor has them, each with its default. */
const sheet = useSheet()
const transient = useTransient()
const doc = useDocument()
const router = useRouter()
const transport = useTransport()
const selection = useSelection()
const { act, does } = useActs()

const picked = (e: Entry) => sheet.chosen.includes(e.id)
function pick(ev: MouseEvent | KeyboardEvent, e: Entry) {
  if (ev.ctrlKey || ev.metaKey) sheet.chosen = picked(e) ? sheet.chosen.filter((id) => id !== e.id) : [...sheet.chosen, e.id]
  else if (ev.shiftKey && sheet.chosen.length) {
    const all = sheet.entries.map((x) => x.id)
    const [a, b] = [all.indexOf(sheet.chosen.at(-1)!), all.indexOf(e.id)]
    sheet.chosen = [...new Set([...sheet.chosen, ...all.slice(Math.min(a, b), Math.max(a, b) + 1)])]
  } else sheet.chosen = picked(e) && sheet.chosen.length === 1 ? [] : [e.id]
}
/** Those that a change of one is for: all that are selected and ask for the same. */
const mates = (e: Entry) => (picked(e) ? sheet.entries.filter((x) => picked(x) && x.kind === e.kind) : [e])
function op(e: Entry, value: EntryValue): Act {
  const ops = mates(e).map((x) => act({ kind: 'default', entry: x.id, value, layers: [] }))
  return ops.length === 1 ? ops[0]! : { ...act({ kind: 'batch', layers: [] }), ops }
}
const value = (e: Entry) => {
  const like = op(e, 0)
  const w = transient.wished(like) ?? (transient.op?.kind === like.kind && transient.op.entry === like.entry ? transient.op : null)
  return ((w as Act | null)?.value ?? e.value) as EntryValue
}
const lengths = (e: Entry) => e.kind === 'duration' || e.kind === 'media'

const pinnedAt = (e: Entry, at: unknown) => sheet.pin?.entry === e.id && sheet.pin.at === at

// Order by dragging, and by Alt and arrows.
const drag = useDrag()
const goal = ref<{ id: string; below: boolean } | { group: string } | null>(null)
function take(ev: PointerEvent, e: Entry) {
  const ids = picked(e) ? sheet.entries.filter(picked).map((x) => x.id) : [e.id]
  drag(ev, {
    slack: 4,
    move: (d) => {
      const found = document.elementsFromPoint(d.x, d.y).find((x) => x instanceof HTMLElement && (x.dataset.line || x.dataset.group)) as HTMLElement | undefined
      if (found?.dataset.line && !ids.includes(found.dataset.line)) {
        const r = found.getBoundingClientRect()
        goal.value = { id: found.dataset.line, below: d.y > r.y + r.height / 2 }
      } else goal.value = found?.dataset.group ? { group: found.dataset.group } : null
    },
    end: () => {
      const g = goal.value
      goal.value = null
      if (g) move(ids, g)
    },
    cancel: () => (goal.value = null),
  })
}
function move(ids: string[], g: NonNullable<typeof goal.value>) {
  const group = 'group' in g ? sheet.groups.find((x) => x.id === g.group) : sheet.groups.find((x) => x.entries.some((e) => e.id === g.id))
  if (!group) return
  const left = group.entries.filter((e) => !ids.includes(e.id))
  let at = 'group' in g ? 0 : left.findIndex((e) => e.id === g.id) + (g.below ? 1 : 0)
  const ops: Deed[] = ids.map((id) => ({ kind: 'move', path: `entries/${id}`, into: `groups/${group.id}/entries`, at: at++ }))
  void does(ops.length === 1 ? ops[0]! : { kind: 'batch', ops: ops.map(act) })
}
function keyed(ev: KeyboardEvent, e: Entry) {
  if (ev.key === 'Delete' || ev.key === 'Backspace') {
    ev.stopPropagation()
    return withdraw(picked(e) ? sheet.chosen : [e.id])
  }
  if (!ev.altKey || (ev.key !== 'ArrowUp' && ev.key !== 'ArrowDown')) return
  ev.preventDefault()
  ev.stopPropagation()
  const all = sheet.groups.flatMap((g) => g.entries)
  const next = all[all.indexOf(e) + (ev.key === 'ArrowUp' ? -1 : 1)]
  const here = sheet.groups.findIndex((g) => g.entries.includes(e))
  const to = sheet.groups[here + (ev.key === 'ArrowUp' ? -1 : 1)]
  if (next && sheet.groups[here]!.entries.includes(next)) move([e.id], { id: next.id, below: ev.key === 'ArrowDown' })
  else if (to) move([e.id], to.entries.length ? { id: (ev.key === 'ArrowUp' ? to.entries.at(-1)! : to.entries[0]!).id, below: ev.key === 'ArrowUp' } : { group: to.id })
}
function withdraw(ids: string[]) {
  const ops: Deed[] = ids.map((id) => ({ kind: 'withdraw', entry: id }))
  sheet.chosen = sheet.chosen.filter((id) => !ids.includes(id))
  void does(ops.length === 1 ? ops[0]! : { kind: 'batch', ops: ops.map(act) })
}
const label = ref('')
function addGroup() {
  const text = label.value.trim()
  if (!text) return
  label.value = ''
  void does({ kind: 'heading', name: text })
}
/** What an entry may be that no value was offered for. */
const kinds = computed(() => [
  ['words', 'Words of one line'], ['lines', 'Words of several lines'], ['typeface', 'Face, one of a few'], ['choice', 'Choice between a few things'], ['switch', 'Switch, on or off'], ['amount', 'Amount'], ['angle', 'Angle'], ['place', 'Place'], ['colour', 'Colour'],
  ...(doc.draft!.gradients.length > 1 ? [['gradient', 'Gradient, one of those with a name']] : []),
  ...(sheet.entries.some((e) => e.kind === 'duration') ? [] : [['duration', 'Duration of the piece']]),
].map(([key, label]) => ({ key, label })))
const folded = ref<string[]>([])
const fold = (id: string) => (folded.value = folded.value.includes(id) ? folded.value.filter((x) => x !== id) : [...folded.value, id])
const remarks = computed(() => doc.draft?.remarks ?? [])
/** To where a remark is about. */
function go(r: { entry: string; layer: string }) {
  if (r.entry) {
    sheet.chosen = [r.entry]
    void nextTick(() => document.querySelector(`[data-line="${r.entry}"]`)?.scrollIntoView({ block: 'nearest' }))
  } else if (r.layer) selection.layers = [r.layer]
}
const count = computed(() => sheet.entries.length)
/** The desk as an editor would have it, with the draft as it stands. */
async function asEditor() {
  try {
    const p = await ask(api.POST('/api/drafts/{id}/desk', { params: { path: { id: doc.draft!.id } } }))
    await router.push({ path: `/desk/${p.id}`, query: { format: selection.format, frame: String(transport.frame), panel: 'sheet' } })
  } catch (e) {
    useNotices().say('error', (e as Failure).message)
  }
}
</script>

<template>
  <div class="sheet" data-test="sheet-side">
    <NButton v-if="count" size="small" class="see" data-test="as-editor" :disabled="!doc.draft!.formats.length" title="The desk with this draft, in this window: try what an editor can do" @click="asEditor"><template #icon><IconEye :size="15" /></template>See it as an editor</NButton>
    <p class="quiet small intro">{{ count ? `What an editor is given: ${count} ${count === 1 ? 'entry' : 'entries'}, in this order.` : 'An editor is given nothing yet. Press the spool beside a value, or in a pocket’s panel, to put it here.' }}</p>
    <details v-if="remarks.length" class="remarks" data-test="remarks">
      <summary><b>{{ remarks.length === 1 ? '1 remark' : `${remarks.length} remarks` }}</b> on this sheet</summary>
      <ul>
        <li v-for="r in remarks" :key="r.what" :data-remark="r.what"><button class="what" :disabled="!r.entry && !r.layer" @click="go(r)">{{ r.what }}</button><NButton v-if="r.mend" size="tiny" data-test="mend" @click="doc.change({ ...(r.act as Act), format: (r.act as Act).format || selection.format })">{{ r.mend }}</NButton></li>
      </ul>
    </details>
    <section v-for="g in sheet.groups" :key="g.id" :data-group="g.id" :aria-label="g.label">
      <div class="head" :class="{ goal: goal && 'group' in goal && goal.group === g.id }">
        <button class="fold" :aria-expanded="!folded.includes(g.id)" :aria-label="`${folded.includes(g.id) ? 'Unfold' : 'Fold'} ${g.label}`" @click="fold(g.id)"><component :is="folded.includes(g.id) ? IconChevronRight : IconChevronDown" :size="14" /></button>
        <TextField size="tiny" class="name" :value="g.label" :most="80" needed :label="`Heading ${g.label}`" @change="(n) => does({ kind: 'rename', path: `groups/${g.id}`, name: n.trim() })" />
        <span class="num quiet">{{ g.entries.length }}</span>
        <button v-if="!g.entries.length" class="icon-button" :aria-label="`Remove the heading ${g.label}`" title="Remove the empty heading" @click="does({ kind: 'remove', path: `groups/${g.id}` })"><IconTrash :size="14" /></button>
      </div>
      <template v-if="!folded.includes(g.id)">
      <div v-for="e in g.entries" :key="e.id" class="entry" :class="{ on: picked(e), fixed: e.bench!.fixed, goal: goal && 'id' in goal && goal.id === e.id, below: goal && 'id' in goal && goal.below }" :data-line="e.id">
        <div class="line">
          <button class="grip" :aria-label="`Move ${e.label}: Alt and arrows`" title="Drag, or Alt and arrows" @pointerdown="take($event, e)" @keydown="keyed($event, e)"><IconGripVertical :size="14" /></button>
          <SpoolIcon :kind="e.thread" />
          <button class="label" :aria-expanded="picked(e)" :title="picked(e) ? undefined : 'Its settings'" :data-entry="e.id" @click="pick($event, e)" @keydown="keyed($event, e)">{{ e.label }}</button>
          <span v-if="e.bench!.fixed" class="chip" title="No editor sees it">fixed</span>
          <span v-else-if="e.bench!.when" class="chip" title="It is shown only when another entry says so">when</span>
          <button class="icon-button off" title="Take it off the sheet" :aria-label="`Take ${e.label} off the sheet`" :data-off="e.id" @click="withdraw([e.id])"><IconTrash :size="14" /></button>
        </div>
        <EntryField v-if="!lengths(e)" :e="e" :value="value(e)" @draft="transient.show(op(e, $event))" @press="transient.soon(op(e, $event))" @change="transient.keep(op(e, $event))" @cancel="transient.hide()" />
        <div v-if="!e.bench!.fixed && e.bench!.stops.length" class="notches" role="radiogroup" :aria-label="`Set ${e.label} by example`">
          <button v-for="s in e.bench!.stops" :key="String(s.at)" class="notch num" :class="{ on: pinnedAt(e, s.at) }" role="radio" :aria-checked="pinnedAt(e, s.at)" :title="pinnedAt(e, s.at) ? 'Let go of the picture' : `Hold the picture at ${s.label}: what you set then, ${e.label} drives`" :data-notch="`${e.id} ${s.at}`" @click="sheet.hold(e.id, s.at as EntryValue)"><IconPin :size="11" />{{ s.label }}</button>
        </div>
        <EntrySettings v-if="picked(e) && sheet.chosen.length === 1" :e="e" />
      </div>
      </template>
    </section>
    <p v-if="sheet.chosen.length > 1" class="quiet small">{{ sheet.chosen.length }} are selected: they move together, and a value that is set for one is set for all that ask for the same.</p>
    <div class="row">
      <NDropdown trigger="click" :options="kinds" @select="(way: string) => does({ kind: 'entry', way })"><NButton size="tiny" data-test="add-entry" title="One that drives nothing yet: what it drives is set by example"><template #icon><IconPlus :size="14" /></template>Entry …</NButton></NDropdown>
      <NInput v-model:value="label" size="tiny" placeholder="One more heading" :maxlength="80" :input-props="{ 'aria-label': 'One more heading' }" @keydown.enter="addGroup" />
      <NButton size="tiny" :disabled="!label.trim()" data-test="add-group" @click="addGroup"><template #icon><IconPlus :size="14" /></template>Add</NButton>
    </div>
  </div>
</template>

<style scoped>
.sheet { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); }
.small { font-size: 12px; }
.see { justify-self: start; }
.remarks { background: #fdf3e0; border-radius: 8px; padding: 5px 10px; font-size: 12px; }
.remarks summary { cursor: pointer; color: #7a4a06; }
.remarks ul { list-style: none; margin: 6px 0 2px; padding: 0; display: grid; gap: 7px; }
.remarks li { display: grid; gap: 3px; justify-items: start; }
.what { border: 0; background: none; padding: 0; text-align: left; cursor: pointer; color: var(--ink); }
.what:disabled { cursor: default; }
.head { display: flex; align-items: center; gap: 6px; padding: 3px 0 5px;
  background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) bottom / 100% 1.2px no-repeat; }
.head.goal { background-color: var(--ivy-wash); }
.fold { border: 0; background: none; padding: 2px; cursor: pointer; color: var(--ink-quiet); display: grid; }
.name :deep(input) { font-weight: 600; }
.name { --n-color: transparent !important; --n-border: 1px solid transparent !important; }
.entry { display: grid; gap: 4px; padding: 5px 4px; border-radius: 8px; border: 1px solid transparent; grid-template-columns: minmax(0, 1fr); }
.entry.on { background: var(--linen-raised); border-color: var(--ivy); }
.entry.goal { box-shadow: 0 -2px 0 var(--ivy); }
.entry.goal.below { box-shadow: 0 2px 0 var(--ivy); }
.entry.fixed .label { color: var(--ink-quiet); text-decoration: line-through; }
.line { display: flex; align-items: center; gap: 6px; min-height: 24px; }
.grip { border: 0; background: none; padding: 3px 0; cursor: grab; color: var(--ink-quiet); display: grid; touch-action: none; }
.label { flex: 1; min-width: 0; text-align: left; border: 0; background: none; padding: 0; font-weight: 600; cursor: pointer; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.chip { font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 0 5px; color: var(--ink-quiet); }
.notches { display: flex; flex-wrap: wrap; gap: 4px; padding-left: 20px; }
.notch { display: flex; align-items: center; gap: 3px; border: 1px dashed var(--rule-strong); border-radius: 6px; background: none; padding: 1px 7px; font-size: 11px; cursor: pointer; color: var(--ink-quiet); }
.notch.on { background: #e7a13a; border: 1px solid #e7a13a; color: #3a2606; font-weight: 600; }
.off { width: 22px; height: 22px; opacity: 0; }
.entry:hover .off, .entry:focus-within .off { opacity: 1; }
.row { display: flex; gap: 6px; align-items: center; }
</style>
