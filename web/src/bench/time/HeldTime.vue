<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Part } from '../../api/client'
import { useCommands } from '../../common/commands'
import { useDocument } from '../../common/document'
import { useDrag } from '../../common/drag'
import { useTransient } from '../../common/transient'
import { useTransport } from '../../common/transport'
import PleatRow from '../../common/stage/PleatRow.vue'
import type { TimeWindow } from '../../common/stage/window'
import { useActs } from '../acts'
import { useInstants } from './instants'
import { useLength } from './length'

/** Held time on the designer's strip: made by dragging over the pleats, moved and resized, and let go again. */
const props = defineProps<{ span: TimeWindow }>()
const doc = useDocument()
const transport = useTransport()
const transient = useTransient()
const length = useLength()
const { act, does } = useActs()
const instants = useInstants(() => props.span)
const drag = useDrag()
const draft = computed(() => doc.draft!)

/** What is being dragged, before the document knows of it. */
const shown = ref<Part[] | null>(null)
const marked = ref<{ from: number; to: number } | null>(null)
const held = computed(() => draft.value.time.filter((p) => p.kind === 'held'))

/** The parts as they are when one of the held ones lies elsewhere. */
function moved(id: string, from: number, to: number): Part[] {
  const out: Part[] = []
  let at = 0
  const gap = (to: number) => to > at && out.push({ id: '', kind: 'elastic', from: at, to, at, until: to })
  for (const p of held.value) {
    const [a, b] = p.id === id ? [from, to] : [p.from, p.to]
    gap(a)
    out.push({ ...p, from: a, to: b, at: a, until: b })
    at = b
  }
  gap(draft.value.frames)
  return out
}

function grab(e: PointerEvent, what: { id: string; way: 'from' | 'to' | '' } | { from: number }) {
  if (e.button !== 0 || length.away()) return
  const px = props.span.px.value
  const over = () => {
    shown.value = null
    marked.value = null
  }
  const keep = (op: ReturnType<typeof act>) => void transient.keep(op).then(over)
  if (!('id' in what)) {
    const to = instants.all({})
    const frame = (n: number) => Math.max(0, Math.min(draft.value.frames, n))
    const at = (n: number, free: boolean) => frame(free ? Math.round(n) : Math.round(n) + instants.drawn([Math.round(n)], 0, to))
    const first = at(what.from, e.ctrlKey)
    const ends = (dx: number, free: boolean): [number, number] => {
      const other = at(what.from + dx / px, free)
      return [Math.min(first, other), Math.max(first, other)]
    }
    drag(e, {
      slack: 3,
      move: (d) => {
        const [from, to] = ends(d.dx, d.ctrl)
        marked.value = { from, to }
      },
      end: (d) => {
        const [from, to] = ends(d.dx, d.ctrl)
        if (to > from) keep(act({ kind: 'hold', from: [from, to], layers: [] }))
        else over()
      },
      cancel: over,
    })
    return
  }
  const i = held.value.findIndex((p) => p.id === what.id)
  const p = held.value[i]
  if (!p) return
  const to = instants.all({ held: p.id })
  const [least, most] = [held.value[i - 1]?.to ?? 0, held.value[i + 1]?.from ?? draft.value.frames]
  const edges = what.way === '' ? [p.from, p.to] : [p[what.way]]
  const by = (dx: number, free: boolean) => {
    const n = Math.round(dx / px)
    const k = free ? n : instants.drawn(edges, n, to)
    if (what.way === 'from') return Math.max(least, Math.min(p.to - 1, p.from + k)) - p.from
    if (what.way === 'to') return Math.min(most, Math.max(p.from + 1, p.to + k)) - p.to
    return Math.max(least - p.from, Math.min(most - p.to, k))
  }
  drag(e, {
    slack: 3,
    move: (d) => {
      const n = by(d.dx, d.ctrl)
      shown.value = moved(p.id, p.from + (what.way === 'to' ? 0 : n), p.to + (what.way === 'from' ? 0 : n))
    },
    end: (d) => {
      const n = by(d.dx, d.ctrl)
      if (n) keep(act({ kind: 'border', id: p.id, way: what.way, frames: n, layers: [] }))
      else over()
    },
    cancel: over,
  })
}
function key(e: KeyboardEvent, p: Part) {
  const n = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (e.key === 'Delete' || e.key === 'Backspace') void does({ kind: 'loosen', from: [p.from, p.to], layers: [] })
  else if (n) {
    if (!length.away()) void does({ kind: 'border', id: p.id, way: e.altKey ? (e.shiftKey ? 'from' : 'to') : '', frames: n * (e.shiftKey && !e.altKey ? 10 : 1), layers: [] })
  } else return
  e.preventDefault()
  e.stopPropagation()
}
/** The loop's time is held, or let go where all of it is. */
function holdRange() {
  const r = transport.range ?? { from: transport.frame, to: transport.frame + 1 }
  if (length.away()) return
  const all = held.value.some((p) => p.from <= r.from && r.to <= p.to)
  void does({ kind: all ? 'loosen' : 'hold', from: [r.from, r.to], layers: [] })
}
useCommands({ 'hold-time': holdRange }, () => !!doc.draft)

const lasts = (n: number, now: 'moving' | 'end' | 'cancel') => void length.tryOut(now === 'cancel' ? draft.value.frames : n)
</script>

<template>
  <PleatRow :span="span" :time="shown ?? draft.time" edits :ends="draft.longest > draft.shortest" :shortest="draft.shortest" :longest="draft.longest" :marked="marked" @grab="grab" @key="key" @lasts="lasts" />
</template>
