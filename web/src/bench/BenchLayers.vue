<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Act, Format, Formed, Guide, Outline, Words } from '../api/client'
import { useDocument } from '../common/document'
import { useDrag, type Drag, type Drags } from '../common/drag'
import { plain } from '../common/format'
import { useLayer } from './layer'
import { apply, onto } from '../common/projective'
import { useSelection } from '../common/selection'
import StageLayers from '../common/stage/StageLayers.vue'
import { useTransient } from '../common/transient'
import { useActs } from './acts'
import CameraTool from './tools/CameraTool.vue'
import FreeCells from './FreeCells.vue'
import GradientTool from './tools/GradientTool.vue'
import MaskTool from './tools/MaskTool.vue'
import PathTool from './tools/PathTool.vue'
import PenTool from './tools/PenTool.vue'
import WordsTool from './tools/WordsTool.vue'
import SplitLines from './SplitLines.vue'
import { useTool } from './tool'
import { useUnder } from './under'

/** The layers on the picture at the bench: picked, moved, sized, turned, and new ones drawn. */
const props = defineProps<{ outlines: Outline[]; format: Format; k: number; size: { w: number; h: number }; dropping: boolean; guides: Guide[]; forms: Formed[] | null; words: Words | null; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const emit = defineEmits<{ enter: [string]; files: [string, File[]]; near: [Outline['box'] | null] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const layer = useLayer()
const tool = useTool()
const { lines, around, meant, locked, act, put, point, masked } = useActs()
const drag = useDrag()
const grasp = ref<HTMLElement>()

/** How near, in pixels of the screen, something is drawn to a line. */
const REACH = 7
const reach = (d: Drag) => (d.ctrl ? 0 : REACH / props.k)
const outlined = computed(() => new Map(props.outlines.map((o) => [o.layer, o])))
const of = (id: string) => outlined.value.get(id)
type Point = { x: number; y: number }
const quad = (o: Outline): Point[] => o.quad ?? [[0, 0], [1, 0], [1, 1], [0, 1]].map(([x, y]) => ({ x: o.box.x + x! * o.box.w, y: o.box.y + y! * o.box.h }))
const pointsOf = (q: Point[]) => q.map((p) => `${p.x},${p.y}`).join(' ')

/** The outlines of all that are selected, as one drawing: of hundreds each would be a thing to keep. */
const each = computed(() => selection.layers.map((id) => of(id)).filter((o) => !!o).map((o) => `M${pointsOf(quad(o!)).split(' ').join('L')}Z`).join(''))

watch(() => doc.key, () => {
  tool.inside = ''
  tool.pointing = null
})
watch(
  () => doc.draft?.layers,
  () => tool.inside && !lines.value.has(tool.inside) && (tool.inside = ''),
)

const under = useUnder(() => props.k)
useEventListener(document, 'pointermove', (e: PointerEvent) => {
  const over = e.buttons === 0 && !tool.swatch && e.target instanceof Element && e.target.closest('[data-stage] .table')
  void under.hover(over ? props.at(e) : null)
})
/** What those that lie at a point mean, the topmost first. */
const stack = (ids: string[]) => [...new Set(ids.filter((id) => within(id)).map(meant))].filter((id) => id && !locked(id))
/** What a press would pick. */
const hot = computed(() => {
  const o = under.known.value && !transient.op && !tool.swatch ? of(stack(under.known.value.ids)[0] ?? '') : undefined
  return o && !selection.layers.includes(o.layer) ? o : undefined
})
/** How far apart two presses may be, in pixels of the screen, to be at the same place; and how soon, in ms, two are one. */
const SAME = 4
const DOUBLE = 350
let pressed = { x: -99, y: -99, when: 0 }
/** Whether a point of the canvas lies in the frame around what is picked. */
function framed([x, y]: [number, number]): boolean {
  const q = frame.value?.quad
  if (!q || fixed.value) return false
  const sides = q.map((p, i) => (q[(i + 1) % 4]!.x - p.x) * (y - p.y) - (q[(i + 1) % 4]!.y - p.y) * (x - p.x))
  return sides.every((s) => s >= 0) || sides.every((s) => s <= 0)
}

/** The layers take the focus. The press that follows would take it to the stage as a whole. */
function focus(e: PointerEvent) {
  grasp.value?.focus({ preventScroll: true })
  if (e.pointerType === 'mouse') window.addEventListener('mousedown', (m) => m.preventDefault(), { once: true, capture: true })
}
/**
 * A press picks the topmost layer that is seen there, another at the same place the next below; a drag moves what is
 * picked. Where nothing is seen a box is drawn around what is to be picked.
 */
function grip(e: PointerEvent, hit = '', known?: string[]) {
  if (e.button !== 0 || tool.swatch) return
  e.stopPropagation()
  focus(e)
  const from = props.at(e)
  const more = e.shiftKey
  const same = Math.hypot(e.clientX - pressed.x, e.clientY - pressed.y) <= SAME
  const twice = same && e.timeStamp - pressed.when < DOUBLE
  pressed = { x: e.clientX, y: e.clientY, when: e.timeStamp }
  let how: Drags | null = null
  let late: ((h: Drags) => void) | null = null
  const begin = (ids: string[]) => {
    how = dragged(stack(ids), from, more, same, twice)
    late?.(how)
  }
  // What was dragged before it was known what is held is heard then.
  const heard = (f: (h: Drags) => void) => (how ? f(how) : void (late = f))
  const hand = known ?? under.atHand(from)
  if (hand) begin(hand)
  else void under.ids(from).then((ids) => begin(ids ?? [hit]))
  drag(e, { slack: 4, move: (d) => heard((h) => h.move(d)), end: (d) => heard((h) => h.end?.(d)), press: () => heard((h) => h.press?.()), cancel: () => heard((h) => h.cancel?.()) })
}
function dragged(ids: string[], from: [number, number], more: boolean, same: boolean, twice: boolean): Drags {
  const held = ids.find((id) => selection.layers.includes(id))
  const top = ids[0]
  if (!top && (more || !framed(from))) return boxed(from, more)
  const was = !!top && selection.layers.includes(top)
  if (top && more && !was) selection.layers = [...selection.layers, top]
  else if (top && !more && !was && !(same && held)) selection.layers = [top]
  const op = (d: Drag): Act => act({ kind: 'place', from, to: props.at({ clientX: d.x, clientY: d.y }), keep: d.shift, copy: d.alt, snap: reach(d) })
  return {
    move: (d) => transient.show(op(d)),
    end: (d) => void transient.keep(op(d)),
    cancel: transient.hide,
    press: () => {
      if (twice) return
      if (more && was) selection.layers = selection.layers.filter((id) => id !== top)
      else if (more) return
      else if (!top) selection.layers = []
      else if (same && held) selection.layers = [ids[(ids.indexOf(held) + 1) % ids.length]!]
      else if (selection.layers.length > 1) selection.layers = [top]
    },
  }
}
/** What has no picture is taken hold of by its mark. */
const carriers = computed(() => props.outlines.filter((o) => lines.value.get(o.layer)?.kind === 'carrier' && (tool.pointing || within(o.layer))).map((o) => ({ o, p: mean(quad(o)) })))
const mean = (q: Point[]) => ({ x: q.reduce((n, p) => n + p.x / q.length, 0), y: q.reduce((n, p) => n + p.y / q.length, 0) })
/** Points at what is seen there, a carrier's mark before all else. */
async function pointed(e: PointerEvent) {
  const [x, y] = props.at(e)
  const near = carriers.value.filter(({ p }) => Math.hypot(p.x - x, p.y - y) * props.k < 12).map(({ o }) => o.layer)
  const seen = await under.ids([x, y])
  point([...near, ...(seen ?? [])].filter((id) => id !== tool.pointing?.of))
}
/** Tab goes from layer to layer, and on from the last one. */
function tab(e: KeyboardEvent) {
  const all = (doc.draft?.layers ?? []).filter((y) => meant(y.id) === y.id && !locked(y.id) && of(y.id)).map((y) => y.id)
  if (e.shiftKey) all.reverse()
  const next = all[all.indexOf(selection.layer) + 1]
  if (!next) return
  e.preventDefault()
  selection.layers = [next]
}
/** Into the group that is picked, or into the media of its pocket. */
function open(at?: { clientX: number; clientY: number }) {
  const y = lines.value.get(selection.layer)
  if (y?.holds && !locked(y.id)) {
    tool.inside = y.id
    selection.layers = []
  } else if (y?.pocket) emit('enter', y.pocket)
  else if (y?.kind === 'words' && !locked(y.id)) {
    tool.writeAt = at ?? null
    selection.writing = y.id
  } else if (y?.form === 'path') tool.path = `layers/${y.id}`
}
// A group that is entered is looked at from near by; one that is left, with all around it.
watch(
  () => tool.inside,
  (id) => emit('near', of(id)?.box ?? null),
)

/** The frame around what is picked: one layer's own box, or the upright one around several. */
const frame = computed(() => {
  const list = selection.layers.map(of).filter((o): o is Outline => !!o)
  if (!list.length || selection.framing || transient.look) return null
  if (list.length === 1) return { quad: quad(list[0]!), one: list[0]! }
  const all = list.flatMap(quad)
  const [x0, y0] = [Math.min(...all.map((p) => p.x)), Math.min(...all.map((p) => p.y))]
  const [x1, y1] = [Math.max(...all.map((p) => p.x)), Math.max(...all.map((p) => p.y))]
  return { quad: [{ x: x0, y: y0 }, { x: x1, y: y0 }, { x: x1, y: y1 }, { x: x0, y: y1 }], one: null }
})
/** What is pinned down, and what a cell gives its place, has no pins. */
const fixed = computed(() => selection.layers.some((id) => locked(id) || !!lines.value.get(id)?.layout))
/** Where a share of the frame stands. */
const map = computed(() => onto(frame.value!.quad as [Point, Point, Point, Point]))
const on = (x: number, y: number): Point => apply(map.value, { x, y })
const shares = [[0, 0], [0.5, 0], [1, 0], [1, 0.5], [1, 1], [0.5, 1], [0, 1], [0, 0.5]] as const
const names = ['top left', 'top', 'top right', 'right', 'bottom right', 'bottom', 'bottom left', 'left']
/** Pins: those that lie on one another on the screen are left out. */
const pins = computed(() => {
  const f = frame.value
  if (!f || fixed.value || f.one?.layer === undefined && f.one) return []
  const side = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y) * props.k
  const [w, h] = [side(f.quad[0]!, f.quad[1]!), side(f.quad[1]!, f.quad[2]!)]
  return shares.map(([x, y], i) => ({ x, y, name: names[i]!, p: on(x, y), corner: x !== 0.5 && y !== 0.5 })).filter((p) => p.corner || (p.x === 0.5 ? w : h) > 34)
})
/** How the upper edge lies on the screen, in degrees. */
const lie = computed(() => {
  const q = frame.value?.quad
  return q ? (Math.atan2(q[1]!.y - q[0]!.y, q[1]!.x - q[0]!.x) * 180) / Math.PI : 0
})
/** The loop of thread that turns: beyond the middle of the upper edge. */
const loop = computed(() => {
  if (!frame.value || fixed.value) return null
  const [top, mid] = [on(0.5, 0), on(0.5, 0.5)]
  const far = Math.hypot(top.x - mid.x, top.y - mid.y) || 1
  const by = 26 / props.k
  return { from: top, to: { x: top.x + ((top.x - mid.x) / far) * by, y: top.y + ((top.y - mid.y) / far) * by } }
})
const origin = computed<Point | null>(() => {
  const o = frame.value?.one
  const p = o && layer.view?.id === o.layer ? layer.view.properties.find((x) => x.name === 'origin') : undefined
  return p && !fixed.value && !transient.op ? on(p.now[0]!, p.now[1]!) : null
})

function dragging(e: PointerEvent, make: (d: Drag, from: [number, number], to: [number, number]) => Act) {
  if (e.button !== 0) return
  e.stopPropagation()
  const from = props.at(e)
  const op = (d: Drag) => make(d, from, props.at({ clientX: d.x, clientY: d.y }))
  drag(e, { slack: 2, move: (d) => transient.show(op(d)), end: (d) => void transient.keep(op(d)), cancel: transient.hide })
}
function pull(e: PointerEvent, pin: { x: number; y: number; corner: boolean }) {
  const handle = [pin.x, pin.y]
  const free = e.ctrlKey || e.metaKey
  const f = frame.value
  dragging(e, (d, from, to) => {
    if (free && f?.one) return act({ kind: pin.corner ? 'pull' : 'lean', handle, from, to, snap: pin.corner ? REACH / props.k : 0 })
    return act({ kind: 'grow', handle, from, to, keep: d.shift, middle: d.alt, snap: reach(d) })
  })
}
const spin = (e: PointerEvent) => dragging(e, (d, from, to) => act({ kind: 'turn', from, to, keep: d.shift }))
/** The origin stands where a layer is mostly taken hold of: without Ctrl it is the layer that is dragged. */
const shift = (e: PointerEvent) => (e.ctrlKey || e.metaKey ? moveOrigin(e) : grip(e, selection.layer))
const moveOrigin = (e: PointerEvent) => dragging(e, (d, from, to) => act({ kind: 'pin', from, to, snap: reach(d) }))

/** Live numbers beside what is dragged. */
const told = computed(() => {
  const f = frame.value
  const op = transient.op as Act | null
  if (!f || !op || !('layers' in op)) return null
  const b = f.one ? f.one.box : { x: f.quad[0]!.x, y: f.quad[0]!.y, w: f.quad[1]!.x - f.quad[0]!.x, h: f.quad[2]!.y - f.quad[1]!.y }
  const mid = `x ${plain(b.x + b.w / 2 - props.format.width / 2, 1)}, y ${plain(b.y + b.h / 2 - props.format.height / 2, 1)}`
  const side = (p: Point, q: Point) => Math.hypot(p.x - q.x, p.y - q.y)
  const size = `${plain(side(f.quad[0]!, f.quad[1]!), 1)} × ${plain(side(f.quad[1]!, f.quad[2]!), 1)}`
  const angle = `${plain((Math.atan2(f.quad[1]!.y - f.quad[0]!.y, f.quad[1]!.x - f.quad[0]!.x) * 180) / Math.PI, 1)}°`
  const text = { place: mid, nudge: mid, grow: size, turn: angle, pull: mid, lean: mid, pin: mid }[op.kind]
  return text ? { text, left: `${Math.min(props.size.w - 60, Math.max(60, (b.x + b.w / 2) * props.k))}px`, top: `${Math.min(props.size.h - 20, (b.y + b.h) * props.k + 12)}px` } : null
})

// A box that is drawn on the stage: for what is in hand, or to pick all that it meets.
const drawn = ref<{ x: number; y: number; w: number; h: number } | null>(null)
const boxOf = (a: [number, number], b: [number, number]) => ({ x: Math.min(a[0], b[0]), y: Math.min(a[1], b[1]), w: Math.abs(a[0] - b[0]), h: Math.abs(a[1] - b[1]) })
function press(e: PointerEvent) {
  if (e.button !== 0 || selection.framing) return
  const from = props.at(e)
  const s = tool.swatch
  if (s) {
    focus(e)
    const op = (d: Drag) => ({ from, to: props.at({ clientX: d.x, clientY: d.y }), keep: d.shift, middle: d.alt, snap: reach(d) })
    const show = (d: Drag) => ({ ...act({ ...s.act!, layers: [] }), ...op(d) })
    drag(e, {
      slack: 4,
      move: (d) => transient.show(show(d)),
      end: async (d) => {
        transient.hide()
        await put(s, op(d))
      },
      press: () => void put(s),
      cancel: transient.hide,
    })
    return
  }
  grip(e)
}
/** The box of a mask that is in hand is drawn on its layer; a press makes one as large as that. */
function maskIn(e: PointerEvent) {
  if (e.button !== 0) return
  const m = tool.masking!
  const from = props.at(e)
  const op = (d: Drag): Act => act({ kind: 'mask', path: m.of, way: m.way, from, to: props.at({ clientX: d.x, clientY: d.y }), keep: d.shift, middle: d.alt, snap: reach(d), layers: [] })
  const made = (what: Act) => {
    tool.masking = null
    transient.hide()
    return masked(what)
  }
  drag(e, { slack: 4, move: (d) => transient.show(op(d)), end: (d) => void made(op(d)), press: () => void made(act({ kind: 'mask', path: m.of, way: m.way, layers: [] })), cancel: transient.hide })
}
/** Picks what a box meets that is drawn from a point. */
function boxed(from: [number, number], more: boolean): Drags {
  const before = more ? selection.layers : []
  selection.layers = before
  return {
    move: (d) => {
      const b = (drawn.value = boxOf(from, props.at({ clientX: d.x, clientY: d.y })))
      const met = props.outlines.filter((o) => o.opacity > 0.01 && !locked(o.layer) && o.box.x < b.x + b.w && o.box.x + o.box.w > b.x && o.box.y < b.y + b.h && o.box.y + o.box.h > b.y)
      const full = (o: Outline) => o.box.w >= props.format.width && o.box.h >= props.format.height
      const ids = met.filter((o) => !full(o) || (b.x <= 0 && b.y <= 0 && b.x + b.w >= props.format.width && b.y + b.h >= props.format.height)).map((o) => meant(o.layer)).filter(Boolean)
      selection.layers = [...new Set([...before, ...ids])]
    },
    end: () => (drawn.value = null),
    cancel: () => {
      drawn.value = null
      selection.layers = before
    },
  }
}
/** What is seen at a point of the screen and may be changed, the topmost first: what a file that is dropped there falls on. */
const seenAt = async (e: { clientX: number; clientY: number }) => (await under.ids(props.at(e)))?.filter((id) => !locked(id)) ?? []
defineExpose({ press, seenAt })
const within = (id: string) => !locked(id) && (!tool.inside || around(id).includes(tool.inside))
/** The outlines of the selected layer: as they would be, else as they are. */
const shown = computed<Formed[]>(() => props.forms ?? (layer.view?.id === selection.layer ? layer.view.forms : []))
/** A path is drawn or worked on: all else on the picture stands back. */
const busy = computed(() => !!tool.pen || !!tool.path || !!selection.writing)
const fixedDown = computed(() => locked(selection.layer))
const hidden = computed(() => tool.inside && of(tool.inside))

</script>

<template>
  <StageLayers :outlines="outlines" :format="format" :k="k" :size="size" :dropping="dropping" :grip="grip" :within="within" @enter="(_, e) => open(e)" @files="(p, f) => emit('files', p, f)" />
  <div ref="grasp" class="grasp" tabindex="0" role="group" aria-label="Layers on the canvas: Tab goes through them" data-test="grasp" @keydown.tab="tab" />
  <svg class="tools" :viewBox="`0 0 ${format.width} ${format.height}`" aria-hidden="true">
    <g v-for="{ o, p } in carriers" :key="o.layer" class="carrier" :class="{ on: selection.layers.includes(o.layer) }" :transform="`translate(${p.x} ${p.y}) scale(${1 / k})`" :data-carrier="o.layer" @pointerdown="grip($event, o.layer, [o.layer])"><circle class="catch" r="12" /><circle r="8" /><path d="M-13 0H-4M4 0H13M0-13V-4M0 4V13" /></g>
    <polygon v-if="hot" class="hot" :points="pointsOf(quad(hot))" :data-hot="hot.layer" />
    <path v-if="hidden" class="rest" :d="`M-9999-9999H${format.width + 9999}V${format.height + 9999}H-9999Z M${pointsOf(quad(hidden)).split(' ').join('L')}Z`" />
    <g v-for="(g, i) in guides" :key="i" class="guide" :class="{ gap: g.gap }">
      <line v-if="(g.axis === 'x')" :x1="g.at" :x2="g.at" :y1="g.from" :y2="g.to" />
      <line v-else :y1="g.at" :y2="g.at" :x1="g.from" :x2="g.to" />
    </g>
    <FreeCells v-if="!tool.swatch && !tool.pointing && !tool.inside && !transient.op && !selection.framing && !dropping" :k="k" />
    <SplitLines v-if="selection.line?.layout && !selection.framing && !tool.swatch" :format="format" :k="k" :at="at" />
    <template v-if="frame && !selection.framing && !busy && !tool.mask">
      <path v-if="selection.layers.length > 1" class="each" :d="each" />
      <polygon class="chalk under" :points="pointsOf(frame.quad)" /><polygon class="chalk" :class="{ fixed }" :points="pointsOf(frame.quad)" data-test="frame" />
      <template v-if="loop">
        <line class="thread" :x1="loop.from.x" :y1="loop.from.y" :x2="loop.to.x" :y2="loop.to.y" />
        <circle class="turn" :cx="loop.to.x" :cy="loop.to.y" :r="6 / k" data-test="turn" @pointerdown="spin" />
      </template>
      <g v-for="p in pins" :key="p.name" :transform="`translate(${p.p.x} ${p.p.y}) scale(${1 / k})`">
        <circle class="catch" r="11" :data-pin="p.name" @pointerdown="pull($event, p)" />
        <circle v-if="p.corner" class="pin" r="5.5" /><rect v-else class="bar" x="-6" y="-3" width="12" height="6" rx="3" :transform="`rotate(${p.x === 0.5 ? lie : lie + 90})`" />
      </g>
      <g v-if="origin" class="origin" :transform="`translate(${origin.x} ${origin.y}) scale(${1 / k})`" @pointerdown="shift"><circle r="9" class="catch" data-test="origin" /><path d="M-7 0H7M0-7V7" /><circle r="3" /></g>
    </template>
    <GradientTool v-if="frame && !fixedDown && !busy && !selection.framing && selection.layers.length === 1" :k="k" />
    <CameraTool v-if="selection.line?.kind === 'camera' && !fixedDown && !busy && !tool.swatch && selection.layers.length === 1" :k="k" :format="format" />
    <MaskTool v-if="tool.mask && !fixedDown && !busy && !selection.framing" :forms="shown" :k="k" :at="at" />
    <rect v-if="drawn" class="marquee" :x="drawn.x" :y="drawn.y" :width="drawn.w" :height="drawn.h" />
  </svg>
  <svg v-if="tool.pen || tool.path" class="tools" :viewBox="`0 0 ${format.width} ${format.height}`">
    <PathTool v-if="tool.path && !tool.pen" :forms="shown" :k="k" :at="at" />
    <PenTool v-if="tool.pen" :k="k" :at="at" />
  </svg>
  <span v-for="(g, i) in guides" :key="`t${i}`" class="what num" :style="g.axis === 'x' ? { left: `${g.at * k + 5}px`, top: `${Math.max(4, Math.min(size.h - 22, (g.gap ? (g.from + g.to) / 2 : g.from) * k + 4))}px` } : { left: `${Math.max(4, (g.gap ? (g.from + g.to) / 2 : g.from) * k + 5)}px`, top: `${g.at * k + 3}px` }">{{ g.what }}</span>
  <span v-if="told" class="told num" :style="{ left: told.left, top: told.top }" data-test="told">{{ told.text }}</span>
  <WordsTool v-if="selection.writing && !fixedDown" :key="selection.writing" :said="words" :k="k" :size="size" :at="at" />
  <div v-if="tool.pointing" class="drawing" data-test="pointing" @pointerdown.stop.prevent="pointed" />
  <div v-if="tool.swatch" class="drawing" data-test="drawing" @pointerdown.stop="press" />
  <div v-if="tool.masking" class="drawing" data-test="masking" @pointerdown.stop="maskIn" />
  <p v-if="!doc.draft!.layers.length && !tool.swatch" class="start">An empty table. Take something from the tray at the left and draw its box here, or drop files.</p>

</template>

<style scoped>
.tools { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; pointer-events: none; }
.rest { fill: rgba(40, 44, 42, 0.55); fill-rule: evenodd; }
/* Tailor's chalk: a soft, dashed line. */
.chalk { fill: none; stroke: #f3efe2; stroke-width: 1.6; stroke-dasharray: 9 4; vector-effect: non-scaling-stroke; }
.chalk.under { stroke: rgba(23, 61, 43, 0.75); stroke-width: 3; stroke-dasharray: none; }
.chalk.fixed { stroke-dasharray: 2 5; }
.each { fill: none; stroke: #7cc79c; stroke-width: 1.2; vector-effect: non-scaling-stroke; }
/* It takes the focus; the pointer goes through it. */
.grasp { position: absolute; inset: 0; pointer-events: none; outline-offset: 3px; }
.grasp:focus-visible { outline: 2px solid #fff; }
.carrier { pointer-events: all; cursor: move; touch-action: none; }
.carrier circle:not(.catch) { fill: rgba(34, 48, 42, 0.35); stroke: #f3efe2; stroke-width: 1.6; }
.carrier path { stroke: #f3efe2; stroke-width: 1.6; }
.carrier.on circle:not(.catch), .carrier.on path { stroke: #e7a13a; }
.hot { fill: none; stroke: rgba(255, 255, 255, 0.85); stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.pin { fill: #2e6b4e; stroke: #fbfaf5; stroke-width: 2; pointer-events: none; }
.bar { fill: #fbfaf5; stroke: #2e6b4e; stroke-width: 1.6; pointer-events: none; }
.catch { fill: transparent; pointer-events: all; cursor: move; touch-action: none; }
.thread { stroke: #7cc79c; stroke-width: 1.6; stroke-dasharray: 3 3; vector-effect: non-scaling-stroke; }
.turn { fill: #fbfaf5; stroke: #b4492b; stroke-width: 2.4; vector-effect: non-scaling-stroke; pointer-events: all; cursor: grab; touch-action: none; }
.origin path { stroke: #b4492b; stroke-width: 1.6; pointer-events: none; }
.origin circle:last-child { fill: #b4492b; stroke: #fbfaf5; stroke-width: 1; pointer-events: none; }
.guide line { stroke: #e7a13a; stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.guide.gap line { stroke: #7cc79c; stroke-width: 2; stroke-dasharray: 2 3; }
.marquee { fill: rgba(124, 199, 156, 0.14); stroke: #f3efe2; stroke-width: 1.4; stroke-dasharray: 5 4; vector-effect: non-scaling-stroke; }
.what, .told { position: absolute; pointer-events: none; font-size: 11px; white-space: nowrap; padding: 1px 6px; border-radius: 4px; }
.what { background: #f5e9d0; color: #5f3d08; }
.told { background: #22302a; color: #f5f2ea; transform: translateX(-50%); }
.drawing { position: absolute; inset: -3000px; cursor: crosshair; touch-action: none; }
.start { position: absolute; inset: 0; display: grid; place-items: center; text-align: center; padding: 0 12%; font-size: 15px; color: #e9e8e2; pointer-events: none; border: 1.6px dashed rgba(233, 232, 226, 0.4); }
</style>
