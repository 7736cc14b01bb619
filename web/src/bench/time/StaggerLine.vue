<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { useDrag } from '../../common/drag'

/**
 * What several layers do on one line: of each a tick where it begins and a stroke as long as it takes. The leaf at the first
 * moves all of them, the one at the last spreads them.
 */
const props = defineProps<{ list: { id: string; name: string; from: number; until: number }[] }>()
const emit = defineEmits<{ draft: [number, number]; change: [number, number]; press: [number, number]; cancel: [] }>()
const el = ref<HTMLElement>()
const { width } = useElementSize(el)
const drag = useDrag()
const first = computed(() => Math.min(...props.list.map((y) => y.from)))
const last = computed(() => Math.max(...props.list.map((y) => y.from)))
const until = computed(() => Math.max(...props.list.map((y) => y.until)))
/** The line as it is while something is dragged: its scale stays. */
const held = ref<{ from: number; to: number } | null>(null)
const range = computed(() => held.value ?? { from: first.value - (until.value - first.value) * 0.08 - 1, to: until.value + (until.value - first.value) * 0.25 + 1 })
const x = (at: number) => 8 + ((at - range.value.from) / (range.value.to - range.value.from)) * Math.max(1, width.value - 16)
const px = computed(() => Math.max(1, width.value - 16) / (range.value.to - range.value.from))
const at = ref<{ from: number; spread: number } | null>(null)
const now = computed(() => at.value ?? { from: first.value, spread: last.value - first.value })
function take(e: PointerEvent, what: 'from' | 'spread') {
  const was = { from: first.value, spread: last.value - first.value }
  const to = (dx: number) => (what === 'from' ? { from: Math.round(was.from + dx / px.value), spread: was.spread } : { from: was.from, spread: Math.round(was.spread + dx / px.value) })
  drag(e, {
    slack: 2,
    move: (d) => {
      held.value ??= { ...range.value }
      const n = to(d.dx)
      if (at.value?.from === n.from && at.value.spread === n.spread) return
      at.value = n
      emit('draft', n.from, n.spread)
    },
    end: (d) => {
      const n = to(d.dx)
      at.value = held.value = null
      emit('change', n.from, n.spread)
    },
    cancel: () => {
      at.value = held.value = null
      emit('cancel')
    },
  })
}
/** A burst of keys goes on from what was asked for before. */
const asked = ref<{ from: number; spread: number } | null>(null)
watch(() => props.list.map((y) => y.from).join(), () => (asked.value = null))
function key(e: KeyboardEvent, what: 'from' | 'spread') {
  const n = ({ ArrowLeft: -1, ArrowRight: 1 }[e.key] ?? 0) * (e.shiftKey ? 10 : 1)
  if (!n) return
  const was = asked.value ?? now.value
  asked.value = { from: was.from + (what === 'from' ? n : 0), spread: was.spread + (what === 'spread' ? n : 0) }
  emit('press', asked.value.from, asked.value.spread)
  e.preventDefault()
  e.stopPropagation()
}
const leaf = 'M0 9C-6 5 -6 -3 0 -9 6 -3 6 5 0 9Z'
</script>

<template>
  <div ref="el" class="line" data-test="stagger-line">
    <svg :width="width" height="34">
      <path class="axis" :d="`M4 22H${width - 4}`" />
      <g v-for="y in list" :key="y.id"><title>{{ y.name }}: frames {{ Math.round(y.from) }} to {{ Math.round(y.until) }}</title><path class="long" :d="`M${x(y.from)} 22H${x(y.until)}`" /><path class="tick" :d="`M${x(y.from)} 14V30`" /></g>
      <g class="handle" role="slider" tabindex="0" :aria-valuenow="now.from" aria-label="The first begins" :transform="`translate(${x(now.from)} 11)`" data-test="stagger-from" @pointerdown="take($event, 'from')" @keydown="key($event, 'from')"><title>The first begins at frame {{ now.from }}: drag all of them</title><path :d="leaf" /></g>
      <g class="handle last" role="slider" tabindex="0" :aria-valuenow="now.spread" aria-label="From the first to the last" :transform="`translate(${x(now.from + now.spread)} 11)`" data-test="stagger-spread" @pointerdown="take($event, 'spread')" @keydown="key($event, 'spread')"><title>{{ now.spread }} frames from the first to the last: drag to spread them</title><path :d="leaf" /></g>
    </svg>
  </div>
</template>

<style scoped>
.line { height: 34px; border: 1px solid var(--rule); border-radius: 8px; background: #fffefa; overflow: hidden; }
.axis { stroke: var(--rule-strong); }
.tick { stroke: var(--ink); stroke-width: 1.4; }
.long { stroke: #e7a13a; stroke-width: 5; opacity: 0.28; }
.handle { cursor: ew-resize; touch-action: none; outline-offset: 1px; }
.handle path { fill: #e7a13a; stroke: #6b4a12; stroke-width: 0.9; }
.handle.last path { fill: var(--ivy); stroke: #12301f; }
</style>
