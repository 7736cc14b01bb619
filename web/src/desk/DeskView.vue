<script setup lang="ts">
import { NButton, NSkeleton } from 'naive-ui'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { useDocument } from '../common/document'
import { useNotices } from '../common/notices'
import { takesKind, usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import StageView from '../common/stage/StageView.vue'
import TimeStrip from '../common/stage/TimeStrip.vue'
import { useTransport } from '../common/transport'
import { useFilling } from '../media/filling'
import { useMediaStore } from '../media/media'
import StorePicker from '../media/StorePicker.vue'
import { usePieces } from '../common/pieces'
import MakePanel from './MakePanel.vue'
import { usePlace } from './place'
import PocketRail from './PocketRail.vue'
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
const sides = [
  ['make', 'Make'],
  ['sheet', 'Sheet'],
  ['trial', 'Trial'],
] as const
const side = ref<(typeof sides)[number][0]>('make')
const place = usePlace(side, sides.map(([id]) => id))

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
watch(
  () => selection.layer,
  (s) => s && side.value === 'trial' && (side.value = 'make'),
)

const piece = computed(() => doc.piece)
const pieces = usePieces()
async function back() {
  const id = route.params.id as string
  await pieces.back([id])
  await doc.load({ kind: 'piece', id })
}

onScopeDispose(() => (transport.playing = false))
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
  <div v-else class="desk" @dragover="missed" @drop="missed">
    <aside class="rail cloth" aria-label="Pockets">
      <PocketRail v-if="piece" />
      <template v-else><NSkeleton v-for="i in 5" :key="i" height="96px" style="margin: 10px; width: 172px" /></template>
    </aside>
    <StageView v-if="piece" class="stage" :clips="media.clips" @grounds="media.load()" @files="fill" />
    <div v-else class="stage waiting" />
    <aside class="panel cloth">
      <div class="sides" role="tablist" aria-label="Panel">
        <button v-for="[id, name] in sides" :key="id" role="tab" :aria-selected="side === id" :class="{ on: side === id }" @click="side = id">{{ name }}</button>
      </div>
      <div v-if="piece" class="body" role="tabpanel">
        <MakePanel v-if="side === 'make'" />
        <SheetPanel v-else-if="side === 'sheet'" />
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
.desk { height: 100%; display: grid; grid-template-columns: 196px minmax(0, 1fr) 288px; grid-template-rows: minmax(0, 1fr) 104px; }
.rail { border-right: 1px solid var(--rule); overflow: auto; }
.panel { border-left: 1px solid var(--rule); display: grid; grid-template-rows: auto minmax(0, 1fr); min-height: 0; }
.sides { display: flex; gap: 4px; padding: 8px 12px 0; border-bottom: 1px solid var(--rule); }
.sides button { background: none; border: 0; padding: 6px 12px 9px; cursor: pointer; font-weight: 500; color: var(--ink-quiet); position: relative; }
.sides button:hover { color: var(--ink); }
.sides button.on { color: var(--ivy-deep); font-weight: 600; }
.sides button.on::after { content: ''; position: absolute; left: 8px; right: 8px; bottom: 2px; height: 2px; background: repeating-linear-gradient(90deg, var(--ivy) 0 6px, transparent 6px 10px); }
.body { overflow: auto; padding: 14px; }
.strip { grid-column: 1 / -1; border-top: 1px solid var(--rule); background: var(--linen-raised); }
.waiting { background: var(--surround); }
.acts { display: flex; gap: 8px; }
.gone { height: 100%; display: grid; align-content: center; justify-items: center; gap: 12px; }
</style>
