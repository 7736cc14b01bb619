<script setup lang="ts">
import { IconArrowRight, IconSearch } from '@tabler/icons-vue'
import { useVirtualList } from '@vueuse/core'
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'

import { api, ask, type Failure, type LedgerRow, type Property } from '../api/client'
import { coalesced } from '../common/coalesced'
import { useDocument } from '../common/document'
import { finder } from '../common/search'
import { useSelection } from '../common/selection'
import { useTransport } from '../common/transport'
import LayerProperty from './LayerProperty.vue'
import OfferButton from './OfferButton.vue'
import { useSetting } from './setting'
import { useTaking } from './formula/taking'
import { useTool } from './tool'

/** The ledger: everything in the template that can be changed, searched, filtered, set, put on the sheet, and gone to. Who opened it on purpose (`asked`) types at once. */
const props = defineProps<{ asked: boolean }>()
const search = ref<InstanceType<typeof NInput>>()
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const tool = useTool()
const taking = useTaking()
const rows = shallowRef<LedgerRow[]>([])
const failure = ref('')
const where = () => ({ format: selection.format, frame: Math.min(transport.frame, doc.face!.frames - 1) })
const load = coalesced(async () => {
  const id = doc.draft?.id
  if (!id || !selection.format) return
  try {
    rows.value = await ask(api.GET('/api/drafts/{id}/ledger', { params: { path: { id }, query: where() } }))
    failure.value = ''
  } catch (e) {
    failure.value = (e as Failure).message
  }
})
watch([() => doc.draft?.revision, () => selection.format, () => !transport.playing && !transport.scrubbing && transport.frame], () => {
  if (!transport.playing && !transport.scrubbing) void load()
}, { immediate: true })

const state = tool.ledger
const filters = [
  ['', 'All'], ['moves', 'Moves'], ['tied', 'Tied'], ['free', 'Not on the sheet'], ['apart', 'Apart'],
] as const
const tips = { '': 'Whatever sets it', moves: 'What has keys or a formula', tied: 'What an entry of the sheet drives', free: 'What could be on the sheet and no entry reaches', apart: 'What a format has of its own' }
const found = computed(() => {
  const fits = finder(state.text)
  const only = state.only
  return rows.value.filter((r) => (state.all || r.given || r.entry || r.by.length || state.text) && (!only || (only === 'moves' ? r.moves : only === 'tied' ? !!r.entry : only === 'free' ? r.offers && !r.entry && !r.by.length : r.apart.length > 0)) && fits(`${r.label} ${r.of} ${r.where} ${r.now} ${r.kind} ${r.sheet} ${r.named} ${r.by.join(' ')} ${r.apart.join(' ')}`))
})
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(found, { itemHeight: 45, overscan: 8 })
const chosen = computed(() => rows.value.find((r) => r.path === state.row))
function choose(r: LedgerRow) {
  // While a value is to be taken from another, that is this one.
  if (taking.of) return void taking.from(r.path)
  state.row = state.row === r.path ? '' : r.path
}
/** By keys from row to row. */
function key(e: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (e.key === 'Enter' && chosen.value) go(chosen.value)
  else if (by) {
    const i = found.value.findIndex((r) => r.path === state.row)
    const next = found.value[Math.max(0, Math.min(found.value.length - 1, i < 0 ? 0 : i + by))]
    if (next) {
      state.row = next.path
      const at = found.value.indexOf(next)
      const el = containerProps.ref.value
      if (el && (at * 45 < el.scrollTop || at * 45 + 45 > el.scrollTop + el.clientHeight)) scrollTo(at)
    }
  } else return
  e.preventDefault()
  e.stopPropagation()
}
onMounted(() => void nextTick(() => {
  if (props.asked) search.value?.focus()
  const at = found.value.findIndex((r) => r.path === state.row)
  if (at > 4) scrollTo(at)
}))
/** To where it stands; the ledger is one press away then. */
function go(r: LedgerRow) {
  state.left = true
  selection.layers = r.layer ? [r.layer] : []
  const seg = r.path.split('/')
  tool.mask = seg.at(-3) === 'masks' ? seg.slice(0, -1).join('/') : ''
  tool.treatment = seg[2] === 'treatments' ? seg[3]! : ''
  tool.go = { side: 'make', property: r.path }
}
function toEntry(r: LedgerRow) {
  state.left = true
  tool.go = { side: 'sheet', entry: r.entry }
}

// What is chosen, with all that its field needs.
const value = shallowRef<Property | null>(null)
const { drafts, draft, press, cancel, set, reset, unit, point } = useSetting()
const look = coalesced(async () => {
  const path = state.row
  if (!path || !doc.draft) return void (value.value = null)
  try {
    const v = await ask(api.GET('/api/drafts/{id}/value', { params: { path: { id: doc.draft.id }, query: { path, ...where() } } }))
    if (state.row === path) value.value = v
  } catch {
    value.value = null // it is gone, which its row says by not being there
  }
  drafts.value = {}
})
watch([() => state.row, rows], () => void look(), { immediate: true })
</script>

<template>
  <div class="ledger" data-test="ledger">
    <div class="head">
      <NInput ref="search" v-model:value="state.text" size="small" clearable placeholder="Search all that can be changed" :input-props="{ 'aria-label': 'Search the ledger' }" @keydown="key"><template #prefix><IconSearch :size="15" /></template></NInput>
      <div class="filters" role="radiogroup" aria-label="Which of it">
        <button v-for="[id, name] in filters" :key="id" role="radio" :aria-checked="state.only === id" :class="{ on: state.only === id }" :title="tips[id]" :data-only="id || 'all'" @click="state.only = id">{{ name }}</button>
      </div>
      <p class="quiet small"><span class="num">{{ found.length }}</span> of <span class="num">{{ rows.length }}</span><NCheckbox v-model:checked="state.all" size="small" class="alls">with what is as it comes</NCheckbox></p>
      <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    </div>
    <div v-bind="containerProps" class="rows" tabindex="0" role="listbox" aria-label="What can be changed" @keydown="key">
      <div v-bind="wrapperProps">
        <div v-for="{ data: r } in list" :key="r.path" class="row" :class="{ on: r.path === state.row }" role="option" :aria-selected="r.path === state.row" :data-row="r.path" @click="choose(r)" @dblclick="go(r)">
          <span class="what"><b>{{ r.label }}</b><i v-if="r.kind === 'colour' && r.now" class="swatch" :style="{ background: r.now.startsWith('#') ? r.now : undefined }" /><span class="num now">{{ r.now }}</span></span>
          <span class="of quiet"><span class="name" :title="r.where ? `${r.where} › ${r.of}` : r.of">{{ r.of }}<template v-if="r.where"> in {{ r.where }}</template></span>
            <span v-if="r.entry" class="chip sheet" :title="`On the sheet as ${r.sheet}`">{{ r.sheet }}</span><span v-if="r.named && r.named !== r.sheet" class="chip" title="A named colour">{{ r.named }}</span><span v-for="b in r.by" :key="b" class="chip">{{ b }}</span><span v-for="f in r.apart" :key="f" class="chip apart">{{ f }}</span></span>
        </div>
      </div>
      <p v-if="!found.length && rows.length" class="quiet none">Nothing that fits.</p>
    </div>
    <div v-if="chosen" class="set" data-test="ledger-set">
      <p class="quiet small"><template v-if="chosen.where">{{ chosen.where }} › </template>{{ chosen.of }}</p>
      <LayerProperty v-if="value && value.path === chosen.path" :p="value" :drafted="drafts[value.path]" :format="selection.formatView?.name.toLowerCase() ?? ''" @draft="draft(value, $event)" @press="press(value, $event)" @set="set(value, $event)" @reset="reset(value)" @cancel="cancel" @unit="unit(value, $event)" @point="point(value, chosen.layer, chosen.of)" />
      <div class="acts">
        <NButton size="tiny" data-test="ledger-go" @click="go(chosen)"><template #icon><IconArrowRight :size="14" /></template>Go to it</NButton>
        <NButton v-if="chosen.entry" size="tiny" data-test="ledger-entry" @click="toEntry(chosen)">To its entry</NButton>
        <span v-if="chosen.offers && !chosen.by.length" class="offer"><OfferButton :paths="[chosen.path]" :entry="chosen.entry" :what="chosen.label" /> {{ chosen.entry ? 'on the sheet' : 'put on sheet' }}</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.ledger { display: grid; grid-template-rows: auto minmax(0, 1fr) auto; gap: 8px; height: 100%; min-height: 0; grid-template-columns: minmax(0, 1fr); }
.head { display: grid; gap: 6px; }
.filters { display: flex; flex-wrap: wrap; gap: 3px; }
.filters button { border: 1px solid var(--rule); border-radius: 12px; background: none; padding: 1px 9px; font-size: 12px; cursor: pointer; color: var(--ink-quiet); }
.filters button.on { background: var(--ivy-wash); border-color: var(--ivy); color: var(--ivy-deep); font-weight: 600; }
.small { font-size: 12px; margin: 0; }
.alls { margin-left: 12px; }
.rows { min-height: 90px; border-block: 1px solid var(--rule); outline-offset: -2px; }
.row { height: 45px; padding: 3px 6px; border-radius: 7px; cursor: pointer; display: grid; align-content: center; box-sizing: border-box; }
.row:hover { background: var(--linen-raised); }
.row.on { background: var(--ivy-wash); box-shadow: inset 0 0 0 1px var(--ivy); }
.what, .of { display: flex; gap: 6px; align-items: center; min-width: 0; white-space: nowrap; }
.what b { font-weight: 600; overflow: hidden; text-overflow: ellipsis; }
.now { margin-left: auto; overflow: hidden; text-overflow: ellipsis; font-size: 12px; }
.swatch { margin-left: auto; width: 13px; height: 13px; border-radius: 4px; border: 1px solid var(--rule-strong); flex: none; }
.swatch + .now { margin-left: 0; }
.of { font-size: 11.5px; }
.name { overflow: hidden; text-overflow: ellipsis; flex: 1; }
.chip { font-size: 10.5px; background: var(--linen-deep); border-radius: 4px; padding: 0 4px; flex: none; max-width: 90px; overflow: hidden; text-overflow: ellipsis; }
.chip.sheet { background: var(--ivy-wash); color: var(--ivy-deep); }
.chip.apart { background: #fdf3e0; color: #7a4a06; }
.set { display: grid; gap: 7px; }
.acts { display: flex; gap: 6px; align-items: center; flex-wrap: wrap; }
.offer { display: flex; gap: 4px; align-items: center; font-size: 12px; }
.none { text-align: center; padding: 20px; }
</style>
