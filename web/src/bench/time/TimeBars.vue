<script setup lang="ts">
import { IconChevronDown, IconChevronRight, IconLeaf } from '@tabler/icons-vue'
import { useEventListener, useLocalStorage, useVirtualList } from '@vueuse/core'
import { computed, ref, toRef, watch } from 'vue'

import type { LayerLine, PerformanceLine, TrackLine } from '../../api/client'
import { useDocument } from '../../common/document'
import { useDrag, type Drag } from '../../common/drag'
import { useSelection } from '../../common/selection'
import { useTransient } from '../../common/transient'
import type { TimeWindow } from '../../common/stage/window'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import ClipStrip from './ClipStrip.vue'
import { useInstants } from './instants'
import { useKeyDrag } from './keydrag'
import KeysBar from './KeysBar.vue'
import { iconOfLayer, tint } from '../kinds'
import { useLength } from './length'
import PerformanceBar from './PerformanceBar.vue'
import { keyPath, useMotion } from './motion'
import { useRows } from '../rows'
import { useTool } from '../tool'
import TrackLeaves from './TrackLeaves.vue'

/**
 * Layers in time: each a bar from when it is there to when it is gone, slid and trimmed; below it, unfolded, a row for each
 * property that moves, with its keys. Names stand on the bars.
 */
const props = defineProps<{ span: TimeWindow }>()
const width = toRef(() => props.span.width.value)
const frames = toRef(() => props.span.frames.value)
const px = toRef(() => props.span.px.value)
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const transport = useTransport()
const tool = useTool()
const motion = useMotion()
const length = useLength()
const { act, around, locked, does } = useActs()
const drag = useDrag()
const instants = useInstants(() => props.span)
const keyDrag = useKeyDrag(() => props.span)
const { tree, isFolded, fold } = useRows()

const onlyMoves = useLocalStorage('ivy-bars-moves', false)
type Line = { y: LayerLine; track?: TrackLine; performs?: PerformanceLine; id: string }
/** What moves of a layer, a row each: keys of its own, then what it performs, with the keys of that where they are unfolded. */
const within = (y: LayerLine): Line[] => [
  ...y.tracks.filter((t) => !t.by).map((track) => ({ y, track, id: track.path })),
  ...y.performs.flatMap((performs) => [{ y, performs, id: `${y.id} ${performs.id}` }, ...(motion.isOpen(`${y.id} ${performs.id}`) ? y.tracks.filter((t) => t.by === performs.id).map((track) => ({ y, track, id: track.path })) : [])]),
]
/** So many rows there are, at least. */
const lines = (y: LayerLine) => y.tracks.filter((t) => !t.by).length + y.performs.length
const rows = computed<Line[]>(() =>
  tree.value
    .filter((r) => !around(r.y.id).some(isFolded) && (!onlyMoves.value || r.y.motion || r.y.tracks.length > 0))
    .flatMap((r) => [{ y: r.y, id: r.y.id }, ...(motion.isOpen(r.y.id) ? within(r.y) : [])]),
)
const HIGH = 24
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(rows, { itemHeight: HIGH, overscan: 6 })
watch(() => selection.layer, (id) => {
  const i = rows.value.findIndex((r) => r.id === id)
  const el = containerProps.ref.value
  if (i >= 0 && el && (i * HIGH < el.scrollTop || (i + 1) * HIGH > el.scrollTop + el.clientHeight)) scrollTo(i)
})

type Way = 'slide' | 'in' | 'out'
/** What is dragged, and by how many frames. */
const moving = ref<{ ids: string[]; way: Way; by: number } | null>(null)
watch(() => doc.draft?.revision, () => (moving.value = null))
/** It is in one of these groups. */
const isIn = (y: LayerLine, ids: string[]) => around(y.id).some((g) => ids.includes(g))
const clamp = (v: number, lo: number, hi: number) => Math.max(lo, Math.min(hi, v))
function bar(y: LayerLine) {
  let [from, until] = [y.from, y.until]
  let keys = 0
  const m = moving.value
  const inner = !!m && m.way === 'slide' && isIn(y, m.ids)
  if (m && (inner || m.ids.includes(y.id))) {
    if (m.way === 'slide') {
      keys = m.by
      // In a group that is slid an end that is the template's stays.
      if (!inner || from !== 0) from += m.by
      if (!inner || until !== frames.value) until += m.by
    }
    if (m.way === 'in') from = clamp(Math.max(0, from) + m.by, 0, until - 1)
    if (m.way === 'out') until = clamp(Math.min(frames.value, until) + m.by, from + 1, frames.value)
  }
  const [a, b] = [clamp(from, 0, frames.value), clamp(until, 0, frames.value)]
  // What lies far beside what is seen need not be drawn there.
  const [left, right] = [clamp(props.span.x(a), -40, width.value + 40), clamp(props.span.x(b), -40, width.value + 40)]
  return { left, width: Math.max(3, right - left), gone: b <= a, keys }
}
/** All keys of a layer, those at the same instant as one leaf. */
function leavesOf(y: LayerLine, by: number) {
  const out = new Map<number, string[]>()
  for (const t of y.tracks) {
    if (t.by) continue // those of saved moves are on their rows
    for (const k of t.keys) {
      const path = keyPath(t.path, k.id)
      const at = keyDrag.shown.value(path, k.at) + by
      out.set(at, [...(out.get(at) ?? []), path])
    }
  }
  return [...out].map(([at, paths]) => ({ at, paths, x: props.span.x(at + 0.5), on: paths.every((p) => motion.isPicked.has(p)) })).filter((l) => l.x >= -6 && l.x <= width.value + 6)
}
/** The buttons at the left of a row. */
const pad = (y: LayerLine) => 4 + (y.holds ? 17 : 0) + (lines(y) ? 17 : 0)
/** Where the name stands: on the bar, or beside one that is too short for it. */
function named(y: LayerLine, b: ReturnType<typeof bar>) {
  const need = 26 + y.name.length * 6.5
  return b.width >= need || b.left + b.width + need > width.value ? { left: Math.max(pad(y), Math.min(b.left + 20, width.value - need)), on: b.width >= need } : { left: b.left + b.width + 6, on: false }
}

const shown = computed(() => list.value.map(({ data, index }) => {
  const b = bar(data.y)
  return { ...data, index, b, name: data.track || data.performs ? null : named(data.y, b), leaves: data.track || data.performs ? [] : leavesOf(data.y, b.keys), slid: b.keys }
}))
const strips = useLocalStorage('ivy-bars-strips', false)

function take(e: PointerEvent, y: LayerLine, way: Way) {
  if (e.button !== 0) return
  e.stopPropagation()
  const was = selection.layers
  if (e.shiftKey || e.ctrlKey || e.metaKey) selection.layers = was.includes(y.id) ? was.filter((x) => x !== y.id) : [...was, y.id]
  else if (!was.includes(y.id)) selection.layers = [y.id]
  tool.inside = around(y.id)[0] ?? ''
  const ids = selection.layers
  if (!ids.includes(y.id) || locked(y.id) || length.away()) return
  const of = doc.draft!.layers.filter((x) => ids.includes(x.id))
  const to = instants.all({ layer: (id) => ids.includes(id) || around(id).some((g) => ids.includes(g)) })
  const edges = of.flatMap((x) => (way === 'slide' ? [x.from, x.until] : [way === 'in' ? x.from : x.until]))
  const by = (d: Drag) => {
    const n = Math.round(d.dx / px.value)
    return d.ctrl ? n : instants.drawn(edges, n, to)
  }
  const op = (n: number) => act(way === 'slide' ? { kind: 'slide', frames: n, layers: ids } : { kind: 'trim', way, frames: n, layers: ids })
  drag(e, {
    slack: 3,
    move: (d) => {
      const n = by(d)
      if (moving.value?.by === n) return
      moving.value = { ids, way, by: n }
      if (n) transient.show(op(n))
      else transient.hide()
    },
    end: (d) => {
      const n = by(d)
      if (!n) return void (moving.value = null)
      void transient.keep(op(n)).then((kept) => kept || (moving.value = null))
    },
    press: () => {
      if (!e.shiftKey && !e.ctrlKey && !e.metaKey) selection.layers = [y.id]
    },
    cancel: () => {
      moving.value = null
      transient.hide()
    },
  })
}
/** By keys: a bar is slid by arrows, with Alt its end is trimmed, with Alt and Shift its beginning. */
function key(e: KeyboardEvent, y: LayerLine, i: number) {
  const n = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (motion.picked.length && n) return // it is the keys that are moved
  const to = { ArrowUp: -1, ArrowDown: 1 }[e.key]
  const ids = selection.layers.includes(y.id) ? selection.layers : [y.id]
  if (n && e.altKey) void does({ kind: 'trim', way: e.shiftKey ? 'in' : 'out', frames: n, layers: ids })
  else if (n) void does({ kind: 'slide', frames: n * (e.shiftKey ? 10 : 1), layers: ids })
  else if (to) {
    let j = i + to
    while (rows.value[j]?.track || rows.value[j]?.performs) j += to
    const next = rows.value[j]
    if (!next) return
    selection.layers = [next.y.id]
    scrollTo(Math.max(0, j - 2))
    void Promise.resolve().then(() => requestAnimationFrame(() => containerProps.ref.value?.querySelector<HTMLElement>(`[data-bar=${JSON.stringify(next.y.id)}]`)?.focus()))
  } else if (e.key === 'Enter') selection.layers = [y.id]
  else return
  e.preventDefault()
  e.stopPropagation()
}

/** The time that picked keys take, as it is while they are dragged. */
const scaled = computed(() => {
  const s = motion.span ?? { from: 0, to: 0 }
  const to = keyDrag.moving.value?.to ?? ((at: number) => at)
  return { from: to(s.from), to: to(s.to) }
})

/** A box around keys picks them; with Shift they come to those that are. */
const box = ref<{ x: number; y: number; w: number; h: number } | null>(null)
function mark(e: PointerEvent) {
  const el = containerProps.ref.value
  if (!el || e.button !== 0 || (e.target as Element).closest('.bar, .leaf, button')) return
  const r = el.getBoundingClientRect()
  const was = e.shiftKey ? motion.picked : []
  const from = { x: e.clientX - r.left, y: e.clientY - r.top + el.scrollTop }
  drag(e, {
    slack: 3,
    move: (d) => {
      // At an edge the rows go along.
      if (d.y < r.top + 12) el.scrollTop -= 8
      if (d.y > r.bottom - 12) el.scrollTop += 8
      const to = { x: d.x - r.left, y: d.y - r.top + el.scrollTop }
      const b = { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), w: Math.abs(to.x - from.x), h: Math.abs(to.y - from.y) }
      box.value = { ...b, y: b.y - el.scrollTop }
      const inside: string[] = []
      for (let i = Math.max(0, Math.floor(b.y / HIGH)); i <= Math.min(rows.value.length - 1, Math.floor((b.y + b.h) / HIGH)); i++) {
        const row = rows.value[i]!
        // Leaves stand in the middle of a property's row, and at the foot of a layer's.
        const at = i * HIGH + (row.track ? HIGH / 2 : HIGH - 5)
        if (at < b.y || at > b.y + b.h) continue
        for (const t of row.track ? [row.track] : row.performs ? [] : row.y.tracks.filter((x) => !x.by)) {
          for (const k of t.keys) {
            const x = props.span.x(k.at + 0.5)
            if (x >= b.x && x <= b.x + b.w) inside.push(keyPath(t.path, k.id))
          }
        }
      }
      motion.pick([...new Set([...was, ...inside])])
    },
    end: () => (box.value = null),
    press: () => !e.shiftKey && (motion.picked = []),
    cancel: () => {
      box.value = null
      motion.picked = was
    },
  })
}
useEventListener(containerProps.ref, 'wheel', (e: WheelEvent) => props.span.wheel(e, containerProps.ref.value!.getBoundingClientRect().left), { passive: false })
</script>

<template>
  <div class="bars" data-test="bars">
    <div class="head">
      <KeysBar :span="span" />
      <label v-if="!motion.picked.length"><input v-model="strips" type="checkbox" data-test="clip-strips"> Clips</label>
      <label v-if="!motion.picked.length"><input v-model="onlyMoves" type="checkbox" data-test="only-moves"> Only what moves</label><span class="quiet num">{{ rows.length }}</span>
    </div>
    <div v-bind="containerProps" class="rows" role="list" aria-label="Layers in time" @pointerdown="mark">
      <div v-bind="wrapperProps">
        <template v-for="r in shown" :key="r.id">
        <div v-if="r.track" class="row track" role="listitem" :class="{ quiet: r.y.hidden, on: selection.layers.includes(r.y.id) }" :data-track="r.track.path">
          <TrackLeaves :track="r.track" :span="span" :shown="(path, at) => keyDrag.shown.value(path, at) + r.slid" :high="HIGH" @take="(e, keys) => keyDrag.take(e, keys)" @go="transport.seekTo" />
          <button class="label" tabindex="-1" :title="`${r.y.name}, ${r.track.label}: pick its keys`" @click="motion.pick(r.track.keys.map((k) => keyPath(r.track!.path, k.id)), $event.shiftKey)">{{ r.track.label }}</button>
        </div>
        <PerformanceBar v-else-if="r.performs" :y="r.y" :line="r.performs" :span="span" :slid="r.slid" :class="{ quiet: r.y.hidden, on: selection.layers.includes(r.y.id) }" />
        <div v-else class="row" role="listitem" :class="{ inside: r.y.depth > 0, quiet: r.y.hidden, clipped: strips && r.y.pocket }">
          <ClipStrip v-if="strips && r.y.pocket" :line="r.y" :left="r.b.left" :width="r.b.width" :span="span" />
          <button v-if="r.y.holds" class="fold" tabindex="-1" :aria-label="`${isFolded(r.y.id) ? 'Unfold' : 'Fold'} ${r.y.name}`" @click="fold(r.y.id)"><component :is="isFolded(r.y.id) ? IconChevronRight : IconChevronDown" :size="12" /></button>
          <button v-if="lines(r.y)" class="fold tracks" tabindex="-1" :class="{ open: motion.isOpen(r.y.id) }" :style="{ left: r.y.holds ? '17px' : '0' }" :data-tracks="r.y.id" :aria-expanded="motion.isOpen(r.y.id)" :aria-label="`What moves of ${r.y.name}`" :title="`What moves of it: ${lines(r.y) === 1 ? 'one row' : `${lines(r.y)} rows`}`" @click="motion.open(r.y.id)"><IconLeaf :size="12" /></button>
          <div class="bar" tabindex="0" role="button" :data-bar="r.y.id" :class="{ on: selection.layers.includes(r.y.id), locked: r.y.locked, gone: r.b.gone, group: r.y.holds }" :style="{ left: `${r.b.left}px`, width: `${r.b.width}px`, '--thread': tint(r.y.thread) }"
            :aria-label="`${r.y.name}: from frame ${Math.round(r.y.from)} up to ${Math.round(r.y.until)}`" :aria-pressed="selection.layers.includes(r.y.id)" :title="`${r.y.name}: frames ${Math.round(r.y.from)} to ${Math.round(r.y.until) - 1}. Drag, or arrows: slide; its ends, or Alt and arrows: trim`"
            @pointerdown="take($event, r.y, 'slide')" @keydown="key($event, r.y, r.index)">
            <i class="end" :data-bar-in="r.y.id" @pointerdown="take($event, r.y, 'in')" /><i class="end out" :data-bar-out="r.y.id" @pointerdown="take($event, r.y, 'out')" />
          </div>
          <span v-if="r.name" class="name" :class="{ off: !r.name.on }" :style="{ left: `${r.name.left}px` }"><component :is="iconOfLayer(r.y)" :size="12" />{{ r.y.name }}</span>
          <i v-for="p in r.y.performs" v-show="!motion.isOpen(r.y.id) && !p.off" :key="p.id" class="does" :style="{ left: `${span.x(p.from + r.slid)}px`, width: `${(p.until - p.from) * px}px` }" />
          <svg v-if="r.leaves.length" class="leaves" :width="width" height="10"><g v-for="l in r.leaves" :key="l.at" class="leaf" :class="{ on: l.on }" :transform="`translate(${l.x} 5)`" :data-leaf="`${r.y.id} ${l.at}`" @pointerdown="keyDrag.take($event, l.paths)" @dblclick.stop="transport.seekTo(Math.round(l.at))"><rect x="-5" y="-5" width="10" height="10" fill="transparent" /><path d="M0 4.500C-3.200 2 -3.200 -2 0 -4.500 3.200 -2 3.200 2 0 4.500Z" /></g></svg>
        </div>
        </template>
      </div>
    </div>
    <i v-if="box" class="box" :style="{ left: `${box.x}px`, top: `${box.y}px`, width: `${box.w}px`, height: `${box.h}px` }" />
    <i v-show="span.sees(transport.shows + 0.5)" class="playhead" :style="{ transform: `translateX(${span.x(transport.shows + 0.5)}px)` }" />
    <div v-if="motion.span && motion.span.to > motion.span.from" class="picked" data-test="keys-span" :style="{ left: `${span.x(scaled.from + 0.5)}px`, width: `${(scaled.to - scaled.from) * px}px` }"><i class="grab" data-test="keys-from" title="Drag: the time between the picked keys; Alt: about its middle" @pointerdown="keyDrag.scale($event, 'from')" /><i class="grab to" data-test="keys-to" title="Drag: the time between the picked keys; Alt: about its middle" @pointerdown="keyDrag.scale($event, 'to')" /></div>
  </div>
</template>

<style scoped>
.bars { position: relative; user-select: none; display: grid; grid-template-rows: minmax(0, 1fr); min-height: 0; height: 100%; }
.head { position: absolute; right: 0; top: -26px; display: flex; gap: 10px; align-items: center; justify-content: flex-end; font-size: 11px; padding: 0 2px 3px; }
.head label { display: flex; align-items: center; gap: 5px; cursor: pointer; }
.rows { overflow-x: hidden !important; }
.row { position: relative; height: 24px; border-bottom: 1px solid var(--rule); }
.row.quiet { opacity: 0.55; }
.fold { position: absolute; left: 0; top: 3px; z-index: 3; width: 17px; height: 17px; padding: 0; border: 0; border-radius: 4px; background: rgba(255, 254, 250, 0.8); display: grid; place-items: center; cursor: pointer; }
.bar { position: absolute; top: 2px; height: 19px; border-radius: 5px; background: color-mix(in srgb, var(--thread) 17%, #fffefa); border: 1px solid color-mix(in srgb, var(--thread) 55%, transparent); cursor: grab; touch-action: none; }
.bar.group { background: repeating-linear-gradient(100deg, color-mix(in srgb, var(--thread) 22%, #fffefa) 0 7px, color-mix(in srgb, var(--thread) 12%, #fffefa) 7px 14px); }
.bar.on { border-color: var(--ivy); box-shadow: 0 0 0 1px var(--ivy); background-color: var(--ivy-wash); }
.bar.locked { cursor: default; border-style: dashed; }
.bar.gone { opacity: 0.4; }
.bar:focus-visible { outline-offset: 1px; }
.end { position: absolute; left: -3px; top: -1px; bottom: -1px; width: 9px; cursor: ew-resize; touch-action: none; }
.end.out { left: auto; right: -3px; }
.bar:hover .end::after, .bar.on .end::after { content: ''; position: absolute; left: 5px; top: 4px; bottom: 4px; width: 2px; border-radius: 1px; background: var(--thread); }
.bar:hover .end.out::after, .bar.on .end.out::after { left: auto; right: 5px; }
.inside .bar { top: 4px; height: 15px; }
.name { position: absolute; top: 4px; display: flex; align-items: center; gap: 4px; font-size: 11.5px; line-height: 15px; white-space: nowrap; pointer-events: none; color: var(--ink); }
.clipped .name { z-index: 2; background: rgba(255, 254, 250, 0.86); border-radius: 4px; padding: 0 5px 0 3px; }
.name.off { color: var(--ink-quiet); }
.leaves { position: absolute; left: 0; bottom: 0; overflow: hidden; pointer-events: none; z-index: 4; }
.does { position: absolute; bottom: 1px; height: 3px; border-radius: 2px; background: #e7a13a; pointer-events: none; z-index: 3; }
.leaf { pointer-events: auto; cursor: ew-resize; touch-action: none; }
.row > .leaves .leaf path { fill: #e7a13a; stroke: #6b4a12; stroke-width: 0.7; }
.row > .leaves .leaf.on path { fill: var(--ivy); stroke: #12301f; }
.fold.tracks { color: var(--ink-quiet); }
.fold.tracks.open { background: var(--ivy-wash); color: var(--ivy-deep); }
.row.track { background: repeating-linear-gradient(90deg, rgba(120, 105, 70, 0.05) 0 1px, transparent 1px 9px); }
.row.track.on { background-color: rgba(46, 107, 78, 0.05); }
.label { position: absolute; left: 20px; top: 4px; z-index: 2; border: 0; border-radius: 4px; padding: 0 5px; background: #fdfbf5; color: var(--ink-quiet); font-size: 11px; line-height: 15px; cursor: pointer; white-space: nowrap; }
.label:hover { color: var(--ink); background: #fffefa; }
.box { position: absolute; border: 1px solid var(--ivy); background: rgba(46, 107, 78, 0.1); pointer-events: none; z-index: 4; }
.picked { position: absolute; top: 0; height: 0; border-top: 3px solid var(--ivy); pointer-events: none; z-index: 4; }
.grab { position: absolute; left: -5px; top: -5px; width: 10px; height: 11px; border-radius: 3px; background: var(--ivy); cursor: ew-resize; pointer-events: auto; touch-action: none; }
.grab.to { left: auto; right: -5px; }
.playhead { position: absolute; top: 0; bottom: 0; width: 1px; background: #b4492b; pointer-events: none; will-change: transform; }
</style>
