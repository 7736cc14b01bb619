<script setup lang="ts">
import { NButton, NSkeleton } from 'naive-ui'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { tip } from '../common/commands'
import { droppedFiles } from '../common/drop'
import { useDocument } from '../common/document'
import { useGuides } from '../common/guides'
import GuidesPanel from '../common/GuidesPanel.vue'
import { useHeld } from '../common/held'
import { usePlace } from '../common/place'
import PocketRail from '../common/PocketRail.vue'
import { takesKind, usePockets } from '../common/pockets'
import { useRoving } from '../common/roving'
import { useSelection } from '../common/selection'
import OnionButton from '../common/OnionButton.vue'
import StageView from '../common/stage/StageView.vue'
import TimeStrip from '../common/stage/TimeStrip.vue'
import { useTransport } from '../common/transport'
import { useDrafts } from '../shelf/drafts'
import { useFilling } from '../media/filling'
import { useMediaStore } from '../media/media'
import StorePicker from '../media/StorePicker.vue'
import { useActs } from './acts'
import BeforeButton from './BeforeButton.vue'
import VersionPane from './VersionPane.vue'
import VersionsButton from './VersionsButton.vue'
import BenchLayers from './BenchLayers.vue'
import BenchMake from './BenchMake.vue'
import { useDropping } from './dropping'
import FormatsBar from './FormatsBar.vue'
import HistoryPanel from './HistoryPanel.vue'
import { useSheet } from './sheet'
import SheetSide from './SheetSide.vue'
import SideFormat from './SideFormat.vue'
import LayerTree from './LayerTree.vue'
import LedgerSide from './LedgerSide.vue'
import { useLayer } from './layer'
import PathBar from './tools/PathBar.vue'
import SplitDialog from './SplitDialog.vue'
import { useTaking } from './formula/taking'
import TakeMenu from './formula/TakeMenu.vue'
import TimeBars from './time/TimeBars.vue'
import CurvesView from './time/CurvesView.vue'
import { useCover } from './time/cover'
import HeldTime from './time/HeldTime.vue'
import { useLength } from './time/length'
import { useMotion } from './time/motion'
import RecordButton from './time/RecordButton.vue'
import { useBars } from './time/bars'
import { useTool } from './tool'
import TrayPanel from './TrayPanel.vue'

const route = useRoute()
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const pockets = usePockets()
const media = useMediaStore()
const tool = useTool()
const sheet = useSheet()
const { fill } = useFilling()
const { useKeys, lines, around, act, does, motif } = useActs()
const guides = useGuides()
const { high: barsHigh, most: mostBars, size: sizeBars, key: keyBars, toggle: toggleBars } = useBars()
const motions = useMotion()
const length = useLength()
const cover = useCover()
const held = useHeld()
const taking = useTaking()
const dropping = useDropping()
useKeys()

const sides = [
  ['make', 'Make'],
  ['sheet', 'Sheet'],
  ['ledger', 'Ledger'],
  ['history', 'History'],
] as const
const side = ref<(typeof sides)[number][0]>('make')
/** A side was pressed: what is typed then goes there. Keys that go through the sides stay with them. */
const asked = ref(false)
const ids = computed(() => sides.map(([id]) => id))
const place = usePlace(side, ids)
const tabs = ref<HTMLElement>()
const { at: tab, key: tabKey } = useRoving(ids as never, side, (id) => {
  asked.value = false
  side.value = id as typeof side.value
  tabs.value?.querySelector<HTMLElement>(`[data-side=${id}]`)?.focus()
}, 'across')

// What is asked for elsewhere is shown: a property of the selection, an entry of the sheet.
const shown = useLayer()
watch(
  () => tool.go,
  async (to) => {
    if (!to) return
    tool.go = null
    asked.value = false
    side.value = to.side
    if (to.entry) sheet.chosen = [to.entry]
    const find = to.entry ? `[data-line="${to.entry}"]` : to.property ? `[data-property="${to.property.split('/').slice(2).join('/')}"]` : ''
    for (let n = 0; find && n < 40; n++) {
      await new Promise((r) => setTimeout(r, 50))
      const el = document.querySelector<HTMLElement>(find)
      if (!el || (to.property?.startsWith('layers/') && shown.view?.id !== selection.layer)) continue
      const fold = el.closest('details')
      if (fold) fold.open = true
      el.scrollIntoView({ block: 'center' })
      el.classList.add('found')
      setTimeout(() => el.classList.remove('found'), 1600)
      break
    }
  },
)
const draft = computed(() => doc.draft)
watch(
  () => route.params.id as string,
  (id, old) => {
    if (!id) return
    if (old !== undefined || doc.draft?.id !== id) transport.frame = 0
    transport.playing = false
    transport.range = null
    void doc.load({ kind: 'draft', id }).then(() => {
      if (!place.go() && doc.draft && transport.frame === 0) transport.frame = doc.draft.cues.find((c) => c.name === 'Poster')?.frame ?? 0
    })
  },
  { immediate: true },
)
onScopeDispose(() => {
  transport.playing = false
  tool.swatch = tool.pointing = null
  guides.adjusting = ''
})

const stage = ref<InstanceType<typeof StageView>>()
const layers = ref<InstanceType<typeof BenchLayers>>()
const at = (p: { clientX: number; clientY: number }): [number, number] => stage.value?.at(p) ?? [0, 0]
/** The groups around what is worked on, the outermost first. */
const path = computed(() => (tool.inside ? [...around(tool.inside)].reverse().concat(tool.inside).map((id) => ({ id, name: lines.value.get(id)?.name ?? id })) : []))

/** The formats that are not worked on. */
const others = computed(() => draft.value?.formats.filter((f) => f.id !== selection.format) ?? [])

const picking = computed({ get: () => !!pockets.picking, set: (s) => !s && (pockets.picking = '') })
const pickingFor = computed(() => pockets.list.find((p) => p.id === pockets.picking))

const lining = computed({ get: () => !!tool.lining, set: (s) => !s && (tool.lining = '') })

const drafts = useDrafts()
async function back() {
  const id = route.params.id as string
  await drafts.back([id])
  await doc.load({ kind: 'draft', id })
}
/** Files that miss a pocket become layers where they fall. */
async function dropped(e: DragEvent) {
  e.preventDefault()
  if (e.type !== 'drop' || !e.dataTransfer || !draft.value) return
  const files = await droppedFiles(e.dataTransfer)
  if (!files.length) return
  const onStage = (e.target as Element).closest('[data-stage]')
  await dropping.lay(files, onStage ? at(e) : null, onStage ? await layers.value?.seenAt(e) : [])
}
/** A cue goes to another frame. */
const moveCue = (id: string, frame: number) => void doc.change({ ...act({ kind: 'cue', id }), frame })
const missing = computed(() => draft.value?.missing ?? [])
</script>

<template>
  <div v-if="doc.failure && !draft" class="gone cloth">
    <h2>{{ doc.deleted ? 'This draft was deleted' : 'This draft can\'t be opened' }}</h2>
    <p>{{ doc.deleted ? 'It is kept for seven days.' : doc.failure }}</p>
    <div class="acts">
      <NButton v-if="doc.deleted" type="primary" data-test="back" @click="back">Bring it back</NButton>
      <RouterLink to="/drafts" custom #default="{ navigate }"><NButton :type="doc.deleted ? 'default' : 'primary'" @click="navigate">To all drafts</NButton></RouterLink>
    </div>
  </div>
  <div v-else class="bench" @dragover="dropped" @drop="dropped">
    <aside class="left cloth" aria-label="Tray, pockets and layers">
      <template v-if="draft">
        <TrayPanel />
        <PocketRail v-if="draft.pockets.length" compact />
        <LayerTree />
      </template>
      <template v-else><NSkeleton v-for="i in 5" :key="i" height="70px" style="margin: 10px; width: 190px" /></template>
    </aside>
    <div v-if="draft && selection.formatView" class="stage tables" :class="{ beside: tool.beside && others.length, versions: tool.version >= 0 }">
    <VersionPane v-if="tool.version >= 0" />
    <StageView ref="stage" :clips="media.clips" @grounds="media.load()" @press="layers?.press($event)">
      <template #formats><FormatsBar /></template>
      <template #looks><OnionButton /><BeforeButton /><VersionsButton /></template>
      <template #layers="s">
        <BenchLayers ref="layers" :outlines="s.outlines" :format="s.format" :k="s.k" :size="s.size" :dropping="s.dropping" :guides="s.guides" :forms="s.forms" :words="s.words" :at="at" @enter="s.enter" @files="fill" @near="stage?.zoomOver($event)" />
      </template>
    </StageView>
    <aside v-if="tool.beside && others.length" class="others" aria-label="Other formats"><SideFormat v-for="f in others" :key="f.id" :format="f" /></aside>
    </div>
    <div v-else class="stage waiting">
      <p v-if="draft && !draft.formats.length">There is no canvas yet.</p>
    </div>
    <p v-if="held.text" class="path" role="status" data-test="held"><strong>Words</strong> {{ held.text }}<span class="quiet">… the field is on its way</span></p>
    <p v-else-if="sheet.pinned" class="path pinned" role="status" data-test="pinned"><strong>{{ sheet.pinned.label }}: {{ sheet.pinned.bench!.stops.find((s) => s.at === sheet.pin!.at)?.label ?? sheet.pin!.at }}</strong> what you set now, it drives <button data-test="unpin" @click="sheet.letGo()">Let go</button></p>
    <p v-else-if="tool.pointing" class="path" role="status" data-test="pointing-at"><strong>{{ tool.pointing.what }}</strong> point at a layer on the stage or in the list<template v-if="tool.pointing.taking">, choose a line of the ledger, or take from <button data-test="take-others" @click="taking.others()">sheet, canvas, time</button></template>; Esc leaves it</p>
    <p v-else-if="motions.recording && !tool.pen && !tool.path" class="path recording" role="status" data-test="recording"><strong>Recording keys</strong> at frame {{ Math.floor(transport.shows) }}{{ draft && draft.formats.length > 1 ? (selection.apart ? `, for all formats; only rest is set for ${selection.formatView?.name} alone` : ', for all formats') : '' }} <button data-test="stop-recording" @click="motions.recording = false">Stop</button></p>
    <p v-else-if="length.tried && !tool.pen && !tool.path" class="path pinned" role="status" data-test="tried"><strong>Tried at {{ length.tried }} frames</strong> the template has {{ draft?.frames }} <button data-test="own-length" @click="length.tryOut(draft!.frames)">Back</button></p>
    <PathBar v-else-if="tool.pen || tool.path || tool.masking" class="path" />
    <nav v-else-if="path.length" class="path" aria-label="Where you are">
      <button @click="((tool.inside = ''), (selection.layers = []))">Canvas</button><template v-for="p in path" :key="p.id"><span>›</span><button :class="{ here: p.id === tool.inside }" @click="((tool.inside = p.id), (selection.layers = []))">{{ p.name }}</button></template>
      <span v-if="motif" class="own" role="radiogroup" aria-label="What is set here">
        <button role="radio" :aria-checked="!tool.own" :class="{ on: !tool.own }" data-test="all-uses" @click="tool.own = false">{{ motif.uses === 1 ? 'Its one use' : `All ${motif.uses} uses` }}</button>
        <button role="radio" :aria-checked="tool.own" :class="{ on: tool.own }" data-test="this-use" title="Values that you set are this use’s own" @click="tool.own = true">This one alone</button>
      </span>
    </nav>
    <aside class="panel cloth" aria-label="Panel">
      <div class="sides">
        <div ref="tabs" class="tabs" role="tablist" aria-label="Panel" @keydown="tabKey">
          <button v-for="[id, name] in sides" :id="`side-${id}`" :key="id" role="tab" :data-side="id" :aria-selected="side === id" :aria-controls="draft ? 'panel' : undefined" :tabindex="tab === id ? 0 : -1" :class="{ on: side === id }" @click="((asked = true), (side = id), (guides.adjusting = ''))">{{ name }}</button>
        </div>
      </div>
      <div v-if="draft" id="panel" class="body" role="tabpanel" :aria-labelledby="`side-${side}`">
        <button v-if="tool.ledger.left && side !== 'ledger'" class="back" data-test="back-to-ledger" @click="((tool.ledger.left = false), (asked = false), (side = 'ledger'))">‹ Back to the ledger</button>
        <p v-if="missing.length && selection.layers.length" class="caution">{{ missing.length === 1 ? '1 file is' : `${missing.length} files are` }} missing; the template’s own panel names {{ missing.length === 1 ? 'it' : 'them' }}.</p>
        <GuidesPanel v-if="guides.adjusting && selection.formatView" :canvas="selection.formatView" />
        <BenchMake v-else-if="side === 'make'" />
        <SheetSide v-else-if="side === 'sheet'" />
        <LedgerSide v-else-if="side === 'ledger'" :asked="asked" />
        <HistoryPanel v-else />
      </div>
      <div v-else class="body"><NSkeleton text :repeat="6" /></div>
    </aside>
    <div v-if="draft" class="strip">
      <button class="grip" role="separator" aria-orientation="horizontal" :aria-valuenow="Math.round(barsHigh)" aria-valuemin="0" :aria-valuemax="mostBars" :aria-label="tip('bars', 'Layers in time')" :title="tip('bars', 'Layers in time: drag up or down; press: open or shut')" data-test="bars-grip" @pointerdown="sizeBars" @keydown="keyBars" @click="$event.detail === 0 && toggleBars()" />
      <TimeStrip moves-cues tries :covered="length.tried ? [] : cover.found?.runs" @cue="moveCue" @lasts="length.tryOut">
        <template #before><RecordButton /></template>
        <template #pleats="p"><HeldTime :span="p.span" /></template>
        <template v-if="barsHigh" #bars="b"><CurvesView v-if="motions.curves" :span="b.span" :style="{ height: `${barsHigh}px` }" /><TimeBars v-else :span="b.span" :style="{ height: `${barsHigh}px` }" /></template>
      </TimeStrip>
    </div>
    <div v-else class="strip" />
    <TakeMenu />
    <SplitDialog v-if="draft && tool.splitting" />
    <StorePicker v-if="draft" v-model:show="picking" :title="`Stand-in for ${pickingFor?.name ?? ''}`" :takes="(kind) => !!pickingFor && takesKind(pickingFor, kind)"
      @use="(m) => { const p = pockets.picking; picking = false; void pockets.use(p, m) }" @files="(f) => { const p = pockets.picking; picking = false; void fill(p, f) }" />
    <StorePicker v-if="draft" v-model:show="tool.picking" title="A picture of the template’s own" :takes="(kind) => kind === 'picture'"
      @use="(m) => { tool.picking = false; void does({ kind: 'insert', way: 'picture', media: m.hash, name: m.name.replace(/\.[^.]+$/, '') }) }" @files="(f) => { tool.picking = false; void dropping.lay(f, null) }" />
    <StorePicker v-if="draft" v-model:show="lining" :title="`Lining of ${pockets.name(tool.lining)}`" :takes="(kind) => kind === 'picture'"
      @use="(m) => { const pocket = tool.lining; lining = false; void does({ kind: 'line-pocket', pocket, media: m.hash, name: m.name }) }" @files="(f) => dropping.line(f, tool.lining).then(() => (lining = false))" />
  </div>
</template>

<style scoped>
.bench { --rail: 232px; --panel: 288px; position: relative; height: 100%; display: grid; grid-template-columns: var(--rail) minmax(0, 1fr) var(--panel); grid-template-rows: minmax(0, 1fr) auto; }
/* Moved as it is when it is scrolled: its cloth is not woven anew. */
.left { border-right: 1px solid var(--rule); overflow: auto; padding: 0 10px 16px; will-change: scroll-position; }
.panel { border-left: 1px solid var(--rule); display: grid; grid-template-rows: auto minmax(0, 1fr); min-height: 0; }
.sides { display: flex; align-items: center; padding: 8px 8px 0 12px; border-bottom: 1px solid var(--rule); }
.tabs { display: flex; gap: 4px; flex: 1; }
.tabs button { background: none; border: 0; padding: 6px 9px 9px; cursor: pointer; font-weight: 500; color: var(--ink-quiet); position: relative; }
.tabs button:hover { color: var(--ink); }
.tabs button.on { color: var(--ivy-deep); font-weight: 600; }
.tabs button.on::after { content: ''; position: absolute; left: 8px; right: 8px; bottom: 2px; height: 2px; background: repeating-linear-gradient(90deg, var(--ivy) 0 6px, transparent 6px 10px); }
.body { overflow: auto; padding: 14px; }
.grip { position: absolute; left: 50%; top: -5px; z-index: 3; width: 64px; height: 10px; margin-left: -32px; padding: 0; border: 0; background: none; cursor: ns-resize; touch-action: none; }
.grip::after { content: ''; display: block; margin: 3px auto; width: 34px; height: 4px; border-radius: 2px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 7px); }
.grip:hover::after, .grip:focus-visible::after { background: var(--ivy); }
.strip { position: relative; grid-column: 1 / -1; border-top: 1px solid var(--rule); background: var(--linen-raised); }
.tables { display: grid; grid-template-columns: minmax(0, 1fr); grid-template-rows: minmax(0, 1fr); min-width: 0; min-height: 0; background: var(--surround); }
.tables.beside { grid-template-columns: minmax(0, 1fr) clamp(150px, 30%, 460px); }
.tables.versions { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); }
.tables.versions.beside { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) clamp(120px, 20%, 300px); }
.others { display: grid; grid-auto-rows: minmax(120px, 1fr); gap: 4px; padding: 8px 8px 8px 0; overflow: auto; min-height: 0; border-left: 1px dashed rgba(233, 232, 226, 0.3); padding-left: 8px; }
.waiting { background: var(--surround); color: #e9e8e2; display: grid; place-items: center; }
.path { position: absolute; left: calc(var(--rail) + 12px); top: 50px; z-index: 2; display: flex; align-items: center; gap: 4px; background: var(--linen); border-radius: 8px; padding: 2px 8px; max-width: 50%; overflow: hidden; }
.path.pinned { background: #e7a13a; color: #3a2606; max-width: 70%; }
.path.pinned button { color: #3a2606; text-decoration: underline; font-weight: 600; }
.path button { border: 0; background: none; padding: 2px 4px; cursor: pointer; color: var(--ivy-deep); white-space: nowrap; }
.own { display: flex; margin-left: 8px; border-left: 1px solid var(--rule); padding-left: 8px; gap: 3px; }
.own button { border-radius: 6px; padding: 2px 7px; color: var(--ink-quiet); }
.own button.on { background: var(--ivy-wash); color: var(--ivy-deep); font-weight: 600; }
.path button.here { font-weight: 600; color: var(--ink); }
.caution { color: var(--amber); font-size: 12px; margin-bottom: 10px; }
.back { position: sticky; top: -14px; z-index: 3; border: 0; border-radius: 0 0 8px 8px; background: var(--linen); padding: 6px 10px 6px 0; margin-top: -10px; cursor: pointer; color: var(--ivy-deep); font-weight: 600; }
.body :deep(.found) { animation: found 1.6s ease-out; }
@keyframes found { from { background: #fbe6b8; box-shadow: 0 0 0 4px #fbe6b8; } }
.acts { display: flex; gap: 8px; }
.gone { height: 100%; display: grid; align-content: center; justify-items: center; gap: 12px; }
</style>
