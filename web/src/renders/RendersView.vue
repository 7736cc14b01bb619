<script setup lang="ts">
import { IconArrowBarToUp, IconArrowDown, IconArrowUp, IconDownload, IconPlayerPauseFilled, IconPlayerPlayFilled, IconRefresh, IconTrash, IconX } from '@tabler/icons-vue'
import { NButton, NCheckbox, NRadioButton, NRadioGroup, NSkeleton } from 'naive-ui'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import type { Render } from '../api/client'
import { useAccess } from '../common/access'
import CardDialog from '../common/CardDialog.vue'
import { ago, bytes, seconds } from '../common/format'
import { usePicks } from '../common/picks'
import { open, useRenders } from './renders'

const access = useAccess()
const renders = useRenders()
void renders.load()

const shown = ref<Render | null>(null)
const file = (r: Render) => `/api/renders/${r.id}/file?view=1`
function line(r: Render): string {
  switch (r.state) {
    case 'queued': {
      const n = lineOf(r).findIndex((x) => x.id === r.id)
      return n > 0 ? `Waiting, ${n} before it` : 'Next in the queue'
    }
    case 'paused':
      return r.done ? 'Paused' : 'Waiting; paused'
    case 'running':
      return r.left >= 0 ? `${seconds(r.left)} left` : 'Starting'
    case 'done':
      return `${bytes(r.bytes)}, made in ${seconds(r.took)}`
    case 'cancelled':
      return 'Cancelled; nothing was kept'
  }
  return 'Failed'
}
const single = (r: Render) => r.kind === 'png'
/** Those that wait, in the order in which they are taken: single pictures don't wait behind films. */
const waiting = computed(() => renders.list.filter((r) => r.state === 'queued' || (r.state === 'paused' && !r.done)).sort((a, b) => Number(single(b)) - Number(single(a)) || a.number - b.number))
/** The line that a render stands in. */
const lineOf = (r: Render) => waiting.value.filter((x) => single(x) === single(r))
const ended = computed(() => renders.list.filter((r) => !open(r)))
/** What runs first, then what waits in its order, then the rest, the newest first. */
const ordered = computed(() => [...renders.list.filter((r) => r.state === 'running' || (r.state === 'paused' && r.done > 0)), ...waiting.value, ...ended.value])
const inQueue = (r: Render) => waiting.value.includes(r) && lineOf(r).length > 1

const { picked, pick, all, some } = usePicks(computed(() => ended.value.map((r) => r.id)))
/** What is about to be cleared away; it is asked first, as files don't come back. */
const clearing = ref<Render[]>([])
const clearingBytes = computed(() => clearing.value.reduce((n, r) => n + r.bytes, 0))
function clear() {
  void renders.clear(clearing.value.map((r) => r.id))
  clearing.value = []
}
const chosen = computed(() => ended.value.filter((r) => picked.value.has(r.id)))
const codec: Record<string, string> = { mp4: 'H.264', webm: 'VP9' }
const share = (r: Render) => (r.state === 'done' ? 1 : r.total ? r.done / r.total : 0)
</script>

<template>
  <div class="renders cloth">
    <header>
      <div>
        <h1>Renders</h1>
        <p class="quiet">Each as its piece stood when it was queued. The queue goes on after a restart.</p>
      </div>
      <div v-if="access.builds" class="once">
        <span class="quiet">At one time</span>
        <NRadioGroup size="small" :value="renders.atOnce" aria-label="Renders at one time" @update:value="renders.setAtOnce"><NRadioButton v-for="n in 3" :key="n" :value="n" :data-at-once="n">{{ n }}</NRadioButton></NRadioGroup>
      </div>
    </header>
    <p v-if="renders.failure" class="failure" role="alert">{{ renders.failure }}</p>
    <div v-if="!renders.loaded"><NSkeleton v-for="i in 3" :key="i" height="72px" style="margin-bottom: 10px" /></div>
    <div v-else-if="!renders.list.length" class="empty">
      <svg width="120" height="60" viewBox="0 0 120 60" aria-hidden="true">
        <rect x="6" y="6" width="108" height="48" rx="8" fill="none" stroke="#C9C1AD" stroke-width="2" stroke-dasharray="7 7" stroke-linecap="round" />
      </svg>
      <h2>Nothing rendered yet</h2>
      <p class="quiet">Fill a template from the shelf, then press Render on the bench.</p>
      <RouterLink to="/" custom #default="{ navigate }"><NButton type="primary" @click="navigate">To the shelf</NButton></RouterLink>
    </div>
    <div v-if="ended.length" class="many">
      <NCheckbox v-model:checked="all" :indeterminate="some" data-test="all">All that have ended</NCheckbox>
      <NButton v-if="chosen.length" size="small" data-test="clear-chosen" @click="clearing = chosen"><template #icon><IconTrash :size="15" /></template>Clear {{ chosen.length }} away</NButton>
    </div>
    <ul v-if="renders.list.length">
      <li v-for="r in ordered" :key="r.id" :class="[r.state, { picked: picked.has(r.id) }]" :data-render="r.id" :data-state="r.state">
        <NCheckbox v-if="!open(r)" class="tick" @mousedown.shift.prevent :checked="picked.has(r.id)" :aria-label="`Choose ${r.file}`" @update:checked="(_: boolean, e: MouseEvent | KeyboardEvent) => pick(r.id, e.shiftKey)" />
        <span v-else class="tick" />
        <component :is="r.state === 'done' ? 'button' : 'div'" class="view" :aria-label="r.state === 'done' ? `Look at ${r.file}` : undefined" @click="r.state === 'done' && (shown = r)">
          <img :src="`/api/renders/${r.id}/poster?side=264`" alt="" />
          <IconPlayerPlayFilled v-if="r.state === 'done' && r.kind !== 'png'" class="go" :size="22" />
        </component>
        <div class="what">
          <div class="name">{{ r.file }}</div>
          <p v-if="r.cut" class="cut" :class="{ bad: !r.cut.holds }" data-test="cut"><a :href="`/api/renders/${r.id}/cut`" :download="`${r.file}.cut.json`">{{ r.cut.holds ? 'Cut beneath it at' : 'It hides no cut; the most is hidden at' }} <span class="num">frame {{ r.cut.frame }}, {{ r.cut.timecode }}, {{ r.cut.milliseconds }} ms</span></a></p>
          <div class="quiet"><span class="num">{{ r.width }} × {{ r.height }}</span>, <span class="num">{{ r.total }}</span> {{ r.total === 1 ? 'frame' : 'frames' }}<template v-if="r.kind !== 'png'">, {{ codec[r.kind] }}{{ r.alpha ? ' with alpha' : '' }}, no sound</template> · {{ ago(r.created) }}<template v-if="r.by && access.builds">, for {{ r.by }}</template></div>
          <div v-if="r.failure" class="why" role="alert">{{ r.failure }}</div>
        </div>
        <div class="how">
          <div class="thread" role="progressbar" :aria-valuenow="Math.round(share(r) * 100)" :aria-label="`Progress of ${r.file}`"><i :style="{ width: `${share(r) * 100}%` }" /></div>
          <div class="state"><span>{{ line(r) }}</span><span v-if="r.state === 'running' || (r.state === 'paused' && r.done)" class="num">{{ r.done }} / {{ r.total }}</span></div>
        </div>
        <div class="acts">
          <NButton v-if="r.state === 'done'" tag="a" type="primary" size="small" :href="`/api/renders/${r.id}/file`" :download="r.file" data-test="download"><template #icon><IconDownload :size="16" /></template>Download</NButton>
          <template v-if="access.builds && inQueue(r)">
            <button class="icon-button" title="To the front" :aria-label="`Render ${r.file} first`" data-test="first" @click="renders.move(r.id, 'first')"><IconArrowBarToUp :size="16" /></button>
            <button class="icon-button" title="Earlier" :aria-label="`Render ${r.file} earlier`" @click="renders.move(r.id, 'up')"><IconArrowUp :size="16" /></button>
            <button class="icon-button" title="Later" :aria-label="`Render ${r.file} later`" @click="renders.move(r.id, 'down')"><IconArrowDown :size="16" /></button>
          </template>
          <button v-if="r.state === 'queued' || r.state === 'running'" class="icon-button" title="Pause" :aria-label="`Pause ${r.file}`" data-test="pause" @click="renders.pause(r.id, true)"><IconPlayerPauseFilled :size="16" /></button>
          <button v-if="r.state === 'paused'" class="icon-button" title="Go on" :aria-label="`Go on with ${r.file}`" data-test="resume" @click="renders.pause(r.id, false)"><IconPlayerPlayFilled :size="16" /></button>
          <NButton v-if="open(r)" size="small" data-test="cancel" @click="renders.cancel(r.id)"><template #icon><IconX :size="16" /></template>Cancel</NButton>
          <NButton v-if="r.state === 'failed' || r.state === 'cancelled'" size="small" @click="renders.retry(r.id)"><template #icon><IconRefresh :size="16" /></template>Render again</NButton>
          <button v-if="!open(r)" class="icon-button" title="Clear the render and its file away" :aria-label="`Clear ${r.file} away`" data-test="clear" @click="clearing = [r]"><IconTrash :size="17" :stroke-width="1.7" /></button>
        </div>
      </li>
    </ul>
    <CardDialog :show="clearing.length > 0" title="Clear away for good" :width="440" @update:show="clearing = []">
      <p data-test="sure">{{ clearing.length === 1 ? `“${clearing[0]!.file}” and what is known of its render` : `${clearing.length} renders and their files` }}{{ clearingBytes ? `, ${bytes(clearingBytes)}` : '' }}. Pieces stay as they are and can be rendered again.</p>
      <template #acts>
        <NButton @click="clearing = []">Keep</NButton>
        <NButton type="error" data-test="clear-away" @click="clear">Clear away</NButton>
      </template>
    </CardDialog>
    <CardDialog :show="!!shown" :title="shown?.file ?? ''" :width="960" @update:show="shown = null">
      <video v-if="shown && shown.kind !== 'png'" class="large" :class="{ sees: shown.alpha }" :src="file(shown)" controls autoplay muted playsinline />
      <img v-else-if="shown" class="large sees" :src="file(shown)" alt="" />
    </CardDialog>
  </div>
</template>

<style scoped>
.renders { height: 100%; overflow: auto; padding: 26px 32px 48px; }
header { margin-bottom: 20px; display: flex; justify-content: space-between; align-items: flex-end; max-width: 1180px; }
.once { display: flex; align-items: center; gap: 9px; }
h1 { font-size: 24px; letter-spacing: -0.02em; line-height: 1.2; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; max-width: 1180px; }
.many { display: flex; align-items: center; gap: 16px; min-height: 34px; margin-bottom: 6px; max-width: 1180px; padding-left: 12px; }
li.picked { border-color: var(--ivy); background: var(--ivy-wash); }
li { display: grid; grid-template-columns: 22px 132px minmax(0, 1fr) 230px 222px; gap: 16px; align-items: center; background: var(--linen-raised); border: 1px solid var(--rule); border-radius: 12px; padding: 10px 16px 10px 12px; }
li.failed { border-color: #d9a58f; }
.view { position: relative; height: 78px; padding: 0; border: 0; background: var(--surround); border-radius: 7px; overflow: hidden; display: grid; place-items: center; }
button.view { cursor: pointer; }
.view img { max-width: 100%; max-height: 78px; display: block; }
li:not(.done) .view img { opacity: 0.55; }
.go { position: absolute; color: #fff; filter: drop-shadow(0 0 3px rgba(0, 0, 0, 0.7)); }
.large { display: block; max-width: 100%; max-height: 74vh; margin: 0 auto; background: var(--surround); }
.large.sees { background: repeating-conic-gradient(#bbb 0 25%, #999 0 50%) 0 0 / 20px 20px; }
.paused .cut { font-size: 12px; margin: 0; }
.cut.bad { color: var(--rust); }
.cut a { color: inherit; }
.thread i { background: repeating-linear-gradient(-55deg, var(--rule-strong) 0 5px, #b7ae97 5px 8px); }
.name { font-weight: 600; font-size: 14px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.why { color: #9a3c20; margin-top: 3px; }
.thread { height: 7px; border-radius: 4px; background: var(--linen-deep); overflow: hidden; }
.thread i { display: block; height: 100%; border-radius: 4px; transition: width 0.2s; background: repeating-linear-gradient(-55deg, var(--ivy) 0 5px, #3c7d5d 5px 8px); }
.cancelled .thread i, .failed .thread i { background: var(--rule-strong); }
.state { display: flex; justify-content: space-between; margin-top: 5px; }
.acts { display: flex; justify-content: flex-end; gap: 4px; align-items: center; }
.empty { display: grid; justify-items: center; gap: 10px; padding: 80px 0; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; margin-bottom: 16px; }
@media (max-width: 900px) {
  li { grid-template-columns: 22px 96px minmax(0, 1fr); gap: 6px 12px; }
  .tick { grid-row: 1 / 4; }
  .view { grid-row: 1 / 4; height: 64px; }
  .view img { max-height: 64px; }
  .how, .acts { grid-column: 3; }
  .acts { justify-content: flex-start; flex-wrap: wrap; }
}
@media (max-width: 720px) {
  .renders { padding: 16px 14px 32px; }
  header { flex-wrap: wrap; gap: 10px; }
  .name { white-space: normal; overflow-wrap: anywhere; }
}
</style>
