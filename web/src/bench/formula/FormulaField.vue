<script setup lang="ts">
import { IconHandFinger, IconTrash } from '@tabler/icons-vue'
import { NButton } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'

import { api, ask } from '../../api/client'
import type { components } from '../../api/schema'
import { coalesced } from '../../common/coalesced'
import { useDocument } from '../../common/document'
import { useSelection } from '../../common/selection'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import { useTaking } from './taking'
import { useTool } from '../tool'

/** The formula of a value: written with names that are offered, with what each is now, what it comes to, and what is wrong. */
const props = defineProps<{ path: string; text: string; label: string }>()
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const taking = useTaking()
const tool = useTool()
const { does } = useActs()

type View = components['schemas']['FormulaView']
const text = ref(props.text)
const view = ref<View | null>(null)
const area = ref<HTMLTextAreaElement>()
/** Names are offered while one types; which of them is at hand, -1 none. */
const offering = ref(false)
const at = ref(-1)
const names = computed(() => (offering.value ? (view.value?.names.slice(0, 9) ?? []) : []))

const load = coalesced(async () => {
  if (!doc.draft) return
  const caret = offering.value ? (area.value?.selectionStart ?? -1) : -1
  const v = await ask(api.POST('/api/drafts/{id}/formula', { params: { path: { id: doc.draft.id } }, body: { path: props.path, text: text.value, caret, format: selection.format, frame: Math.max(0, Math.min(transport.frame, doc.face!.frames - 1)) } })).catch(() => null)
  if (v) view.value = v
  at.value = -1
})
watch(() => [props.path, props.text], () => {
  text.value = props.text
  offering.value = false
})
watch([() => props.path, () => props.text, () => doc.draft?.revision, () => selection.format, () => !transport.playing && !transport.scrubbing && transport.frame], () => void load(), { immediate: true })

function typed() {
  offering.value = true
  void load()
}
const changed = computed(() => text.value.trim() !== props.text.trim())
async function keep() {
  offering.value = false
  if (!changed.value) return
  await does({ kind: 'formula', path: props.path, name: text.value, layers: [] })
}
async function insert(i: number) {
  const n = names.value[i]
  if (!n) return
  text.value = text.value.slice(0, n.from) + n.text + text.value.slice(n.to)
  await nextTick()
  const to = n.from + n.text.length
  area.value?.focus()
  area.value?.setSelectionRange(to, to)
  typed()
}
function key(e: KeyboardEvent) {
  e.stopPropagation()
  const n = names.value.length
  if (n && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) at.value = (at.value + (e.key === 'ArrowDown' ? 1 : n - 1) + (at.value < 0 && e.key === 'ArrowUp' ? 1 : 0)) % n
  else if (n && (e.key === 'Tab' || (e.key === 'Enter' && at.value >= 0))) void insert(Math.max(0, at.value))
  else if (e.key === 'Enter' && !e.shiftKey) void keep()
  else if (e.key === 'Escape' && offering.value && n) offering.value = false
  else if (e.key === 'Escape') {
    text.value = props.text
    void load()
    if (!changed.value) taking.open = ''
  } else return
  e.preventDefault()
}
function mend() {
  const m = view.value?.mend
  if (!m) return
  text.value = text.value.slice(0, m.from) + m.with + text.value.slice(m.to)
  offering.value = false
  void load()
}
function use(t: string) {
  text.value = t
  offering.value = false
  void keep()
}
/** To a value, which may lie in another layer. */
function go(v: { path: string; layer: string }) {
  if (v.path.startsWith('entries/')) return void (tool.go = { side: 'sheet', entry: v.path.split('/')[1] })
  if (!v.layer) return
  selection.layers = [v.layer]
  tool.go = { side: 'make', property: v.path.replace(/\.[^./]*$/, '') }
}
/** The one thing it takes, which can be taken in another way. */
const source = computed(() => (view.value?.parts.length === 1 && !changed.value ? view.value.parts[0]!.path || view.value.parts[0]!.text : ''))
function again(way: string) {
  taking.of = { path: props.path, label: props.label }
  void taking.from(source.value, way)
}
const ways: Record<string, [string, string]> = { same: ['same', 'The same value'], share: ['share of', 'As much of it as now'], opposite: ['opposite', 'As far the other way'], along: ['as far as', 'As far as it goes, from here'], remapped: ['remapped', 'Its range onto another: change the last two numbers'] }
const bad = computed(() => {
  const v = view.value
  if (!v?.fault) return null
  return { before: text.value.slice(0, v.from), at: text.value.slice(v.from, v.to) || ' ', after: text.value.slice(v.to) }
})
</script>

<template>
  <div class="formula" :data-formula="path">
    <div class="box">
      <textarea ref="area" v-model="text" class="num" rows="2" spellcheck="false" autocapitalize="off" :aria-label="`Formula of ${label}`" :aria-invalid="!!view?.fault" placeholder="A number, a name, an expression" data-test="formula-text" @input="typed" @keydown="key" @blur="offering = false" />
      <ul v-if="names.length" class="names" role="listbox" aria-label="Names" data-test="formula-names">
        <li v-for="(n, i) in names" :key="n.text" role="option" :aria-selected="i === at" :class="{ on: i === at }" @pointerdown.prevent="insert(i)"><b class="num">{{ n.text }}</b><span class="quiet">{{ n.label }}{{ n.about ? `, ${n.about}` : '' }}</span></li>
      </ul>
    </div>
    <p class="line"><span class="quiet">Needs {{ view?.needs ?? '…' }}</span><strong v-if="view?.yields && !view.fault" class="num" data-test="formula-yields">= {{ view.yields }}</strong></p>
    <div v-if="bad" class="fault" role="alert" data-test="formula-fault">
      <p v-if="view!.ring.length">These would read one another in a circle: <template v-for="(r, i) in view!.ring" :key="i"><button class="link" :data-ring="r.path" @click="go(r)">{{ r.called }}</button><template v-if="i < view!.ring.length - 1"> → </template></template></p>
      <template v-else>
        <p class="num where">{{ bad.before }}<mark>{{ bad.at }}</mark>{{ bad.after }}</p>
        <p>{{ view!.fault }}</p>
        <NButton v-if="view!.mend" size="tiny" data-test="formula-mend" @click="mend">Write <span class="num">&nbsp;{{ view!.mend.with }}</span></NButton>
      </template>
    </div>
    <ul v-if="view?.parts.length && !view.fault" class="parts">
      <li v-for="(p, i) in view.parts" :key="i"><button v-if="p.layer || p.path.startsWith('entries/')" class="link num" :title="`To ${p.called}`" :data-part="p.path" @click="go(p)">{{ p.text }}</button><span v-else class="num">{{ p.text }}</span><span class="num now">{{ p.value }}</span></li>
    </ul>
    <div v-if="source" class="ways" role="group" aria-label="How it follows"><button v-for="w in view!.takes" :key="w" :title="ways[w]?.[1]" :data-way="w" :class="{ on: taking.last === path && taking.way === w }" @click="again(w)">{{ ways[w]?.[0] ?? w }}</button></div>
    <p v-if="view?.readBy.length" class="small quiet">Read by <template v-for="(r, i) in view.readBy" :key="r.path"><button class="link" :data-read-by="r.path" @click="go(r)">{{ r.called }}</button>{{ i < view.readBy.length - 1 ? ', ' : '' }}</template></p>
    <div class="acts">
      <NButton v-if="changed" size="tiny" type="primary" :disabled="!!view?.fault" data-test="formula-keep" @click="keep">Keep</NButton>
      <NButton size="tiny" data-test="take-from" @click="taking.begin(path, label)"><template #icon><IconHandFinger :size="14" /></template>Take from…</NButton>
      <NButton v-if="props.text" size="tiny" quaternary aria-label="Take the formula off" title="Take the formula off" data-test="formula-off" @click="does({ kind: 'formula', path, layers: [] })"><template #icon><IconTrash :size="14" /></template></NButton>
    </div>
    <details v-if="view?.examples.length" class="examples"><summary>Examples</summary>
      <button v-for="x in view.examples" :key="x.text" :title="x.text" @click="use(x.text)"><span>{{ x.name }}</span><span class="num quiet">{{ x.text }}</span></button>
    </details>
  </div>
</template>

<style scoped>
.formula { grid-column: 1 / -1; display: grid; gap: 5px; padding: 8px; border-radius: 8px; background: #fffefa; border: 1px dashed var(--rule-strong); grid-template-columns: minmax(0, 1fr); }
.box { position: relative; }
textarea { width: 100%; box-sizing: border-box; resize: vertical; min-height: 44px; border: 1px solid var(--rule-strong); border-radius: 6px; padding: 5px 7px; font-size: 12px; line-height: 1.4; background: #fff; color: inherit; field-sizing: content; }
textarea[aria-invalid='true'] { border-color: var(--rust); }
.names { position: absolute; z-index: 20; left: 0; right: 0; top: 100%; margin: 2px 0 0; padding: 3px; list-style: none; background: var(--linen-raised); border: 1px solid var(--rule-strong); border-radius: 8px; box-shadow: 0 8px 24px rgba(40, 30, 10, 0.18); max-height: 250px; overflow: auto; }
.names li { padding: 3px 6px; border-radius: 5px; cursor: pointer; display: grid; font-size: 11px; }
.names li b { font-weight: 500; font-size: 12px; overflow-wrap: anywhere; }
.names li.on, .names li:hover { background: var(--ivy-wash); }
.line { display: flex; justify-content: space-between; gap: 8px; font-size: 12px; margin: 0; }
.fault { font-size: 12px; color: var(--rust); display: grid; gap: 3px; justify-items: start; }
.fault p { margin: 0; overflow-wrap: anywhere; }
.where { color: var(--ink); font-size: 11.5px; }
mark { background: var(--rust-wash); color: var(--rust); text-decoration: underline wavy; text-underline-offset: 3px; }
.parts { list-style: none; margin: 0; padding: 0; font-size: 11.5px; display: grid; gap: 2px; }
.parts li { display: flex; justify-content: space-between; gap: 8px; }
.parts .now { white-space: nowrap; color: var(--ivy-deep); }
.link { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline; text-underline-offset: 2px; text-align: left; font-size: inherit; overflow-wrap: anywhere; }
.ways { display: flex; flex-wrap: wrap; gap: 3px; }
.ways button { border: 1px solid var(--rule-strong); background: none; border-radius: 5px; font: inherit; font-size: 11px; padding: 0 6px; cursor: pointer; color: inherit; }
.ways button:hover { background: var(--ivy-wash); }
.ways button.on { border-color: var(--ivy); color: var(--ivy-deep); background: var(--ivy-wash); }
.acts { display: flex; gap: 5px; align-items: center; }
.small { font-size: 12px; margin: 0; }
.examples summary { font-size: 12px; cursor: pointer; }
.examples button { display: grid; width: 100%; border: 0; background: none; text-align: left; cursor: pointer; padding: 3px 4px; border-radius: 5px; font: inherit; font-size: 12px; color: inherit; }
.examples button:hover { background: var(--ivy-wash); }
.examples .num { font-size: 10.5px; overflow-wrap: anywhere; }
</style>
