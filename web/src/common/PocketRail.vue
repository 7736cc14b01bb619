<script setup lang="ts">
import { IconArrowBack, IconFolderOpen, IconVolumeOff } from '@tabler/icons-vue'
import { computed, ref } from 'vue'

import type { Pocket, Stand } from '../api/client'
import { tip } from './commands'
import { useDocument } from './document'
import { droppedFiles } from './drop'
import { usePockets } from './pockets'
import { useSelection } from './selection'
import SpoolIcon from './SpoolIcon.vue'
import { subject } from './subjects'
import ArrivalCard from '../media/ArrivalCard.vue'
import { useFilling } from '../media/filling'
import { useUploads } from '../media/uploads'

/** `compact` leaves more room for what stands below. */
defineProps<{ compact?: boolean }>()
const doc = useDocument()
const selection = useSelection()
const pockets = usePockets()
const { fill } = useFilling()
const uploads = useUploads()
const over = ref('')
const stands = computed(() => new Map<string, Stand>(pockets.stands.map((s) => [s.pocket, s])))

function thumb(p: Pocket): string {
  const s = stands.value.get(p.id)
  if (!s) return `/api/media/${p.media}/thumb?side=340`
  const m = pockets.medium(p)
  // What is seen depends on these alone, so that the picture is kept until one changes.
  const v = [p.media.slice(7, 19), JSON.stringify(s?.framing), s?.size.w, s?.size.h, m && m.frames && m.proxyDone >= m.frames ? 1 : 0, p.play.in].join(' ')
  return `${subject(doc.face!.kind).base(doc.face!.id)}/pockets/${p.id}/thumb?format=${selection.format}&side=340&v=${encodeURIComponent(v)}`
}
/** One that no layer shows stays at hand, to be sewn on again. */
const loose = (p: Pocket) => !p.layers.length
const kindsText = (p: Pocket) => p.kinds.map((k) => ({ picture: 'pictures', footage: 'clips', logo: 'marks' })[k] ?? k).join(' and ')

async function drop(e: DragEvent, p: Pocket) {
  over.value = ''
  if (!e.dataTransfer) return
  const files = await droppedFiles(e.dataTransfer)
  if (files.length) void fill(p.id, files)
}
</script>

<template>
  <div class="rail" :class="{ compact }">
    <h2 class="heading">Pockets</h2>
    <ul :class="{ many: !compact && pockets.list.length > 3 }">
      <li v-for="p in pockets.list" :key="p.id">
        <div class="pocket" :class="{ on: selection.pocket === p.id, over: over === p.id, loose: loose(p) }" :title="loose(p) ? 'No layer shows it' : undefined" :data-rail-pocket="p.id"
          @dragenter.prevent="over = p.id" @dragover.prevent.stop="over = p.id" @dragleave.self="over = ''" @drop.prevent.stop="drop($event, p)">
          <button class="pick" :aria-pressed="selection.pocket === p.id" :data-leaves="selection.pocket === p.id ? 'Enter' : undefined" @click="selection.pocket = selection.pocket === p.id ? '' : p.id" @dblclick="((selection.pocket = p.id), (selection.framing = true))">
            <span class="view" :style="{ aspectRatio: `${stands.get(p.id)?.size.w ?? 16} / ${stands.get(p.id)?.size.h ?? 9}` }">
              <img v-if="p.media" :key="thumb(p)" :src="thumb(p)" :alt="`${p.name}, as it is framed`" draggable="false" />
              <svg class="stitch" aria-hidden="true"><rect x="1" y="1" width="100%" height="100%" rx="5" /></svg>
            </span>
            <span class="name"><SpoolIcon kind="media" />{{ p.name }}<span v-if="doc.piece && p.required && p.standIn" class="badge needed" title="It has to be filled before the piece is done">to be filled</span><span v-if="pockets.medium(p)?.kind === 'footage'" class="badge" title="The clip’s own sound is off"><IconVolumeOff :size="12" />silent</span></span>
            <span class="media quiet" :class="{ lent: doc.piece && p.standIn }" :title="doc.piece && p.standIn && p.media ? `${p.mediaName}, the template’s stand-in` : p.mediaName">{{ p.mediaName || `Takes ${kindsText(p)}` }}</span>
          </button>
          <div v-if="pockets.medium(p) && pockets.medium(p)!.frames > 0 && pockets.medium(p)!.proxyDone < pockets.medium(p)!.frames" class="growing" title="A light copy for the stage is being made; the clip is there already">
            <i :style="{ width: `${(pockets.medium(p)!.proxyDone / pockets.medium(p)!.frames) * 100}%` }" />
          </div>
          <div class="acts">
            <button class="icon-button" :title="tip('choose', `Choose media for ${p.name}`)" :aria-label="`Choose media for ${p.name}`" @click="pockets.picking = p.id"><IconFolderOpen :size="16" :stroke-width="1.8" /></button>
            <button v-if="doc.piece && !p.standIn" class="icon-button" title="Put the stand-in back" :aria-label="`Put the stand-in back in ${p.name}`" @click="pockets.use(p.id, null)"><IconArrowBack :size="16" :stroke-width="1.8" /></button>
          </div>
        </div>
        <ArrivalCard v-for="a in uploads.list.filter((x) => x.pocket === p.id)" :key="a.key" :arrival="a" class="arrival" />
      </li>
    </ul>
    <p v-if="!compact" class="quiet hint">Drop pictures, clips or marks on a pocket, here or on the stage.</p>
  </div>
</template>

<style scoped>
.rail { padding: 12px 10px 16px; }
.heading { padding: 0 6px 8px; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 2px; }
.pocket { position: relative; border-radius: 10px; border: 1px solid transparent; }
.pocket:hover { background: var(--linen-raised); border-color: var(--rule); }
.pocket.on { background: var(--linen-raised); border-color: var(--ivy); }
.pocket.over { background: var(--ivy-wash); border-color: var(--ivy); }
.pick { display: grid; width: 100%; gap: 1px; padding: 6px; background: none; border: 0; text-align: left; cursor: pointer; border-radius: 10px; }
.view { position: relative; display: block; justify-self: center; max-width: 100%; max-height: 68px; height: 68px; border-radius: 6px; overflow: hidden; margin: 0 auto; background: #d6d0c2; }
.view img { width: 100%; height: 100%; display: block; object-fit: cover; }
.view .stitch { position: absolute; inset: 3px; width: calc(100% - 8px); height: calc(100% - 8px); overflow: visible; }
.view .stitch rect { stroke: #fffefa; stroke-opacity: 0.85; stroke-width: 1.4; stroke-dasharray: 4 4.6; }
.pocket.over .stitch rect { stroke: #fff; stroke-opacity: 1; animation: run 0.7s linear infinite; }
@keyframes run { to { stroke-dashoffset: -17.2; } }
.name { display: flex; align-items: center; gap: 6px; font-weight: 600; margin-top: 2px; }
.media.lent { font-style: italic; }
.media { font-size: 12px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
/* With many pockets each takes less, so that the layers below are in reach. */
.many .pick { grid-template-columns: 66px minmax(0, 1fr); column-gap: 9px; align-items: center; }
.many .view { grid-row: 1 / 3; height: 46px; max-height: 46px; max-width: 66px; }
.many .name { margin: 0; align-self: end; min-width: 0; font-size: 13px; line-height: 1.15; }
.many .name :deep(.spool) { display: none; }
.many .media { align-self: start; }
.many .badge { padding: 2px; font-size: 0; gap: 0; }
.many .acts { bottom: 6px; }
.badge { margin-left: auto; display: flex; align-items: center; gap: 3px; background: var(--linen-deep); color: var(--ink-quiet); font-weight: 500; border-radius: 4px; font-size: 11px; padding: 0 5px; }

.badge.needed { background: #f5e4c6; color: #7a4a06; }
.acts { position: absolute; right: 8px; bottom: 24px; display: flex; opacity: 0; background: var(--linen-raised); border-radius: 8px; }
.pocket.on .acts, .pocket:hover .acts, .pocket:focus-within .acts { opacity: 1; }
.acts .icon-button { width: 26px; height: 26px; }
.loose .view { opacity: 0.45; }
.loose .name { color: var(--ink-quiet); font-style: italic; }
.growing { height: 4px; border-radius: 2px; background: var(--rule); margin: 0 8px 7px; overflow: hidden; }
.growing i { display: block; height: 100%; background: var(--media); transition: width 0.3s; }
.arrival { margin-top: 4px; }
/* At the bench they stand three in a row. */
.compact { padding: 12px 0 0; }
.compact ul { grid-template-columns: repeat(3, minmax(0, 1fr)); }
.compact .pick { padding: 4px; }
.compact .view { height: 38px; max-height: 38px; }
.compact .name { font-size: 11px; font-weight: 500; margin: 0; display: block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; text-align: center; }
.compact .name :deep(.spool), .compact .badge, .compact .media { display: none; }
.compact .acts { bottom: 20px; right: 4px; }
.compact .acts .icon-button { width: 22px; height: 22px; }
.hint { font-size: 12px; padding: 10px 6px 0; }
</style>
