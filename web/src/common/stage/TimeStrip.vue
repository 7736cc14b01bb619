<script setup lang="ts">
import { IconPlayerPauseFilled, IconPlayerPlayFilled, IconPlayerSkipBackFilled, IconPlayerSkipForwardFilled, IconPlayerTrackNextFilled, IconPlayerTrackPrevFilled } from '@tabler/icons-vue'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Cue, Op } from '../../api/client'
import { tip, useCommands } from '../commands'
import { useDocument } from '../document'
import { useDrag } from '../drag'
import { timecode } from '../format'
import NumberField from '../NumberField.vue'
import SpoolIcon from '../SpoolIcon.vue'
import { useTransient } from '../transient'
import { useTransport } from '../transport'
import { isPlain, seenAt, shownAt } from './elastic'
import PleatRow from './PleatRow.vue'
import { useTimeWindow, type TimeWindow } from './window'

/** With `movesCues` the cues are the designer's: they are dragged along the strip, and `cue` tells where to. With `tries` another length is
 * only tried, and `lasts` tells which. Frames
 * that are `covered` hide what lies beneath. */
const props = defineProps<{ movesCues?: boolean; tries?: boolean; covered?: { from: number; to: number }[] }>()
const emit = defineEmits<{ cue: [string, number]; lasts: [number] }>()
const doc = useDocument()
const transport = useTransport()
const transient = useTransient()
const cloth = ref<HTMLElement>()
const { width } = useElementSize(cloth)

const face = computed(() => doc.face!)
const frames = computed(() => face.value.frames)
const rate = computed(() => face.value.rateN / face.value.rateD)
/** How long the piece is; held spans keep their own time, so that there is a shortest one. */
const elastic = computed(() => !!face.value.stretch && face.value.stretch.longest > face.value.stretch.shortest)
const own = computed(() => face.value.stretch?.own ?? frames.value)
const length = ref<number | null>(null)
watch(frames, (n) => {
  length.value = null
  if (transport.frame >= n) transport.seek(n - 1)
  if (transport.range && transport.range.to > n) transport.range = null
})
async function stretch(n: number) {
  if (props.tries) return emit('lasts', Math.round(n))
  length.value = Math.round(n)
  if (!(await transient.keep(lasts(n)))) length.value = null
}
/** The end of the piece is dragged. */
function pull(n: number, now: 'moving' | 'end' | 'cancel') {
  if (now === 'end' && n !== frames.value) void stretch(n)
  else if (now === 'moving' && n !== frames.value) transient.show(lasts(n))
  else transient.hide()
}
function press(n: number) {
  if (props.tries) return emit('lasts', Math.round(n))
  length.value = Math.round(n)
  transient.soon(lasts(n))
}
const lasts = (n: number): Op => ({ kind: 'frames', frames: Math.round(n) === own.value ? 0 : Math.round(n) })
const tc = (n: number) => timecode(n, face.value.rateN, face.value.rateD, face.value.dropFrame)
const span = useTimeWindow(width, frames, rate)
/** The same for instants of the template, which lie elsewhere when it is longer or shorter; at its own length they are its frames. */
const plain = computed(() => frames.value === own.value || isPlain(face.value.time))
const timed: TimeWindow = {
  ...span,
  frames: own,
  x: (n) => span.x(plain.value ? n : seenAt(face.value.time, n)),
  at: (x) => (plain.value ? span.at(x) : shownAt(face.value.time, span.at(x))),
  sees: (a, b = a) => span.sees(seenAt(face.value.time, a), seenAt(face.value.time, b)),
}
const at = (n: number) => `${span.x(n + 0.5)}px`

/** Marks on the strip: seconds, and single frames where there is room for them. */
const marks = computed(() => {
  const out: { n: number; long: boolean; text: string }[] = []
  const second = Math.round(rate.value)
  const each = Math.max(1, Math.ceil(5 / span.px.value))
  const first = Math.floor(span.from.value / each) * each
  // Numbers stand as near as there is room for them, at seconds and at even parts of one.
  const told = [1, 2, 5, 6, 10, 12, 15].find((n) => second % n === 0 && n * span.px.value > 46) ?? second
  for (let n = Math.max(0, first); n < Math.min(frames.value, span.to.value); n += each) {
    const long = n % second === 0
    if (second % each === 0 || long) out.push({ n, long, text: n % told === 0 && span.px.value * told > 46 ? String(n) : '' })
  }
  return out
})

/** The strip's own keys: arrows go by frames, Shift by ten, Home and End to its ends. All others are commands'. */
function key(e: KeyboardEvent) {
  if (e.ctrlKey || e.metaKey || e.altKey) return
  const by = e.shiftKey ? 10 : 1
  const to = { ArrowLeft: transport.frame - by, ArrowRight: transport.frame + by, ...(e.shiftKey ? {} : { Home: 0, End: frames.value - 1 }) }[e.key]
  if (to === undefined) return
  e.preventDefault()
  e.stopPropagation()
  go(to)
}

const drag = useDrag()
/** The frame at a place on the screen. */
function frameAt(x: number): number {
  const r = cloth.value!.getBoundingClientRect()
  return Math.max(0, Math.min(frames.value - 1, Math.floor(span.at(x - r.left - cloth.value!.clientLeft))))
}
/** A cue that is dragged, and where it is. */
const moving = ref<{ id: string; frame: number } | null>(null)
const cues = computed(() =>
  face.value.cues.map((c: Cue & { id?: string }) => {
    const id = c.id ?? c.name
    return { id, name: c.name, frame: moving.value?.id === id ? moving.value.frame : c.frame }
  }),
)
watch(
  () => face.value.cues,
  () => (moving.value = null),
)
const seen = computed(() => cues.value.filter((c) => span.sees(c.frame + 0.5)))

/** What is seen of all the time, where it is not all of it: dragged along. */
function roll(e: PointerEvent) {
  const was = span.from.value
  const long = span.to.value - was
  const to = (dx: number) => {
    const first = Math.max(0, Math.min(frames.value - long, was + (dx / width.value) * frames.value))
    span.show(first, first + long)
  }
  drag(e, { move: (d) => to(d.dx), cancel: () => span.show(was, was + long) })
}
function slide(e: PointerEvent, c: { id: string; frame: number }) {
  if (!props.movesCues) return
  const before = transport.frame
  const away = frameAt(e.clientX) - c.frame
  const to = (x: number) => Math.max(0, Math.min(frames.value - 1, frameAt(x) - away))
  drag(e, {
    slack: 3,
    move: (d) => {
      moving.value = { id: c.id, frame: to(d.x) }
      transport.seek(moving.value.frame)
    },
    end: (d) => emit('cue', c.id, to(d.x)),
    press: () => go(c.frame),
    cancel: () => {
      moving.value = null
      transport.seek(before)
    },
  })
}
/** The same by keys. */
function nudge(e: KeyboardEvent, c: { id: string; frame: number }) {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (!props.movesCues || !way) return
  e.preventDefault()
  e.stopPropagation()
  const frame = Math.max(0, Math.min(frames.value - 1, c.frame + way * (e.shiftKey ? 10 : 1)))
  if (frame === c.frame) return
  go(frame)
  emit('cue', c.id, frame)
}
function scrub(e: PointerEvent) {
  const before = { frame: transport.frame, range: transport.range }
  if (e.shiftKey) {
    // With Shift a range to be looped is marked.
    const first = frameAt(e.clientX)
    const mark = (x: number) => transport.mark(Math.min(first, frameAt(x)), Math.max(first, frameAt(x)) + 1)
    drag(e, { move: (d) => mark(d.x), press: () => mark(e.clientX), cancel: () => (transport.range = before.range) })
    return
  }
  const over = () => (transport.scrubbing = false)
  const begun = drag(e, {
    move: (d) => transport.seek(frameAt(d.x)),
    end: over,
    press: over,
    cancel: () => {
      over()
      transport.seek(before.frame)
    },
  })
  if (!begun) return
  transport.scrubbing = true
  transport.seek(frameAt(e.clientX))
}
function go(n: number) {
  transport.seek(n)
}
const step = (way: 1 | -1) => (e: KeyboardEvent) => go(transport.frame + way * (e.shiftKey ? 10 : 1))
useCommands({
  play: () => transport.toggle(),
  backwards: () => transport.shuttle(-1),
  stop: () => (transport.playing = false),
  forwards: () => transport.shuttle(1),
  slower: () => transport.slower(),
  'loop-from': () => transport.loopFrom(),
  'loop-to': () => transport.loopTo(),
  'loop-all': () => (transport.range = null),
  back: step(-1),
  on: step(1),
  'step-back': step(-1),
  'step-on': step(1),
  first: () => go(0),
  last: () => go(frames.value - 1),
  'cue-before': () => go([...face.value.cues].reverse().find((c) => c.frame < transport.frame)?.frame ?? 0),
  'cue-after': () => go(face.value.cues.find((c) => c.frame > transport.frame)?.frame ?? frames.value - 1),
})
</script>

<template>
  <footer class="time" :class="{ tall: $slots.bars }" aria-label="Time">
    <div class="transport" data-time>
      <slot name="before" />
      <button class="icon-button ends" :title="tip('first', 'First frame')" aria-label="First frame" @click="go(0)"><IconPlayerTrackPrevFilled :size="15" /></button>
      <button class="icon-button" :title="tip('back', 'One frame back')" aria-label="One frame back" @click="go(transport.frame - 1)"><IconPlayerSkipBackFilled :size="15" /></button>
      <button class="play" :title="tip('play', transport.playing ? 'Stop' : 'Play')" :aria-label="transport.playing ? 'Stop' : 'Play'" data-test="play" @click="transport.toggle()">
        <component :is="transport.playing ? IconPlayerPauseFilled : IconPlayerPlayFilled" :size="18" />
      </button>
      <button class="icon-button" :title="tip('on', 'One frame on')" aria-label="One frame on" @click="go(transport.frame + 1)"><IconPlayerSkipForwardFilled :size="15" /></button>
      <button class="icon-button ends" :title="tip('last', 'Last frame')" aria-label="Last frame" @click="go(frames - 1)"><IconPlayerTrackNextFilled :size="15" /></button>
      <button class="pace num" :class="{ on: transport.pace !== 1 }" :title="tip('slower')" :aria-label="`${{ 1: '1×', 0.5: '½×', 0.25: '¼×' }[transport.pace]}, how fast it plays`" data-test="pace" @click="transport.slower()">{{ { 1: '1×', 0.5: '½×', 0.25: '¼×' }[transport.pace] }}</button>
    </div>
    <div class="clock">
      <span class="num tc" data-test="timecode">{{ tc(transport.frame) }}</span>
      <span class="under"><button v-if="transport.range" class="num range" :title="tip('loop-all')" data-test="unloop" @click="transport.range = null">loops {{ transport.range.from }}–{{ transport.range.to - 1 }} ×</button>
      <span class="num quiet"><template v-if="!transport.range && plain">frame </template><b data-test="frame">{{ transport.frame }}</b><template v-if="!transport.range"> of {{ frames }}<span v-if="!plain" data-test="shows">, shows {{ Math.round(transport.shows * 100) / 100 }}</span><span v-else class="rate"> at {{ face.rate }}</span></template></span></span>
    </div>
    <div class="duration" :title="elastic ? `Held time keeps its length: no shorter than ${face.stretch!.shortest} frames. Double-click: the template’s ${own}` : face.stretch ? 'All of this template’s time is held' : 'Its length is the template’s'">
      <SpoolIcon kind="duration" />
      <NumberField label="Duration" unit="frames" :value="length ?? frames" :min="face.stretch?.shortest" :max="face.stretch?.longest" :reset="own" :places="0" :readonly="!elastic" data-test="duration" @press="press" @change="stretch" />
      <span class="num quiet">{{ tc(length ?? frames) }}<template v-if="frames !== own">, was {{ own }}</template></span>
    </div>
    <div class="band">
      <slot name="bars" :span="timed" />
      <div id="time-cloth" ref="cloth" class="clothstrip" role="slider" tabindex="0" aria-label="Playhead" :aria-valuemin="0" :aria-valuemax="frames - 1" :aria-valuenow="transport.frame" :aria-valuetext="tc(transport.frame)"
        @pointerdown="scrub" @wheel="span.wheel($event, cloth!.getBoundingClientRect().left + cloth!.clientLeft)" @keydown="key">
        <div class="inner">
          <i v-for="c in transport.cached" :key="`c${c.from}`" class="cached" data-test="cached" :style="{ left: `${span.x(c.from)}px`, width: `${(c.to - c.from) * span.px.value}px` }" />
          <i v-for="r in covered" :key="`v${r.from}`" class="covers" data-test="covers" :title="`Frames ${r.from} to ${r.to - 1} cover all of what lies beneath`" :style="{ left: `${span.x(r.from)}px`, width: `${(r.to - r.from) * span.px.value}px` }" />
          <i v-if="transport.range" class="loop" data-test="loop" :style="{ left: `${span.x(transport.range.from)}px`, width: `${(transport.range.to - transport.range.from) * span.px.value}px` }" />
          <i v-for="m in marks" :key="m.n" class="mark" :class="{ long: m.long }" :style="{ left: `${span.x(m.n)}px` }"><b v-if="m.text" class="num">{{ m.text }}</b></i>
          <i v-for="c in cues" :key="`q${c.id}`" class="stitch" :style="{ left: at(c.frame) }" />
        </div>
        <div v-show="span.sees(transport.frame + 0.5)" class="needle" :style="{ transform: `translateX(${span.x(transport.frame + 0.5)}px) translateX(-50%)` }"><svg width="15" height="62" viewBox="0 0 15 62" aria-hidden="true"><path d="M7.500 62 V14" stroke="#B4492B" stroke-width="1.600" /><path d="M7.500 1 C11 1 12.500 4 12.500 7.500 C12.500 11 10 15 7.500 18 C5 15 2.500 11 2.500 7.500 C2.500 4 4 1 7.500 1Z" fill="#B4492B" /><circle cx="7.500" cy="6.500" r="2" fill="#FBFAF5" /></svg></div>
      </div>
      <slot name="pleats" :span="span"><PleatRow v-if="elastic" :span="span" :time="face.time" :ends="elastic" :shortest="face.stretch!.shortest" :longest="face.stretch!.longest" @lasts="pull" /></slot>
      <div v-if="transport.window" class="reel" data-test="time-window">
        <i class="piece" role="scrollbar" aria-orientation="horizontal" aria-label="What is seen of the time" aria-controls="time-cloth" :aria-valuenow="Math.round(span.from.value)" aria-valuemin="0" :aria-valuemax="frames" tabindex="0" :style="{ left: `${(span.from.value / frames) * 100}%`, width: `${((span.to.value - span.from.value) / frames) * 100}%` }"
          @pointerdown="roll" @keydown.left.prevent.stop="span.pan(-width / 4)" @keydown.right.prevent.stop="span.pan(width / 4)" />
        <button class="num" title="Look at all of the time again" data-test="time-all" @click="transport.window = null">{{ Math.round(span.from.value) }}–{{ Math.round(span.to.value) - 1 }} of {{ frames }} ×</button>
      </div>
      <div class="cues">
        <button v-for="c in seen" :key="c.id" class="cue" :class="{ early: span.x(c.frame) / width < 0.04, late: span.x(c.frame) / width > 0.92, slides: movesCues }" :style="{ left: at(c.frame) }" :data-cue="c.id"
          :title="movesCues ? `${c.name}, frame ${c.frame}: drag it, or move it by the arrow keys` : `${c.name}, frame ${c.frame}`" @click="(!movesCues || $event.detail === 0) && go(c.frame)" @pointerdown="slide($event, c)" @keydown="nudge($event, c)">
          {{ c.name }}
        </button>
      </div>
    </div>
  </footer>
</template>

<style scoped>
.time { display: grid; grid-template-columns: auto 168px 196px minmax(0, 1fr); align-items: center; gap: 16px; padding: 8px 18px 6px 14px; min-height: 104px; }
/* With layers over it the strip has all of the width; what moves the playhead stands above. */
.time.tall { grid-template-columns: auto auto 210px minmax(0, 1fr); grid-template-rows: auto auto; gap: 6px 22px; padding-top: 7px; }
.tall .band { grid-column: 1 / -1; }
.tall .play { width: 32px; height: 32px; }
.tall .clock { display: flex; align-items: baseline; gap: 10px; }
.transport { display: flex; align-items: center; gap: 1px; }
.play { width: 40px; height: 40px; border-radius: 50%; border: 0; background: var(--ivy); color: #fff; display: grid; place-items: center; cursor: pointer; margin: 0 4px; }
.pace { border: 0; background: none; border-radius: 6px; min-width: 30px; height: 26px; padding: 0 4px; cursor: pointer; color: var(--ink-quiet); font-size: 12px; }
.pace:hover { background: var(--linen-deep); }
.pace.on { background: var(--ivy-wash); color: var(--ivy-deep); font-weight: 600; }
.play:hover { background: #37805d; }
.play:active { background: var(--ivy-deep); }
.clock { display: grid; gap: 1px; min-width: 0; overflow: hidden; }
.tc { font-size: 20px; font-weight: 500; letter-spacing: -0.02em; }
.clock b { font-weight: 500; color: var(--ink); }
.clock .quiet { font-size: 11px; white-space: nowrap; }
.duration { display: grid; grid-template-columns: auto minmax(0, 1fr); gap: 2px 7px; align-items: center; }
.duration .quiet { grid-column: 2; font-size: 11px; padding-left: 9px; }
.band { display: grid; gap: 3px; min-width: 0; }
.clothstrip { user-select: none; position: relative; height: 46px; border-radius: 6px; border: 1px solid var(--rule-strong); background: #f3eee1; cursor: ew-resize; touch-action: none;
  background-image: repeating-linear-gradient(0deg, rgba(120, 105, 70, 0.2) 0 1px, transparent 1px 5px), repeating-linear-gradient(90deg, rgba(120, 105, 70, 0.2) 0 1px, transparent 1px 5px); }
/* Loose weave is pressed to cloth where frames are at hand. */
.cached { position: absolute; top: 0; bottom: 0; pointer-events: none; background-color: #e4dcc8;
  background-image: repeating-linear-gradient(0deg, rgba(120, 105, 70, 0.1) 0 1px, transparent 1px 2px), repeating-linear-gradient(90deg, rgba(120, 105, 70, 0.1) 0 1px, transparent 1px 2px); }
.inner { position: absolute; inset: 0; overflow: hidden; border-radius: 5px; }
.reel { position: relative; height: 16px; margin-top: 1px; border-radius: 5px; background: var(--linen-deep); }
.reel .piece { position: absolute; top: 2px; bottom: 2px; border-radius: 4px; background: #b9b199; cursor: grab; touch-action: none; min-width: 12px; }
.reel button { position: absolute; right: 0; top: 0; height: 16px; border: 0; border-radius: 5px; background: var(--ivy-wash); color: var(--ivy-deep); font-size: 10.5px; padding: 0 6px; cursor: pointer; }
.stitch { position: absolute; top: 3px; bottom: 0; width: 2px; margin-left: -1px; pointer-events: none; background: repeating-linear-gradient(180deg, var(--ivy) 0 6px, transparent 6px 10px); }
.loop { position: absolute; top: 4px; bottom: 0; background: rgba(46, 107, 78, 0.13); border: solid var(--ivy); border-width: 0 2px; pointer-events: none; }
.under { display: flex; align-items: baseline; gap: 7px; flex-direction: row-reverse; justify-content: flex-end; }
.range { border: 0; background: var(--ivy-wash); color: var(--ivy-deep); border-radius: 5px; font-size: 11px; padding: 1px 6px; cursor: pointer; justify-self: start; white-space: nowrap; }
.covers { position: absolute; top: 0; height: 7px; background: repeating-linear-gradient(-45deg, #2f3b36 0 4px, #47564f 4px 7px); pointer-events: none; border-radius: 0 0 3px 3px; }
.mark { position: absolute; bottom: 0; width: 1px; height: 5px; background: #a99f88; pointer-events: none; }
.mark.long { height: 12px; background: #857b63; }
.mark b { position: absolute; left: 4px; bottom: 2px; font-weight: 400; font-size: 10px; color: var(--ink); font-style: normal; }
/* On a layer of its own: the cloth below it is not painted anew when it moves. */
.needle { position: absolute; left: 0; top: -9px; will-change: transform; pointer-events: none; height: 56px; overflow: hidden; }
.cues { position: relative; height: 18px; }
.cue { position: absolute; transform: translateX(-50%); border: 0; background: none; padding: 0; font-size: 11px; color: var(--ivy-deep); cursor: pointer; white-space: nowrap; }
.cue.slides { cursor: ew-resize; touch-action: none; }
.cue.late { transform: translateX(calc(8px - 100%)); }
.cue.early { transform: translateX(-2px); }
.cue:hover { text-decoration: underline; }
/* Little height, as at 200 % zoom: the cloth gives way first. */
@media (max-height: 560px) {
  .time { min-height: 68px; padding-top: 6px; padding-bottom: 2px; }
  .clothstrip { height: 28px; }
  .needle { height: 38px; }
  .tc { font-size: 17px; }
  .play { width: 34px; height: 34px; }
}
@media (max-width: 1000px) {
  .time { grid-template-columns: auto 152px 116px minmax(0, 1fr); gap: 10px; }
  .tc { font-size: 16px; }
  .ends, .pace:not(.on), .duration :deep(.label) { display: none; }
  .duration :deep(.value) { margin-left: auto; }
}
/* One column: what moves the playhead, and below it the cloth. */
@media (max-width: 620px) {
  .rate { display: none; }
  .time { grid-template-columns: auto minmax(0, 1fr) 122px; gap: 6px 10px; padding: 6px 12px 2px; min-height: 0; }
  .band { grid-column: 1 / -1; }
  .clothstrip { height: 34px; }
  .needle { height: 44px; }
  .clock .quiet { overflow: hidden; text-overflow: ellipsis; }
}
</style>
