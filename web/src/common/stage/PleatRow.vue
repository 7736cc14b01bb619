<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask, type Part } from '../../api/client'
import { coalesced } from '../coalesced'
import { useDocument } from '../document'
import { useDrag } from '../drag'
import { stretchOf } from './elastic'
import type { TimeWindow } from './window'

/**
 * The time of a template under the strip: held time is smooth, elastic time is pleated, and the end of the piece opens and
 * closes the pleats. With `edits` held time is the designer's: what is pressed is told by `grab`.
 */
const props = defineProps<{ span: TimeWindow; time: Part[]; edits?: boolean; ends: boolean; shortest: number; longest: number; marked?: { from: number; to: number } | null }>()
const emit = defineEmits<{
  grab: [PointerEvent, { id: string; way: 'from' | 'to' | '' } | { from: number }]
  key: [KeyboardEvent, Part]
  lasts: [number, 'moving' | 'end' | 'cancel']
}>()
const doc = useDocument()
const HIGH = 17

/** The parts as they would be at a length, while the end is dragged. */
const would = ref<{ frames: number; time: Part[] } | null>(null)
let wanted = 0
const load = coalesced(async () => {
  const home = doc.home
  const frames = wanted
  if (!home || !frames) return
  const params = { path: { id: home.id }, query: { frames } }
  const time = await ask(home.kind === 'piece' ? api.GET('/api/pieces/{id}/time', { params }) : api.GET('/api/drafts/{id}/time', { params })).catch(() => null)
  if (time && wanted) would.value = { frames, time }
})
// What was let go is kept by then, or was refused.
watch(() => [doc.view?.revision, doc.saving, props.time], () => wanted || (would.value = null))
const end = computed(() => would.value?.frames ?? props.span.frames.value)

/** A pleat for so many frames of the template: their number is the template's, only how far they are open changes. */
const pleat = computed(() => Math.max(1, Math.round((props.time.at(-1)?.to ?? 1) / 110)))
const parts = computed(() =>
  (would.value?.time ?? props.time).map((p) => {
    const [x, to] = [props.span.x(p.at), props.span.x(p.until)]
    const n = Math.max(1, Math.round((p.to - p.from) / pleat.value))
    const w = (to - x) / n
    let front = ''
    let back = ''
    for (let i = 0; i < n; i++) {
      const a = x + i * w
      if (a > props.span.width.value + 40 || a + w < -40) continue
      front += `M${a} 2L${a + w * 0.68} ${HIGH - 2}V2Z`
      back += `M${a + w * 0.68} 2V${HIGH - 2}L${a + w} 2Z`
    }
    const by = stretchOf(p)
    return { ...p, x, width: to - x, front, back, by, said: Math.abs(by - 1) < 0.005 ? '' : `× ${by < 10 ? Math.round(by * 100) / 100 : Math.round(by)}` }
  }),
)

const drag = useDrag()
function pull(e: PointerEvent) {
  if (!props.ends) return
  e.stopPropagation()
  const [n0, px] = [props.span.frames.value, props.span.px.value]
  const to = (dx: number) => Math.max(props.shortest, Math.min(props.longest, Math.round(n0 + dx / px)))
  const over = () => {
    wanted = 0
    props.span.hold(0)
  }
  drag(e, {
    slack: 2,
    move: (d) => {
      if (to(d.dx) === wanted) return
      wanted = to(d.dx)
      props.span.hold(Math.max(n0, wanted))
      void load()
      emit('lasts', wanted, 'moving')
    },
    end: (d) => {
      const n = to(d.dx)
      over()
      if (n === n0) would.value = null
      emit('lasts', n, 'end')
    },
    cancel: () => {
      over()
      would.value = null
      emit('lasts', n0, 'cancel')
    },
  })
}
function pullBy(e: KeyboardEvent) {
  const n = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (!n || !props.ends) return
  e.preventDefault()
  e.stopPropagation()
  const to = Math.max(props.shortest, Math.min(props.longest, props.span.frames.value + n * (e.shiftKey ? 10 : 1)))
  if (to !== props.span.frames.value) emit('lasts', to, 'end')
}
const make = (e: PointerEvent) => props.edits && emit('grab', e, { from: props.span.at(e.clientX - (e.currentTarget as Element).getBoundingClientRect().left) })
</script>

<template>
  <div class="pleats" :class="{ edits }" data-test="pleats" @pointerdown="make">
    <svg :height="HIGH" :width="span.width.value" aria-hidden="true">
      <template v-for="p in parts" :key="p.from"><template v-if="p.kind === 'elastic'"><path class="back" :d="p.back" /><path class="front" :d="p.front" /></template></template>
      <rect v-if="marked" class="marked" :x="span.x(marked.from)" :width="(marked.to - marked.from) * span.px.value" y="0" :height="HIGH" />
    </svg>
    <template v-for="p in parts" :key="`${p.kind}${p.id || p.from}`">
      <div v-if="p.kind === 'held'" class="held" :role="edits ? 'button' : undefined" :tabindex="edits ? 0 : undefined" :data-held="p.id" :style="{ left: `${p.x}px`, width: `${p.width}px` }"
        :aria-label="`held ${p.to - p.from}: frames ${p.from} to ${p.to - 1}`" :title="`Held time, frames ${p.from} to ${p.to - 1}: it always plays at its own speed${edits ? '. Drag, or arrows: move it; its ends, or Alt and arrows: resize; Delete: let it stretch' : ''}`"
        @pointerdown.stop="edits && emit('grab', $event, { id: p.id, way: '' })" @keydown="edits && emit('key', $event, p)">
        <b v-if="p.width > 58" class="num">held {{ p.to - p.from }}</b>
        <template v-if="edits"><i class="edge" :data-held-from="p.id" @pointerdown.stop="emit('grab', $event, { id: p.id, way: 'from' })" /><i class="edge to" :data-held-to="p.id" @pointerdown.stop="emit('grab', $event, { id: p.id, way: 'to' })" /></template>
      </div>
      <b v-else-if="p.said && p.width > 44" class="by num" :style="{ left: `${p.x + p.width / 2}px` }">{{ p.said }}</b>
    </template>
    <i v-if="span.to.value > end" class="beyond" :style="{ left: `${span.x(end)}px` }" />
    <div v-if="ends && span.sees(end)" class="clasp" tabindex="0" role="slider" data-test="piece-end" aria-label="End of the piece" :aria-valuenow="end" :aria-valuemin="shortest" :aria-valuemax="longest" :style="{ left: `${span.x(end)}px` }"
      :title="`The end of the piece: drag it, or arrows, to open and close the pleats; no shorter than ${shortest} frames`" @pointerdown="pull" @keydown="pullBy"><b v-if="would" class="num">{{ end }}</b></div>
  </div>
</template>

<style scoped>
.pleats { position: relative; height: 17px; margin-top: -3px; border: solid var(--rule-strong); border-width: 0 1px 1px; border-radius: 0 0 6px 6px; background: #efe6d0; user-select: none; touch-action: none; }
.pleats.edits { cursor: crosshair; }
svg { position: absolute; left: 0; top: 0; overflow: hidden; pointer-events: none; border-radius: 0 0 5px 5px; }
.front { fill: #dccca3; }
.back { fill: #c3ae7c; }
.marked { fill: rgba(46, 107, 78, 0.22); }
.held { position: absolute; top: 0; bottom: 0; background: linear-gradient(#fffdf6, #f3ead4); border: solid #b39d68; border-width: 0 1px; box-sizing: border-box; text-align: center; overflow: hidden; }
.edits .held { cursor: grab; }
.held b, .by { font-weight: 400; font-size: 10px; line-height: 17px; color: #5c4f2e; pointer-events: none; white-space: nowrap; }
.by { position: absolute; top: 0; transform: translateX(-50%); background: rgba(255, 254, 250, 0.82); border-radius: 4px; padding: 0 4px; line-height: 13px; top: 2px; color: var(--ink); }
.edge { position: absolute; left: 0; top: 0; bottom: 0; width: 7px; cursor: ew-resize; }
.edge.to { left: auto; right: 0; }
.edge::after { content: ''; position: absolute; left: 2px; top: 4px; bottom: 4px; width: 1px; background: #b39d68; box-shadow: 2px 0 0 #b39d68; }
.edge.to::after { left: auto; right: 4px; }
.beyond { position: absolute; top: -48px; bottom: 0; right: -1px; background: var(--linen); opacity: 0.9; pointer-events: none; }
.clasp { position: absolute; top: -12px; bottom: -1px; width: 9px; margin-left: -6px; border-radius: 4px; background: var(--ivy); cursor: ew-resize; touch-action: none; z-index: 3; }
.clasp::after { content: ''; position: absolute; left: 3px; right: 3px; top: 6px; bottom: 6px; border: solid rgba(255, 255, 255, 0.7); border-width: 0 1px; }
.clasp b { position: absolute; right: 12px; bottom: 2px; background: var(--ivy); color: #fff; font-weight: 500; font-size: 11px; border-radius: 4px; padding: 0 5px; }
</style>
