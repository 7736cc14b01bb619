<script setup lang="ts">
import { IconArrowsMaximize, IconLayersDifference, IconFlipHorizontal, IconFlipVertical, IconFocusCentered, IconRefresh } from '@tabler/icons-vue'
import { useElementSize, useEventListener, useFullscreen } from '@vueuse/core'
import { NButton, NPopselect } from 'naive-ui'
import { computed, onScopeDispose, ref, shallowRef, toRef, watch } from 'vue'

import { detail, fetchPicture, type Formed, type Guide, type Op, type Outline, type Stand, type Words } from '../../api/client'
import { tip, useCommands } from '../commands'
import { useDocument } from '../document'
import { plain } from '../format'
import { usePockets } from '../pockets'
import { useSelection } from '../selection'
import { subject } from '../subjects'
import { useTransient } from '../transient'
import { useTransport } from '../transport'
import { useDropper } from '../dropper'
import { useGuides } from '../guides'
import GuidesMenu from '../GuidesMenu.vue'
import DropperTool from './DropperTool.vue'
import { useFrames } from './frames'
import { useFramingTool } from './framing'
import { picture } from './picture'
import { usePlayer } from './player'
import FrameWipe from './FrameWipe.vue'
import OnionSkin from './OnionSkin.vue'
import StageGuides from './StageGuides.vue'
import StageLayers from './StageLayers.vue'
import { useZoom } from './zoom'

const props = defineProps<{ clips: { name: string; hash: string }[] }>()
const emit = defineEmits<{ grounds: []; files: [string, File[]]; press: [PointerEvent] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const pockets = usePockets()
const transport = useTransport()
const surround = ref<HTMLElement>()
const desk = ref<HTMLElement>()
const { width, height } = useElementSize(desk)
const { isFullscreen, toggle: toggleFull } = useFullscreen(surround)

const formatView = computed(() => selection.formatView!)
const room = computed(() => ({ w: Math.max(0, width.value - 40), h: Math.max(0, height.value - 24) }))
const fits = computed(() => Math.min(1, room.value.w / formatView.value.width, room.value.h / formatView.value.height))
const { zoom, to: zoomTo, over: zoomOver, wheel: zoomWheel, pan, roams } = useZoom(formatView, fits, desk)
/** The size in which frames are asked for: what fits, or what is looked at; never more than the canvas has. */
const box = computed(() => {
  const z = Math.min(1, zoom.value)
  return z ? { w: Math.max(32, Math.round(formatView.value.width * z)), h: Math.max(32, Math.round(formatView.value.height * z)) } : room.value
})

// What lies under what is clear, to judge edges by.
const ground = computed({ get: () => selection.ground, set: (g) => (selection.ground = g) })
onScopeDispose(() => (selection.ground = ''))
/** Where a transition is to be cut: it can be seen over two scenes then. */
const cutAt = computed(() => doc.face?.cues.find((c) => c.id === 'cut')?.frame)
const grounds = computed(() => [
  { label: 'As it is', value: '' },
  { label: 'On a checker', value: 'checker' },
  { label: 'On black', value: 'black' },
  { label: 'On white', value: 'white' },
  { label: 'On grey', value: 'grey' },
  { label: 'Alpha alone', value: 'alpha' },
  { label: 'Luma alone', value: 'luma' },
  ...props.clips.slice(0, 4).map((m) => ({ label: `On ${m.name}`, value: `clip:${m.hash}` })),
  ...(cutAt.value !== undefined ? [{ label: 'Two scenes', value: `scenes:${cutAt.value}` }] : []),
])
watch(cutAt, (n) => ground.value.startsWith('scenes:') && n !== undefined && (ground.value = `scenes:${n}`))
const groundName = computed(() => grounds.value.find((g) => g.value === ground.value)?.label ?? (ground.value.startsWith('scenes:') ? 'Two scenes' : 'As it is'))

const frames = useFrames({ of: toRef(() => doc.face), format: toRef(() => selection.format), box, epoch: toRef(() => pockets.epoch), ground, playhead: toRef(() => transport.frame), alone: toRef(() => selection.alone.join(',')) })
const { size, failure, loading } = frames

const canvas = ref<HTMLCanvasElement>()
/** What the picture on the canvas is: quick (JPEG) or without loss. */
const quality = ref<'' | 'quick' | 'exact'>('')
const drawFailure = ref('')
/** The size in which the picture is shown. */
const shownSize = computed(() => (zoom.value ? { w: Math.round(formatView.value.width * zoom.value), h: Math.round(formatView.value.height * zoom.value) } : size.value))
const k = computed(() => (shownSize.value.w ? shownSize.value.w / formatView.value.width : 1))
/** Where a point of the screen lies on the canvas, in its pixels. */
function at(p: { clientX: number; clientY: number }): [number, number] {
  const r = canvas.value!.getBoundingClientRect()
  return [(p.clientX - r.left) / k.value, (p.clientY - r.top) / k.value]
}

/** What it is a picture of: a frame's address and what lies under it; nothing known while playing and dragging. */
const pictured = ref('')
const wanted = computed(() => (void here.value, frames.pictureOf(Math.min(transport.frame, frames.count.value - 1))))
/** What is said of the picture is never ahead of it. */
const said = computed(() => (quality.value === 'exact' && (frames.stale.value || pictured.value !== wanted.value) ? 'old' : quality.value))

function put(b: ImageBitmap, what: 'quick' | 'exact', of = '') {
  if (!canvas.value) return
  picture(canvas.value, b)
  quality.value = what
  pictured.value = of
}

// A stopped frame: a quick picture at once, then the one without loss, from
// the originals. A newer wish ends an older one.
let wish: AbortController | undefined
let settle: ReturnType<typeof setTimeout> | undefined
async function show() {
  wish?.abort()
  clearTimeout(settle)
  const n = Math.min(transport.frame, frames.count.value - 1)
  if (transport.playing || transient.op || transient.look || !frames.address(n)) return
  const mine = (wish = new AbortController())
  const of = frames.pictureOf(n)
  const current = () => wish === mine && !mine.signal.aborted
  try {
    const have = frames.atHand(n)
    if (have) put(have, 'quick', of)
    else {
      const b = await frames.fetchFrame(n, 'jpg', mine.signal)
      if (b && current()) put(b, 'quick', of)
    }
    if (transport.scrubbing || !current()) return
    settle = setTimeout(async () => {
      try {
        const b = await frames.fetchFrame(n, 'png', mine.signal)
        if (b && current() && !transient.op && !transient.look) put(b, 'exact', of)
        drawFailure.value = ''
      } catch (e) {
        if (current()) drawFailure.value = (e as Error).message
      }
    }, 60)
    drawFailure.value = ''
  } catch (e) {
    if (current()) drawFailure.value = (e as Error).message
  }
}
/** The address of the frame at the playhead, once it is known. */
const here = computed(() => (void frames.version.value, frames.address(Math.min(transport.frame, frames.count.value - 1))))
watch([() => transport.frame, here, frames.state, () => transport.scrubbing, canvas, ground], () => void show(), { flush: 'post' })

const player = usePlayer(frames, transport, () => ({ frames: doc.face!.frames, rate: doc.face!.rateN / doc.face!.rateD }), (b) => put(b, 'quick'))
watch(
  () => transport.playing,
  (on) => {
    if (on) {
      wish?.abort()
      selection.framing = false
    } else void show()
  },
)
// While nobody does anything, frames are gathered in order from the playhead on.
let looked = 0
watch([() => transport.frame, () => transport.scrubbing, () => transient.op, frames.state], () => (looked = Date.now()))
const gather = setInterval(() => {
  if (transport.playing || transport.scrubbing || transient.op || !here.value || document.hidden || Date.now() - looked < 900) return
  const s = player.span()
  if (!frames.whole(s.lo, s.hi)) frames.ahead({ from: Math.min(s.hi - 1, Math.max(s.lo, transport.frame)), step: 1, ...s }, true)
}, 120)
// Which frames are at hand is told a few times a second.
let told = -1
const tell = setInterval(() => {
  if (told === frames.version.value) return
  told = frames.version.value
  transport.cached = frames.runs()
}, 250)
onScopeDispose(() => {
  clearInterval(gather)
  clearInterval(tell)
  wish?.abort()
  clearTimeout(settle)
  transport.cached = []
})

// A draft: how it would look. The latest wins; one request is out at a time.
const facts = shallowRef<{ stands: Stand[]; outlines: Outline[]; guides: Guide[]; forms: Formed[]; words: Words[] } | null>(null)
let asking = false
let waiting: { op: Op | null; look: typeof transient.look } | null = null
async function preview(op: Op | null, look: typeof transient.look) {
  waiting = { op, look }
  if (asking) return
  asking = true
  while (waiting) {
    const next: { op: Op | null; look: typeof transient.look } = waiting
    waiting = null
    try {
      const r = await fetchPicture(`${subject(doc.face!.kind).base(doc.face!.id)}/preview`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ op: next.op && subject(doc.face!.kind).wire(next.op), look: next.look && 'pocket' in next.look ? next.look : null, revision: next.look && 'past' in next.look ? next.look.past : undefined, ground: ground.value, alone: selection.alone.join(','), forms: doc.draft ? selection.layer : selection.writing, format: selection.format, frame: transport.frame, width: Math.floor(box.value.w), height: Math.floor(box.value.h) }),
      })
      if (r.status === 503 && waiting) continue
      if (!r.ok) {
        drawFailure.value = detail(await r.json().catch(() => undefined), r.status)
        continue
      }
      const parts = await r.formData()
      const f = JSON.parse(await (parts.get('facts') as File).text())
      const b = await createImageBitmap(parts.get('picture') as File)
      if (transient.op || transient.look) {
        facts.value = f
        put(b, 'quick')
      }
      b.close()
    } catch (e) {
      drawFailure.value = (e as Error).message
    }
  }
  asking = false
}
watch([() => transient.op, () => transient.look], ([op, look]) => {
  if (op || look) void preview(op, look)
  else {
    waiting = null
    void settled().then(() => {
      if (transient.op || transient.look) return
      if (!frames.stale.value) facts.value = null // nothing came of it
      void show()
    })
  }
})
// What is shown and not kept is drawn anew where it is looked at elsewhere.
watch([() => selection.format, () => transport.frame, ground, box], () => {
  if (transient.op || transient.look) void preview(transient.op, transient.look)
}, { flush: 'post' })
// A graphics process that gives up takes what is drawn along.
useEventListener(canvas, 'contextrestored', () => {
  pictured.value = ''
  if (transient.op || transient.look) void preview(transient.op, transient.look)
  else if (!transport.playing) void show()
})
async function settled() {
  while (asking) await new Promise((r) => setTimeout(r, 8))
}
// The picture of a draft stays until the piece that came of it is there.
watch(frames.state, () => {
  facts.value = null
})
// What could not be drawn may be mended when news of the piece come.
watch(
  () => doc.face,
  () => {
    if (!drawFailure.value) return
    drawFailure.value = ''
    frames.reload()
  },
)

const shownOutlines = computed<Outline[]>(() => facts.value?.outlines ?? (void frames.version.value, frames.outlines(Math.min(transport.frame, frames.count.value - 1))) ?? [])
const shownStands = computed<Stand[]>(() => facts.value?.stands ?? pockets.stands)
const tool = useFramingTool({ stands: shownStands, outlines: shownOutlines, k, canvas, settled })

// While files are dragged in, pockets take the pointer, whatever else goes on.
const dropping = ref(false)
function drops(e: DragEvent) {
  dropping.value = e.type !== 'drop' && (e.type !== 'dragleave' || e.relatedTarget !== null)
  if (dropping.value) transport.playing = false
}
for (const type of ['dragenter', 'dragleave', 'drop'] as const) useEventListener(window, type, drops, { capture: true })
const { current, pinning, frameBox, turner, ghost, focusPin } = tool

const faults = computed(() => [...(doc.face?.faults ?? []), failure.value, drawFailure.value].filter(Boolean))
const playState = computed(() => {
  const s = transport.state
  if (!transport.playing) return { exact: 'as rendered, without loss', quick: 'quick view', old: 'being drawn anew', '': '' }[said.value]
  const way = transport.speed === 1 ? '' : `${transport.speed < 0 ? 'backwards ' : ''}${Math.abs(transport.speed) === 1 ? '' : `${({ 0.5: '½', 0.25: '¼' } as Record<number, string>)[Math.abs(transport.speed)] ?? Math.abs(transport.speed)}× `}`
  if (!s.hot && s.stride > 1) return `${way}gathering frames: every ${s.stride}${s.stride === 2 ? 'nd' : s.stride === 3 ? 'rd' : 'th'} is shown`
  return `${way}${s.hot ? (s.dropped ? `${s.dropped} dropped in this pass` : 'no frame dropped') : 'gathering frames'}`
})
/** The piece is longer than it may be where guides say so. */
const dropper = useDropper()
dropper.stages++
onScopeDispose(() => {
  dropper.stages--
  dropper.wait = null
})
const guides = useGuides()
const seconds = computed(() => ((doc.face?.frames ?? 0) * (doc.face?.rateD ?? 1)) / (doc.face?.rateN || 1))
const tooLong = computed(() => guides.longest(formatView.value).filter((l) => seconds.value > l.seconds + 1e-9))
/** A frame that was kept, to be compared with others. */
const kept = shallowRef<{ url: string; frame: number; of: string } | null>(null)
function keepFrame() {
  const c = canvas.value
  if (kept.value || !c) return void (kept.value = null)
  const mine = { frame: transport.frame, of: `${doc.key} ${selection.format}` }
  c.toBlob((b) => b && (kept.value = { url: URL.createObjectURL(b), ...mine }))
}
watch(kept, (_, was) => was && URL.revokeObjectURL(was.url))
watch([() => doc.key, () => selection.format], () => (kept.value = null))
onScopeDispose(() => (kept.value = null))
useCommands({ 'compare-frames': keepFrame, guides: guides.toggle, 'next-format': () => selection.nextFormat(), full: () => void toggleFull() })
defineExpose({ at, zoomTo, zoomOver })
</script>

<template>
  <section ref="surround" class="surround" :class="{ full: isFullscreen }" aria-label="Stage" tabindex="-1" data-stage @wheel="(e) => (e.ctrlKey || e.metaKey ? zoomWheel(e) : tool.wheel(e))" @pointerdown.self="selection.pocket = ''" @pointerdown="pan">
    <div class="above">
      <div class="left">
      <div class="formats" role="radiogroup" aria-label="Format">
        <button v-for="f in doc.face!.formats" :key="f.id" role="radio" :aria-checked="selection.format === f.id" :class="{ on: selection.format === f.id }" :data-format="f.id" @click="selection.format = f.id">
          <span class="shape" :style="{ aspectRatio: `${f.width} / ${f.height}` }" /><span class="word">{{ f.name }}</span>
        </button>
      </div>
      <slot name="formats" />
      </div>
      <div v-if="selection.framing && current" class="framing" role="toolbar" aria-label="Framing">
        <strong>Framing {{ pockets.name(selection.pocket) }}</strong>
        <span class="tip">{{ pinning ? 'put the pin on what matters' : 'drag to pan, wheel to zoom' }}</span>
        <button class="icon-button" :class="{ on: current.flipX }" :title="tip('flip-x')" aria-label="Flip left to right" @click="tool.set({ flipX: !current.flipX })"><IconFlipHorizontal :size="17" /></button>
        <button class="icon-button" :class="{ on: current.flipY }" :title="tip('flip-y')" aria-label="Flip top to bottom" @click="tool.set({ flipY: !current.flipY })"><IconFlipVertical :size="17" /></button>
        <button class="icon-button" :class="{ on: pinning }" :aria-pressed="pinning" :title="tip('focus')" aria-label="Set the focus" data-test="focus" @click="pinning = !pinning"><IconFocusCentered :size="17" /></button>
        <button class="icon-button" :title="tip('reset-framing')" aria-label="Reset framing" @click="tool.reset"><IconRefresh :size="17" /></button>
        <NButton size="tiny" type="primary" data-test="framing-done" @click="selection.framing = false">Done</NButton>
      </div>
      <div v-else class="looks" role="toolbar" aria-label="View">
        <NPopselect v-model:value="ground" :options="grounds" trigger="click" :to="false" @update:show="(s: boolean) => s && emit('grounds')">
          <button class="look" data-test="ground" title="What lies under what is clear"><i class="swatch" :class="ground.split(':')[0] || 'none'" /><span class="word">{{ groundName }}</span></button>
        </NPopselect>
        <GuidesMenu :canvas="formatView" />
        <slot name="looks" />
        <button class="look" :class="{ on: kept }" :aria-pressed="!!kept" :aria-label="kept ? 'Compare no longer' : 'Keep this frame to compare'" :title="tip('compare-frames')" data-test="keep-frame" @click="keepFrame"><IconLayersDifference :size="15" /></button>
        <button class="look num" :class="{ on: zoom === 1 }" :aria-pressed="zoom === 1" data-test="true-size" :title="tip('true-size', zoom === 1 ? 'Fit to the window' : 'One pixel for one of the canvas')" @click="zoomTo(zoom === 1 ? 0 : 1)">1:1</button>
        <button v-if="roams && zoom !== 1" class="look num" data-test="fit" :title="tip('fit-stage')" @click="zoomTo(0)">Fit</button>
        <button class="look" :class="{ on: isFullscreen }" :aria-pressed="isFullscreen" aria-label="Full screen" :title="tip('full')" @click="toggleFull"><IconArrowsMaximize :size="15" /></button>
      </div>
    </div>
    <div ref="desk" class="table" :class="{ roams }" @pointerdown.self="selection.pocket = ''" @pointerdown="emit('press', $event)">
      <div class="picture" :style="{ width: `${shownSize.w}px`, height: `${shownSize.h}px` }" :data-quality="said" :data-ground="ground">
        <canvas ref="canvas" :width="size.w || 1" :height="size.h || 1" :aria-label="`Frame ${transport.frame}`" role="img" />
        <OnionSkin v-if="transport.onion && !transport.playing && !transient.op && !transient.look && size.w" :frames="frames" :width="size.w" :height="size.h" />
        <template v-if="!transport.playing && size.w">
          <div v-if="selection.framing && ghost" class="ghosts"><img v-if="pockets.pocket?.media" class="ghost" :src="`/api/media/${pockets.pocket?.media}/thumb?side=1200&frame=${pockets.pocket?.play.in ?? 0}`" :style="ghost" alt="" draggable="false" /><div v-else class="ghost coming" :style="ghost" /></div>
          <slot v-if="!transient.look" name="layers" :outlines="shownOutlines" :format="formatView" :k="k" :size="shownSize" :dropping="dropping" :guides="facts?.guides ?? []" :forms="facts?.forms ?? null" :words="facts?.words[0] ?? null" :enter="tool.enter">
            <StageLayers :outlines="shownOutlines" :format="formatView" :k="k" :size="shownSize" :dropping="dropping" @enter="tool.enter" @files="(p, files) => emit('files', p, files)" />
          </slot>
          <slot v-if="!transient.look" name="over" :format="formatView" :k="k" :size="shownSize" :at="at" :words="facts?.words[0] ?? null" />
          <template v-if="selection.framing && frameBox">
            <div v-show="!dropping" class="grab" :style="frameBox" data-test="grab" @pointerdown="pinning ? tool.focusAt($event) : tool.slide($event)" />
            <div class="turner" :style="turner" title="Turn" @pointerdown="tool.turn"><IconRefresh :size="13" /></div>
            <div v-if="focusPin && pinning" class="focus" data-test="pin" :style="focusPin" title="Focus: the point that is kept in view" @pointerdown="tool.focusAt" />
          </template>
        </template>
        <FrameWipe v-if="kept && size.w" :kept="kept" :frame="transport.frame" @close="kept = null" />
        <StageGuides v-if="size.w" :canvas="formatView" :k="k" />
        <DropperTool v-if="dropper.wait && size.w" :canvas="canvas" :exact="said === 'exact'" />
        <div v-if="loading && !faults.length" class="skeleton" />
      </div>
    </div>
    <div v-if="faults.length" class="faults" role="alert">
      <strong>The stage can't be drawn as it is.</strong>
      <p v-for="f in faults" :key="f">{{ f }}</p>
      <p>What you made is safe.</p>
      <NButton size="small" @click="((drawFailure = ''), frames.reload())">Try again</NButton>
    </div>
    <footer class="below num">
      <span>{{ formatView.px[0] }} × {{ formatView.px[1] }}</span>
      <span>{{ plain(k * 100, 1) }} %</span>
      <span v-for="l in tooLong" :key="l.name" class="long" data-test="too-long" :title="`It is ${plain(seconds, 2)} s long`">{{ plain(seconds - l.seconds, 1) }} s too long for {{ l.name }}</span>
      <span class="how" data-test="how" :data-dropped="transport.state.dropped" :data-hot="transport.state.hot" :data-stride="transport.state.stride">{{ playState }}</span>
    </footer>
  </section>
</template>

<style scoped>
.surround { container: stage / inline-size; position: relative; background: var(--surround); display: grid; grid-template-rows: minmax(44px, auto) minmax(0, 1fr) 28px; grid-template-columns: minmax(0, 1fr); overflow: hidden; min-width: 0; color: #e9e8e2; }
.above { display: flex; align-items: center; justify-content: space-between; padding: 0 12px; gap: 12px; min-width: 0; }
.table { display: grid; place-items: center; min-width: 0; min-height: 0; overflow: hidden; }
.table.roams { place-items: safe center; overflow: auto; padding: 16px; }
.left { display: flex; align-items: center; gap: 6px; min-width: 0; }
.formats { display: flex; gap: 2px; background: rgba(0, 0, 0, 0.2); border-radius: 9px; padding: 3px; flex: none; }
.formats button { display: flex; align-items: center; gap: 7px; border: 0; background: none; color: #dcdbd3; padding: 4px 11px; border-radius: 7px; cursor: pointer; font-weight: 500; white-space: nowrap; }
.formats button.on { background: var(--linen); color: var(--ink); }
.formats button:focus-visible, .look:focus-visible { outline-color: #fff; }
.shape { height: 12px; border: 1.5px solid currentColor; border-radius: 2px; }
.framing { display: flex; align-items: center; gap: 4px; background: var(--linen); color: var(--ink); border-radius: 9px; padding: 2px 6px 2px 11px; white-space: nowrap; min-width: 0; overflow: hidden; }
.framing .tip { color: var(--ink-quiet); margin: 0 6px; overflow: hidden; text-overflow: ellipsis; }
.looks { display: flex; gap: 2px; min-width: 0; }
.look { display: flex; align-items: center; gap: 7px; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; white-space: nowrap; max-width: 190px; overflow: hidden; text-overflow: ellipsis; }
.look:hover { background: rgba(0, 0, 0, 0.2); }
.look.on { background: var(--linen); color: var(--ink); }
.swatch { width: 13px; height: 13px; border-radius: 3px; flex: none; border: 1px solid rgba(255, 255, 255, 0.55); }
.swatch.checker { background: repeating-conic-gradient(#ccc 0 25%, #888 0 50%) 0 0 / 6px 6px; }
.swatch.black { background: #000; }
.swatch.white { background: #fff; }
.swatch.grey { background: #777; }
.swatch.clip { background: linear-gradient(160deg, #d9a66b, #4c6b78); }
.swatch.scenes { background: linear-gradient(90deg, #d99a63 50%, #4c8494 50%); }
.swatch.luma { background: linear-gradient(90deg, #222, #ddd); }
.swatch.alpha { background: linear-gradient(90deg, #000 50%, #fff 50%); }
.surround:focus-visible { outline-offset: -4px; outline-color: #fff; }
.picture { position: relative; user-select: none; box-shadow: 0 1px 10px rgba(0, 0, 0, 0.22); }
canvas { display: block; width: 100%; height: 100%; }
.ghosts { position: absolute; inset: -2000px; overflow: visible; pointer-events: none; }
.ghost { position: absolute; left: 2000px; top: 2000px; transform-origin: 0 0; opacity: 0.34; max-width: none; }
/* What would come into an empty pocket: a box of the canvas' proportions. */
.coming { opacity: 1; background: repeating-linear-gradient(45deg, rgba(255, 255, 255, 0.14) 0 24px, transparent 24px 48px); outline: 6px dashed rgba(255, 255, 255, 0.55); outline-offset: -6px; }
.grab { position: absolute; left: 0; top: 0; transform-origin: 0 0; cursor: grab; touch-action: none; }
.grab:active { cursor: grabbing; }
.turner, .focus { position: absolute; touch-action: none; transform: translate(-50%, -50%); }
.turner { width: 24px; height: 24px; margin-top: -2px; border-radius: 50%; background: var(--linen-raised); color: var(--ivy-deep); display: grid; place-items: center; cursor: grab; box-shadow: 0 0 0 2px #173d2b; }
.focus { width: 22px; height: 22px; border-radius: 50%; border: 2px dashed #fff; box-shadow: 0 0 0 1.5px rgba(20, 30, 25, 0.7), inset 0 0 0 1.5px rgba(20, 30, 25, 0.5); cursor: move; }
.focus::after { content: ''; position: absolute; inset: 6px; border-radius: 50%; background: #ffe9b8; box-shadow: 0 0 0 1px rgba(20, 30, 25, 0.7); }
.skeleton { position: absolute; inset: 0; background: linear-gradient(100deg, #565957 40%, #606361 50%, #565957 60%) 0 0 / 300% 100%; animation: sheen 1.4s linear infinite; }
@keyframes sheen { from { background-position: 120% 0; } to { background-position: -60% 0; } }
.faults { position: absolute; top: 35%; left: 50%; transform: translateX(-50%); width: max-content; max-width: 460px; background: var(--linen-raised); color: var(--ink); border-radius: 12px; padding: 18px 22px; display: grid; gap: 8px; border-left: 5px solid var(--rust); }
.below { display: flex; align-items: center; gap: 18px; padding: 0 16px; color: #d6d5ce; font-size: 11.5px; }
.how { margin-left: auto; }
.long { color: #ffc9b3; font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
/* What is under the picture may be told in fewer letters; no sign is squeezed. */
.looks > :deep(*) { flex: none; }
.looks > .look[data-test='ground'] { flex: 0 1 auto; min-width: 30px; }
.look .word { overflow: hidden; text-overflow: ellipsis; }
@container stage (max-width: 820px) {
  .looks, .looks :deep(.look) { gap: 4px; }
  .looks { gap: 0; }
  .looks :deep(.look) { padding: 5px 6px; }
}
/* Where there is little room shapes stand for words; their names are still told. */
@container stage (max-width: 620px) {
  .framing .tip { display: none; }
  .looks .word { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  .above { padding: 0 8px; gap: 6px; }
  .formats button { padding: 4px 8px; gap: 5px; font-size: 12px; }
}
@container stage (max-width: 480px) {
  .framing strong { display: none; }
  .above { flex-wrap: wrap; row-gap: 0; padding-top: 3px; }
  .looks { flex-wrap: wrap; margin-left: auto; }
  .look { padding: 5px 7px; }
  .formats { flex: 0 1 auto; overflow-x: auto; }
  .below { gap: 10px; padding: 0 10px; white-space: nowrap; overflow: hidden; }
  .below > * { flex: none; }
  .how { flex: 0 1 auto; overflow: hidden; text-overflow: ellipsis; }
}
@media (max-width: 620px) { .surround { grid-template-rows: minmax(40px, auto) minmax(0, 1fr) 22px; } }
</style>
