<script setup lang="ts">
import { IconChevronsLeft, IconChevronsRight } from '@tabler/icons-vue'
import { NButton, NSkeleton } from 'naive-ui'
import { computed, nextTick, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { useDocument } from '../common/document'
import { useFolds } from '../common/folds'
import { useGuides } from '../common/guides'
import GuidesPanel from '../common/GuidesPanel.vue'
import { usePlace } from '../common/place'
import PocketRail from '../common/PocketRail.vue'
import { useNews } from '../common/news/news'
import { useNotices } from '../common/notices'
import { takesKind, usePockets } from '../common/pockets'
import { useRoving } from '../common/roving'
import { useSelection } from '../common/selection'
import StageView from '../common/stage/StageView.vue'
import TimeStrip from '../common/stage/TimeStrip.vue'
import { useTransport } from '../common/transport'
import { useFilling } from '../media/filling'
import { useMediaStore } from '../media/media'
import StorePicker from '../media/StorePicker.vue'
import { usePieces } from '../common/pieces'
import CompareButton from './CompareButton.vue'
import FramingPanel from './FramingPanel.vue'
import PlacePins from './PlacePins.vue'
import StageWords from './StageWords.vue'
import SheetPanel from './SheetPanel.vue'
import TrialPanel from './TrialPanel.vue'

const route = useRoute()
const doc = useDocument()
const selection = useSelection()
const media = useMediaStore()
const pockets = usePockets()
const notices = useNotices()
const { fill } = useFilling()
const transport = useTransport()
const picking = computed({ get: () => !!pockets.picking, set: (s) => !s && (pockets.picking = '') })
const pickingFor = computed(() => doc.piece?.pockets.find((p) => p.id === pockets.picking))
const folds = useFolds()
const guides = useGuides()
const every = [
  ['pockets', 'Pockets'],
  ['sheet', 'Sheet'],
  ['framing', 'Framing'],
  ['trial', 'Trial'],
] as const
/** In one column the pockets are one more side of the panel. */
const sides = computed(() => every.filter(([id]) => folds.narrow || id !== 'pockets'))
const side = ref<(typeof every)[number][0]>(folds.narrow ? 'pockets' : 'sheet')
watch(
  () => folds.narrow,
  (narrow) => !narrow && side.value === 'pockets' && (side.value = 'sheet'),
)
const place = usePlace(side, computed(() => sides.value.map(([id]) => id)))
const tabs = ref<HTMLElement>()
/** Tabs are one stop; arrows go from one to the next. */
const { at: tab, key: tabKey } = useRoving(computed(() => sides.value.map(([id]) => id)), side, (id) => {
  side.value = id as typeof side.value
  tabs.value?.querySelector<HTMLElement>(`[data-side=${id}]`)?.focus()
}, 'across')
/** Folds a side away or shows it; the focus goes to what takes that back. */
async function fold(what: 'rail' | 'panel', away: boolean) {
  folds[what] = away
  await nextTick()
  document.querySelector<HTMLElement>(`[data-test=${away ? 'unfold' : 'fold'}-${what}]`)?.focus()
}
/** Past the pockets: the focus goes on from the stage. */
const past = () => document.querySelector<HTMLElement>('[data-stage]')?.focus()

watch(
  () => route.params.id as string,
  (id, old) => {
    if (!id) return
    if (old !== undefined || doc.piece?.id !== id) transport.frame = 0
    transport.playing = false
    transport.range = null
    void doc.load({ kind: 'piece', id }).then(() => {
      if (!place.go() && doc.piece && transport.frame === 0) transport.frame = doc.piece.cues.find((c) => c.name === 'Poster')?.frame ?? 0
    })
  },
  { immediate: true },
)
/**
 * A pocket that is picked is framed; when none is, what was there before comes back. Who only comes by a pocket on the
 * stage, by Tab, is not led away from the sheet.
 */
let before: typeof side.value = 'sheet'
watch(
  [() => selection.pocket, () => selection.framing],
  ([now, framing]) => {
    const passing = !framing && !!document.activeElement?.matches('.hit:focus-visible')
    if (now && side.value !== 'framing' && !passing) {
      before = side.value
      side.value = 'framing'
    } else if (!now && side.value === 'framing') side.value = before
  },
)

const piece = computed(() => doc.piece)
// A draft that is tried out is looked at as it stands, whoever builds on it.
useNews().listen((n) => {
  if (n.type === 'draft' && n.id === doc.piece?.tryout) void doc.again().then(() => pockets.epoch++)
})
const pieces = usePieces()
async function back() {
  const id = route.params.id as string
  await pieces.back([id])
  await doc.load({ kind: 'piece', id })
}

onScopeDispose(() => {
  transport.playing = false
  guides.adjusting = ''
})
/** A file that misses a pocket must not make the browser leave the page. */
function missed(e: DragEvent) {
  e.preventDefault()
  if (e.type === 'drop' && e.dataTransfer?.files.length) notices.say('info', 'Drop media on a pocket, on the stage or in the rail.')
}
</script>

<template>
  <div v-if="doc.failure && !piece" class="gone cloth">
    <h2>{{ doc.deleted ? 'This piece was deleted' : 'This piece can\'t be opened' }}</h2>
    <p>{{ doc.deleted ? 'It is kept for seven days.' : doc.failure }}</p>
    <div class="acts">
      <NButton v-if="doc.deleted" type="primary" data-test="back" @click="back">Bring it back</NButton>
      <RouterLink to="/pieces" custom #default="{ navigate }"><NButton :type="doc.deleted ? 'default' : 'primary'" @click="navigate">To all pieces</NButton></RouterLink>
    </div>
  </div>
  <div v-else class="desk" :class="{ 'no-rail': folds.rail, 'no-panel': folds.panel }" @dragover="missed" @drop="missed">
    <aside v-if="!folds.narrow" class="left cloth" aria-label="Pockets">
      <button v-if="folds.rail" class="unfold" aria-label="Show pockets" :aria-expanded="false" data-test="unfold-rail" @click="fold('rail', false)"><IconChevronsRight :size="15" /><span>Pockets</span></button>
      <template v-else-if="piece">
        <button class="past" @click="past">Past the pockets</button>
        <button class="icon-button fold" title="Fold away" aria-label="Fold pockets away" :aria-expanded="true" data-test="fold-rail" @click="fold('rail', true)"><IconChevronsLeft :size="15" /></button>
        <PocketRail />
      </template>
      <template v-else><NSkeleton v-for="i in 5" :key="i" height="96px" style="margin: 10px; width: 172px" /></template>
    </aside>
    <StageView v-if="piece" class="stage" :clips="media.clips" @grounds="media.load()" @files="fill"><template #formats><CompareButton /></template><template #over="s"><StageWords :format="s.format" :k="s.k" :size="s.size" :at="s.at" :said="s.words" /><PlacePins :format="s.format" :k="s.k" /></template></StageView>
    <div v-else class="stage waiting" />
    <aside v-if="folds.panel" class="panel cloth" aria-label="Panel">
      <button class="unfold" :aria-label="`Show ${sides.find(([id]) => id === side)?.[1]}`" :aria-expanded="false" data-test="unfold-panel" @click="fold('panel', false)"><IconChevronsLeft :size="15" /><span>{{ sides.find(([id]) => id === side)?.[1] }}</span></button>
    </aside>
    <aside v-else class="panel cloth" aria-label="Panel">
      <div class="sides">
        <div ref="tabs" class="tabs" role="tablist" aria-label="Panel" @keydown="tabKey">
          <button v-for="[id, name] in sides" :id="`side-${id}`" :key="id" role="tab" :data-side="id" :aria-selected="side === id" :aria-controls="piece ? 'panel' : undefined" :tabindex="tab === id ? 0 : -1" :class="{ on: side === id }" @click="((side = id), (guides.adjusting = ''))">{{ name }}</button>
        </div>
        <button v-if="!folds.narrow" class="icon-button fold" title="Fold away" aria-label="Fold the panel away" :aria-expanded="true" data-test="fold-panel" @click="fold('panel', true)"><IconChevronsRight :size="15" /></button>
      </div>
      <div v-if="piece" id="panel" class="body" role="tabpanel" :aria-labelledby="`side-${side}`">
        <GuidesPanel v-if="guides.adjusting && selection.formatView" :canvas="selection.formatView" />
        <PocketRail v-else-if="side === 'pockets'" />
        <SheetPanel v-else-if="side === 'sheet'" />
        <FramingPanel v-else-if="side === 'framing'" />
        <TrialPanel v-else @look="(f, n) => { selection.format = f; transport.seek(n) }" />
      </div>
      <div v-else class="body"><NSkeleton text :repeat="6" /></div>
    </aside>
    <TimeStrip v-if="piece" class="strip" />
    <div v-else class="strip" />
    <StorePicker v-if="piece" v-model:show="picking" :title="`Media for ${pickingFor?.name ?? ''}`" :takes="(kind) => !!pickingFor && takesKind(pickingFor, kind)"
      @use="(m) => { const p = pockets.picking; picking = false; void pockets.use(p, m) }" @files="(f) => { const p = pockets.picking; picking = false; void fill(p, f) }" />
  </div>
</template>

<style scoped>
.desk { --rail: 196px; --panel: 288px; height: 100%; display: grid; grid-template-columns: var(--rail) minmax(0, 1fr) var(--panel); grid-template-rows: minmax(0, 1fr) auto; }
.left { position: relative; border-right: 1px solid var(--rule); overflow: auto; }
.fold { width: 24px; height: 24px; color: var(--ink-quiet); }
.left .fold { position: absolute; top: 8px; right: 6px; z-index: 1; }
.unfold { width: 100%; height: 100%; display: flex; flex-direction: column; align-items: center; gap: 10px; padding: 12px 0; background: none; border: 0; cursor: pointer; color: var(--ink-quiet); }
.unfold:hover { color: var(--ink); background: var(--linen-raised); }
.unfold:focus-visible { outline-offset: -3px; }
.unfold span { writing-mode: vertical-rl; font-weight: 600; font-size: 12px; }
.past { position: absolute; top: 6px; left: 8px; z-index: 2; padding: 5px 10px; border: 1px solid var(--ivy); border-radius: 7px; background: var(--linen-raised); color: var(--ivy-deep); font-weight: 600; cursor: pointer; }
.past:not(:focus-visible) { width: 1px; height: 1px; padding: 0; border: 0; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
.desk.no-rail { --rail: 30px; }
.desk.no-panel { --panel: 30px; }
.panel { border-left: 1px solid var(--rule); display: grid; grid-template-rows: auto minmax(0, 1fr); min-height: 0; }
.sides { display: flex; align-items: center; padding: 8px 8px 0 12px; border-bottom: 1px solid var(--rule); }
.tabs { display: flex; gap: 4px; flex: 1; }
.tabs button { background: none; border: 0; padding: 6px 12px 9px; cursor: pointer; font-weight: 500; color: var(--ink-quiet); position: relative; }
.tabs button:hover { color: var(--ink); }
.tabs button.on { color: var(--ivy-deep); font-weight: 600; }
.tabs button.on::after { content: ''; position: absolute; left: 8px; right: 8px; bottom: 2px; height: 2px; background: repeating-linear-gradient(90deg, var(--ivy) 0 6px, transparent 6px 10px); }
.body { overflow: auto; padding: 14px; }
.strip { grid-column: 1 / -1; border-top: 1px solid var(--rule); background: var(--linen-raised); }
/* One column: the stage, time, and one side of the panel. */
@media (max-width: 620px) {
  .desk { grid-template-columns: minmax(0, 1fr); grid-template-rows: minmax(190px, 44%) auto minmax(0, 1fr); }
  .stage { grid-row: 1; }
  .strip { grid-row: 2; border-bottom: 1px solid var(--rule); }
  .panel { grid-row: 3; border-left: 0; }
  .tabs { justify-content: space-between; }
}
.waiting { background: var(--surround); }
.acts { display: flex; gap: 8px; }
.gone { height: 100%; display: grid; align-content: center; justify-items: center; gap: 12px; }
</style>
