<script setup lang="ts">
import { IconArrowBackUp, IconChevronDown, IconChevronRight, IconWind } from '@tabler/icons-vue'
import { computed, ref, watch } from 'vue'

import type { Act, LayerLine, PerformanceLine } from '../../api/client'
import { useDocument } from '../../common/document'
import { useDrag, type Drag } from '../../common/drag'
import { useSelection } from '../../common/selection'
import type { TimeWindow } from '../../common/stage/window'
import { useTransient } from '../../common/transient'
import { useActs, type Deed } from '../acts'
import { useTool } from '../tool'
import { useInstants } from './instants'
import { useLength } from './length'
import { useMotion } from './motion'

/** A move that a layer performs, in time: slid as a whole, drawn out at its ends, by pointer and by keys; unfolded to its keys. */
const props = defineProps<{ y: LayerLine; line: PerformanceLine; span: TimeWindow; slid: number }>()
const doc = useDocument()
const selection = useSelection()
const motion = useMotion()
const tool = useTool()
const length = useLength()
const transient = useTransient()
const { act, does, locked } = useActs()
const drag = useDrag()
const instants = useInstants(() => props.span)

const path = computed(() => `layers/${props.y.id}/moves/${props.line.id}`)
const name = computed(() => `${props.y.id} ${props.line.id}`)
const tracks = computed(() => props.y.tracks.filter((t) => t.by === props.line.id))
type Way = 'slide' | 'from' | 'until'
const moving = ref<{ way: Way; by: number } | null>(null)
watch(() => doc.draft?.revision, () => (moving.value = null))
const shown = computed(() => {
  let [from, until] = [props.line.from + props.slid, props.line.until + props.slid]
  const m = moving.value
  if (m && m.way !== 'until') from += m.by
  if (m && m.way !== 'from') until += m.by
  const [left, right] = [props.span.x(from), props.span.x(until)]
  return { left: Math.max(-40, left), width: Math.max(4, Math.min(props.span.width.value + 40, right) - Math.max(-40, left)), from, until }
})
const time = (frames: number, way = ''): Deed => ({ kind: 'move-time', way, frames, paths: [path.value], layers: [] })
const op = (way: Way, n: number): Act => (way === 'slide' ? act(time(n)) : way === 'until' ? act(time(n, 'length')) : { ...act({ kind: 'batch', layers: [] }), ops: [act(time(n)), act(time(-n, 'length'))] })
const long = () => Math.round(props.line.until - props.line.from)

function take(e: PointerEvent, way: Way) {
  if (e.button !== 0) return
  e.stopPropagation()
  if (!selection.layers.includes(props.y.id)) selection.layers = [props.y.id]
  tool.performance = props.line.id
  if (locked(props.y.id) || length.away()) return
  const edges = way === 'slide' ? [props.line.from, props.line.until] : [way === 'from' ? props.line.from : props.line.until]
  const to = instants.all({ key: (p) => p.startsWith(`${path.value}/`) })
  const by = (d: Drag) => {
    const n = Math.round(d.dx / props.span.px.value)
    const drawn = d.ctrl ? n : instants.drawn(edges, n, to)
    return way === 'from' ? Math.min(drawn, long() - 1) : way === 'until' ? Math.max(drawn, 1 - long()) : drawn
  }
  drag(e, {
    slack: 3,
    move: (d) => {
      const n = by(d)
      if (moving.value?.by === n) return
      moving.value = { way, by: n }
      if (n) transient.show(op(way, n))
      else transient.hide()
    },
    end: (d) => {
      const n = by(d)
      if (!n) {
        transient.hide()
        return void (moving.value = null)
      }
      void transient.keep(op(way, n)).then((kept) => kept || (moving.value = null))
    },
    cancel: () => {
      moving.value = null
      transient.hide()
    },
  })
}
function key(e: KeyboardEvent) {
  const n = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (n && e.altKey) void does(time(n * (e.shiftKey ? 10 : 1), 'length'))
  else if (n) void does(time(n * (e.shiftKey ? 10 : 1)))
  else if (e.key === 'Delete' || e.key === 'Backspace') void does({ kind: 'remove', path: path.value, layers: [] })
  else if (e.key === 'Enter') {
    selection.layers = [props.y.id]
    tool.performance = props.line.id
  } else return
  e.preventDefault()
  e.stopPropagation()
}
const said = computed(() => `${props.line.label}${props.line.back ? ', backwards' : ''}: frames ${Math.round(props.line.from * 100) / 100} to ${Math.round(props.line.until * 100) / 100}`)
</script>

<template>
  <div class="row" role="listitem" :data-performance="path">
    <button v-if="tracks.length" class="fold" tabindex="-1" :aria-expanded="motion.isOpen(name)" :aria-label="`Keys of ${line.label}`" title="Its keys: what is changed there is changed for all who perform it" :data-performance-keys="path" @click="motion.open(name)"><component :is="motion.isOpen(name) ? IconChevronDown : IconChevronRight" :size="12" /></button>
    <div class="bar" tabindex="0" role="button" :class="{ off: line.off, on: tool.performance === line.id && selection.layers.includes(y.id) }" :style="{ left: `${shown.left}px`, width: `${shown.width}px` }"
      :aria-label="`${y.name} performs ${said}`" :title="`${said}. Drag, or arrows: slide; its ends, or Alt and arrows: draw it out`" @pointerdown="take($event, 'slide')" @keydown="key">
      <i class="end" data-end="from" @pointerdown="take($event, 'from')" /><i class="end out" data-end="until" @pointerdown="take($event, 'until')" />
    </div>
    <span class="name" :style="{ left: `${Math.max(20, Math.min(shown.left + 8, span.width.value - 90))}px` }"><component :is="line.back ? IconArrowBackUp : IconWind" :size="12" />{{ line.label }}</span>
  </div>
</template>

<style scoped>
.row { position: relative; height: 24px; border-bottom: 1px solid var(--rule); background: repeating-linear-gradient(90deg, rgba(120, 105, 70, 0.05) 0 1px, transparent 1px 9px); }
.row.quiet { opacity: 0.55; }
.row.on { background-color: rgba(46, 107, 78, 0.05); }
.fold { position: absolute; left: 0; top: 3px; z-index: 3; width: 17px; height: 17px; padding: 0; border: 0; border-radius: 4px; background: rgba(255, 254, 250, 0.8); display: grid; place-items: center; cursor: pointer; }
.bar { position: absolute; top: 4px; height: 15px; border-radius: 8px 3px 8px 3px; background: #f6dfb4; border: 1px solid #c99a45; cursor: grab; touch-action: none; }
.bar.on { border-color: var(--ivy); box-shadow: 0 0 0 1px var(--ivy); }
.bar.off { opacity: 0.45; border-style: dashed; }
.end { position: absolute; left: -4px; top: -2px; bottom: -2px; width: 9px; cursor: ew-resize; touch-action: none; }
.end.out { left: auto; right: -4px; }
.name { position: absolute; top: 4px; display: flex; align-items: center; gap: 4px; font-size: 11px; line-height: 15px; white-space: nowrap; pointer-events: none; color: var(--ink); }
</style>
