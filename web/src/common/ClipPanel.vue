<script setup lang="ts">
import { NButton, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, onScopeDispose, ref, watch } from 'vue'

import type { Medium, Op, Play, Pocket } from '../api/client'
import { useDocument } from './document'
import { seconds } from './format'
import NumberField from './NumberField.vue'
import { usePockets } from './pockets'
import { useTransient } from './transient'
import { useTransport } from './transport'

/**
 * How the clip in a pocket runs: its first frame, chosen by running the pointer
 * over a strip of frames while the stage shows the one under it; its speed; and
 * what is seen when it is over.
 */
const props = defineProps<{ pocket: Pocket; medium: Medium }>()
const doc = useDocument()
const transient = useTransient()
const pockets = usePockets()
const transport = useTransport()
const strip = ref<HTMLElement>()
const over = ref(-1)
/** Frames side by side, each in its own proportions. */
const cells = computed(() => Math.max(2, Math.min(24, Math.round((258 / 46) * (props.medium.height / props.medium.width)))))

const play = computed<Play>(() => props.pocket.play)
const src = computed(() => `/api/media/${props.medium.hash}/strip?count=${cells.value}&side=92&v=${Math.floor((props.medium.proxyDone / props.medium.frames) * 4)}${props.medium.counted ? '' : '0'}`)
const pieceSeconds = computed(() => (doc.face!.frames * doc.face!.rateD) / doc.face!.rateN)
/** How long the clip lasts from its in-point on, at its speed. */
const lasts = computed(() => (props.medium.seconds * (1 - play.value.in / Math.max(1, props.medium.frames))) / play.value.speed)
const short = computed(() => lasts.value < pieceSeconds.value - 1e-6)
const endings = [
  ['hold', 'Hold', 'The last frame stays'],
  ['loop', 'Loop', 'It begins again at its first frame'],
  ['bounce', 'There and back', 'It runs back to its first frame, then forth again'],
] as const

function at(e: PointerEvent) {
  const r = strip.value!.getBoundingClientRect()
  return Math.max(0, Math.min(props.medium.frames - 1, Math.floor(((e.clientX - r.left) / r.width) * props.medium.frames)))
}
function run(e: PointerEvent) {
  transport.playing = false
  over.value = at(e)
  transient.look = { pocket: props.pocket.id, frame: over.value }
}
function leave() {
  over.value = -1
  transient.look = null
}
function op(part: Partial<Play>): Op {
  const { given: _, ...kept } = play.value
  const now = transient.wished({ kind: 'play', pocket: props.pocket.id })?.play ?? kept
  return { kind: 'play', pocket: props.pocket.id, play: { ...now, ...part }, members: Object.keys(part) }
}
const set = (part: Partial<Play>) => transient.keep(op(part))
async function choose(e: PointerEvent) {
  if (e.button !== 0) return
  const n = at(e)
  await set({ in: n })
  leave()
}
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  let n = op({}).play!.in
  if (by) n += by * (e.shiftKey ? 10 : 1)
  else if (e.key === 'Home') n = 0
  else if (e.key === 'End') n = props.medium.frames - 1
  else return
  e.preventDefault()
  e.stopPropagation()
  n = Math.max(0, Math.min(props.medium.frames - 1, n))
  transient.soon(op({ in: n }))
}
watch(() => props.pocket.id, leave)
onScopeDispose(() => (transient.look = null))
</script>

<template>
  <section data-test="clip">
    <div class="row"><h3 class="heading">Clip</h3><span class="num quiet">{{ medium.frames }} frames{{ medium.counted ? '' : ', being counted' }}, {{ medium.rate }}{{ medium.uneven ? ' on average' : '' }}</span></div>
    <div ref="strip" class="strip" role="slider" tabindex="0" aria-label="First frame" :aria-valuemin="0" :aria-valuemax="medium.frames - 1" :aria-valuenow="play.in" data-test="strip"
      @pointermove="run" @pointerleave="leave" @pointerdown="choose" @keydown="key">
      <img :src="src" alt="" draggable="false" />
      <i class="before" :style="{ width: `${(play.in / medium.frames) * 100}%` }" />
      <i class="in" :style="{ left: `${(play.in / medium.frames) * 100}%` }" />
      <i v-if="over >= 0" class="over" :style="{ left: `${((over + 0.5) / medium.frames) * 100}%` }" />
      <b v-if="over >= 0" class="num" :class="{ right: over > medium.frames / 2 }">{{ over }}</b>
    </div>
    <p class="quiet small">Run along the frames; the stage shows each. Press to begin there.</p>
    <div class="grid">
      <NumberField label="First frame" :value="play.in" :min="0" :max="medium.frames - 1" :places="0" :reset="0" @draft="transient.look = { pocket: pocket.id, frame: Math.round($event) }" @press="transient.soon(op({ in: Math.round($event) }))" @change="void set({ in: Math.round($event) }).then(leave)" @cancel="transient.look = null" />
      <NumberField label="Speed" unit="%" :value="play.speed * 100" :min="5" :max="2000" :reset="100" :places="1" @press="transient.soon(op({ speed: $event / 100 }))" @change="set({ speed: $event / 100 })" />
    </div>
    <NRadioGroup size="small" class="ends" aria-label="When it is over" :value="play.after" @update:value="(v: Play['after']) => set({ after: v })">
      <NRadioButton v-for="[v, label, title] in endings" :key="v" :value="v" :title="title" :data-after="v">{{ label }}</NRadioButton>
    </NRadioGroup>
    <p class="small" :class="short ? 'caution' : 'quiet'">
      <template v-if="short">Lasts {{ seconds(lasts) }} of {{ seconds(pieceSeconds) }}; then {{ { hold: 'its last frame stays', loop: 'it begins again', bounce: 'it runs back' }[play.after] }}.</template>
      <template v-else>Lasts {{ seconds(lasts) }}, longer than the piece.</template>
      Sound off.
    </p>
    <ul v-if="medium.notes.length" class="notes quiet"><li v-for="n in medium.notes" :key="n">{{ n }}</li></ul>
    <div v-if="medium.proxyDone < medium.frames" class="growing" title="A light copy for the stage is being made; the clip can be used already"><i :style="{ width: `${(medium.proxyDone / medium.frames) * 100}%` }" /><span class="num quiet">light copy {{ Math.floor((medium.proxyDone / medium.frames) * 100) }} %</span></div>
    <NButton v-if="play.given" size="tiny" quaternary @click="pockets.play(pocket.id, undefined)">Reset how it runs</NButton>
  </section>
</template>

<style scoped>
section { display: grid; gap: 8px; padding-top: 13px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
.row { display: flex; justify-content: space-between; align-items: baseline; gap: 8px; }
.row .num { font-size: 11px; }
.strip { position: relative; height: 46px; border-radius: 6px; overflow: hidden; cursor: ew-resize; background: #d6d0c2; touch-action: none; box-shadow: inset 0 0 0 1px var(--rule-strong); }
.strip img { width: 100%; height: 100%; display: block; object-fit: fill; }
.before { position: absolute; inset: 0 auto 0 0; background: rgba(245, 242, 234, 0.72); background-image: repeating-linear-gradient(60deg, rgba(120, 105, 70, 0.22) 0 1px, transparent 1px 6px); }
.in { position: absolute; top: 0; bottom: 0; width: 3px; background: var(--ivy); box-shadow: 0 0 0 1px #fbfaf5; }
.over { position: absolute; top: 0; bottom: 0; width: 2px; margin-left: -1px; background: var(--media); box-shadow: 0 0 0 1px rgba(255, 255, 255, 0.7); }
.strip b { position: absolute; right: 4px; top: 4px; background: rgba(34, 48, 42, 0.86); color: #fff; border-radius: 4px; padding: 0 5px; font-weight: 500; font-size: 11px; }
.strip b.right { right: auto; left: 4px; }
.strip img, .strip i, .strip b { pointer-events: none; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 6px 8px; }
.ends { display: flex; }
.ends :deep(.n-radio-button) { flex: 1 1 auto; padding: 0 6px; text-align: center; font-size: 12px; }
.small { font-size: 12px; }
.caution { color: var(--amber); }
.notes { margin: 0; padding: 0 0 0 14px; font-size: 12px; }
.growing { position: relative; height: 16px; border-radius: 4px; background: var(--linen-deep); overflow: hidden; }
.growing i { display: block; height: 100%; background: #e7cf9d; transition: width 0.3s; }
.growing span { position: absolute; inset: 0 0 0 7px; font-size: 11px; line-height: 16px; color: #4d3c12; }
</style>
