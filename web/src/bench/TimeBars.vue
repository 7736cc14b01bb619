<script setup lang="ts">
import { IconChevronDown, IconChevronRight } from '@tabler/icons-vue'
import { useLocalStorage, useVirtualList } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { LayerLine } from '../api/client'
import { useDocument } from '../common/document'
import { useDrag, type Drag } from '../common/drag'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'
import { useActs } from './acts'
import { iconOfLayer, tint } from './kinds'
import { useRows } from './rows'
import { useTool } from './tool'

/** Layers in time: each a bar from when it is there to when it is gone, slid and trimmed, with its keys as leaves. Names stand on the bars. */
const props = defineProps<{ width: number; frames: number }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const transport = useTransport()
const tool = useTool()
const { act, around, locked, does } = useActs()
const drag = useDrag()
const { tree, isFolded, fold } = useRows()

const onlyMoves = useLocalStorage('ivy-bars-moves', false)
const rows = computed(() => tree.value.filter((r) => !around(r.y.id).some(isFolded) && (!onlyMoves.value || r.y.motion || r.y.keys.length > 0)))
const HIGH = 24
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(rows, { itemHeight: HIGH, overscan: 6 })
watch(() => selection.layer, (id) => {
  const i = rows.value.findIndex((r) => r.y.id === id)
  const el = containerProps.ref.value
  if (i >= 0 && el && (i * HIGH < el.scrollTop || (i + 1) * HIGH > el.scrollTop + el.clientHeight)) scrollTo(i)
})

type Way = 'slide' | 'in' | 'out'
/** What is dragged, and by how many frames. */
const moving = ref<{ ids: string[]; way: Way; by: number } | null>(null)
watch(() => doc.draft?.revision, () => (moving.value = null))
/** It is in one of these groups. */
const isIn = (y: LayerLine, ids: string[]) => around(y.id).some((g) => ids.includes(g))
const px = computed(() => props.width / props.frames)
const clamp = (v: number, lo: number, hi: number) => Math.max(lo, Math.min(hi, v))
function bar(y: LayerLine) {
  let [from, until, keys] = [y.from, y.until, 0]
  const m = moving.value
  const inner = !!m && m.way === 'slide' && isIn(y, m.ids)
  if (m && (inner || m.ids.includes(y.id))) {
    if (m.way === 'slide') {
      keys = m.by
      // In a group that is slid an end that is the template's stays.
      if (!inner || from !== 0) from += m.by
      if (!inner || until !== props.frames) until += m.by
    }
    if (m.way === 'in') from = clamp(Math.max(0, from) + m.by, 0, until - 1)
    if (m.way === 'out') until = clamp(Math.min(props.frames, until) + m.by, from + 1, props.frames)
  }
  const [a, b] = [clamp(from, 0, props.frames), clamp(until, 0, props.frames)]
  return { left: a * px.value, width: Math.max(3, (b - a) * px.value), gone: b <= a, keys }
}
const leavesOf = (y: LayerLine, by: number) => y.keys.map((k) => ({ k, x: (k + by + 0.5) * px.value })).filter((l) => l.x >= -4 && l.x <= props.width + 4)
/** Where the name stands: on the bar, or beside one that is too short for it. */
function named(y: LayerLine, b: ReturnType<typeof bar>) {
  const need = 26 + y.name.length * 6.5
  return b.width >= need || b.left + b.width + need > props.width ? { left: Math.min(b.left + 20, Math.max(4, props.width - need)), on: b.width >= need } : { left: b.left + b.width + 6, on: false }
}

const shown = computed(() => list.value.map(({ data, index }) => {
  const b = bar(data.y)
  return { y: data.y, index, b, name: named(data.y, b), leaves: leavesOf(data.y, b.keys) }
}))

/** Bars are drawn to the playhead, to cues and to ends of other bars. */
const REACH = 6
function drawn(edges: number[], by: number, ids: string[]): number {
  const to = [0, props.frames, transport.frame, ...doc.draft!.cues.map((c) => c.frame), ...doc.draft!.layers.filter((y) => !ids.includes(y.id) && !isIn(y, ids)).flatMap((y) => [y.from, y.until])]
  let best = by
  let near = REACH / px.value
  for (const e of edges) {
    for (const t of to) {
      const off = Math.abs(e + by - t)
      if (off < near) {
        near = off
        best = Math.round(t - e)
      }
    }
  }
  return best
}
function take(e: PointerEvent, y: LayerLine, way: Way) {
  if (e.button !== 0) return
  e.stopPropagation()
  const was = selection.layers
  if (e.shiftKey || e.ctrlKey || e.metaKey) selection.layers = was.includes(y.id) ? was.filter((x) => x !== y.id) : [...was, y.id]
  else if (!was.includes(y.id)) selection.layers = [y.id]
  tool.inside = around(y.id)[0] ?? ''
  const ids = selection.layers
  if (!ids.includes(y.id) || locked(y.id)) return
  const of = doc.draft!.layers.filter((x) => ids.includes(x.id))
  const edges = of.flatMap((x) => (way === 'slide' ? [x.from, x.until] : [way === 'in' ? x.from : x.until]))
  const by = (d: Drag) => {
    const n = Math.round(d.dx / px.value)
    return d.ctrl ? n : drawn(edges, n, ids)
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
  const to = { ArrowUp: -1, ArrowDown: 1 }[e.key]
  const ids = selection.layers.includes(y.id) ? selection.layers : [y.id]
  if (n && e.altKey) void does({ kind: 'trim', way: e.shiftKey ? 'in' : 'out', frames: n, layers: ids })
  else if (n) void does({ kind: 'slide', frames: n * (e.shiftKey ? 10 : 1), layers: ids })
  else if (to) {
    const next = rows.value[i + to]
    if (!next) return
    selection.layers = [next.y.id]
    scrollTo(Math.max(0, i + to - 2))
    void Promise.resolve().then(() => requestAnimationFrame(() => containerProps.ref.value?.querySelector<HTMLElement>(`[data-bar=${JSON.stringify(next.y.id)}]`)?.focus()))
  } else if (e.key === 'Enter') selection.layers = [y.id]
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="bars" data-test="bars">
    <div class="head"><label><input v-model="onlyMoves" type="checkbox" data-test="only-moves"> Only what moves</label><span class="quiet num">{{ rows.length }}</span></div>
    <div v-bind="containerProps" class="rows" role="list" aria-label="Layers in time">
      <div v-bind="wrapperProps">
        <div v-for="r in shown" :key="r.y.id" class="row" role="listitem" :class="{ inside: r.y.depth > 0, quiet: r.y.hidden }">
          <button v-if="r.y.holds" class="fold" tabindex="-1" :aria-label="`${isFolded(r.y.id) ? 'Unfold' : 'Fold'} ${r.y.name}`" @click="fold(r.y.id)"><component :is="isFolded(r.y.id) ? IconChevronRight : IconChevronDown" :size="12" /></button>
          <div class="bar" tabindex="0" role="button" :data-bar="r.y.id" :class="{ on: selection.layers.includes(r.y.id), locked: r.y.locked, gone: r.b.gone, group: r.y.holds }" :style="{ left: `${r.b.left}px`, width: `${r.b.width}px`, '--thread': tint(r.y.thread) }"
            :aria-label="`${r.y.name}: from frame ${Math.round(r.y.from)} up to ${Math.round(r.y.until)}`" :aria-pressed="selection.layers.includes(r.y.id)" :title="`${r.y.name}: frames ${Math.round(r.y.from)} to ${Math.round(r.y.until) - 1}. Drag, or arrows: slide; its ends, or Alt and arrows: trim`"
            @pointerdown="take($event, r.y, 'slide')" @keydown="key($event, r.y, r.index)">
            <i class="end" :data-bar-in="r.y.id" @pointerdown="take($event, r.y, 'in')" /><i class="end out" :data-bar-out="r.y.id" @pointerdown="take($event, r.y, 'out')" />
          </div>
          <span class="name" :class="{ off: !r.name.on }" :style="{ left: `${r.name.left}px` }"><component :is="iconOfLayer(r.y)" :size="12" />{{ r.y.name }}</span>
          <svg v-if="r.leaves.length" class="leaves" :width="width" height="10" aria-hidden="true"><path v-for="l in r.leaves" :key="l.k" :transform="`translate(${l.x} 5)`" d="M0 4.500C-3.200 2 -3.200 -2 0 -4.500 3.200 -2 3.200 2 0 4.500Z" /></svg>
        </div>
      </div>
    </div>
    <i class="playhead" :style="{ transform: `translateX(${(transport.frame + 0.5) * px}px)` }" />
  </div>
</template>

<style scoped>
.bars { position: relative; display: grid; grid-template-rows: minmax(0, 1fr); min-height: 0; height: 100%; }
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
.name.off { color: var(--ink-quiet); }
.leaves { position: absolute; left: 0; bottom: 0; overflow: visible; pointer-events: none; }
.leaves path { fill: #e7a13a; stroke: #6b4a12; stroke-width: 0.7; }
.playhead { position: absolute; top: 0; bottom: 0; width: 1px; background: #b4492b; pointer-events: none; will-change: transform; }
</style>
