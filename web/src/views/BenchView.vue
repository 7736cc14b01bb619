<script setup lang="ts">
import { NButton, NSkeleton } from 'naive-ui'
import { computed, onMounted, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import MakePanel from '../components/MakePanel.vue'
import PocketRail from '../components/PocketRail.vue'
import SheetPanel from '../components/SheetPanel.vue'
import StageView from '../components/StageView.vue'
import StorePicker from '../components/StorePicker.vue'
import TimeStrip from '../components/TimeStrip.vue'
import TrialPanel from '../components/TrialPanel.vue'
import { usePiece } from '../stores/piece'
import { useTransport } from '../stores/transport'

const route = useRoute()
const store = usePiece()
const transport = useTransport()
const stage = ref<InstanceType<typeof StageView>>()
const picking = computed({ get: () => !!store.picking, set: (s) => !s && (store.picking = '') })
const pickingFor = computed(() => store.piece?.pockets.find((p) => p.id === store.picking))
const side = ref<'make' | 'sheet' | 'trial'>('make')
const sides = [
  ['make', 'Make'],
  ['sheet', 'Sheet'],
  ['trial', 'Trial'],
] as const

watch(
  () => route.params.id as string,
  (id, old) => {
    if (!id) return
    if (old !== undefined || store.piece?.id !== id) transport.frame = 0
    transport.playing = false
    transport.range = null
    void store.load(id).then(() => {
      if (store.piece && transport.frame === 0) transport.frame = store.piece.cues.find((c) => c.name === 'Poster')?.frame ?? 0
    })
  },
  { immediate: true },
)
watch(
  () => store.layer,
  (s) => s && side.value === 'trial' && (side.value = 'make'),
)

const piece = computed(() => store.piece)

function seek(n: number) {
  transport.playing = false
  store.look = null
  transport.frame = Math.max(0, Math.min((piece.value?.frames ?? 1) - 1, n))
}
function key(e: KeyboardEvent) {
  const p = piece.value
  const t = e.target as HTMLElement
  if (!p || e.ctrlKey || e.metaKey || e.altKey || t.closest('input, textarea, select, [role=spinbutton], [role=slider], .n-modal, .n-color-picker-panel')) return
  const inControl = t.closest('button, a, [role=tab], [role=radio], [role=checkbox]')
  const f = transport.frame
  switch (e.key) {
    case ' ':
      if (inControl) return
      transport.toggle()
      break
    case 'j':
      transport.shuttle(-1)
      break
    case 'k':
      transport.playing = false
      break
    case 'l':
      transport.shuttle(1)
      break
    case 'a':
      transport.mark(f, transport.range && transport.range.to > f ? transport.range.to : p.frames)
      break
    case 'b':
      transport.mark(transport.range && transport.range.from <= f ? transport.range.from : 0, f + 1)
      break
    case 'A':
    case 'B':
      transport.range = null
      break
    case 'F':
      void stage.value?.toggleFull()
      break
    case '1':
      stage.value?.toggleTrue()
      break
    case 'ArrowLeft':
    case 'ArrowRight':
      if (store.framing) return
      seek(f + (e.key === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? 10 : 1))
      break
    case 'Home':
      seek(0)
      break
    case 'End':
      seek(p.frames - 1)
      break
    case ',':
      seek([...p.cues].reverse().find((c) => c.frame < f)?.frame ?? 0)
      break
    case '.':
      seek(p.cues.find((c) => c.frame > f)?.frame ?? p.frames - 1)
      break
    case 'v':
      nextFormat()
      break
    default:
      return
  }
  e.preventDefault()
}
function nextFormat() {
  const fs = piece.value!.template.formats
  store.format = fs[(fs.findIndex((f) => f.id === store.format) + 1) % fs.length]!.id
}
onMounted(() => window.addEventListener('keydown', key))
onScopeDispose(() => {
  window.removeEventListener('keydown', key)
  transport.playing = false
})
/** A file that misses a pocket must not make the browser leave the page. */
function missed(e: DragEvent) {
  e.preventDefault()
  if (e.type === 'drop' && e.dataTransfer?.files.length) store.say('info', 'Drop media on a pocket, on the stage or in the rail.')
}
</script>

<template>
  <div v-if="store.failure && !piece" class="gone cloth">
    <h2>This piece can't be opened</h2>
    <p>{{ store.failure }}</p>
    <RouterLink to="/" custom #default="{ navigate }"><NButton type="primary" @click="navigate">To the shelf</NButton></RouterLink>
  </div>
  <div v-else class="bench" @dragover="missed" @drop="missed">
    <aside class="rail cloth" aria-label="Pockets">
      <PocketRail v-if="piece" />
      <template v-else><NSkeleton v-for="i in 5" :key="i" height="96px" style="margin: 10px; width: 172px" /></template>
    </aside>
    <StageView v-if="piece" ref="stage" class="stage" @format="store.format = $event" />
    <div v-else class="stage waiting" />
    <aside class="panel cloth">
      <div class="sides" role="tablist" aria-label="Panel">
        <button v-for="[id, name] in sides" :key="id" role="tab" :aria-selected="side === id" :class="{ on: side === id }" @click="side = id">{{ name }}</button>
      </div>
      <div v-if="piece" class="body" role="tabpanel">
        <MakePanel v-if="side === 'make'" />
        <SheetPanel v-else-if="side === 'sheet'" />
        <TrialPanel v-else @look="(f, n) => { store.format = f; seek(n) }" />
      </div>
      <div v-else class="body"><NSkeleton text :repeat="6" /></div>
    </aside>
    <TimeStrip v-if="piece" class="strip" @seek="seek" />
    <div v-else class="strip" />
    <StorePicker v-if="piece" v-model:show="picking" :title="`Media for ${pickingFor?.name ?? ''}`" :takes="(kind) => !!pickingFor && store.takesKind(pickingFor, kind)"
      @use="(m) => { const p = store.picking; picking = false; void store.use(p, m) }" @files="(f, folder) => { const p = store.picking; picking = false; void store.fill(p, f, folder) }" />
  </div>
</template>

<style scoped>
.bench { height: 100%; display: grid; grid-template-columns: 196px minmax(0, 1fr) 288px; grid-template-rows: minmax(0, 1fr) 104px; }
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
.gone { height: 100%; display: grid; align-content: center; justify-items: center; gap: 12px; }
</style>
