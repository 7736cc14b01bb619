<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Format, Words } from '../api/client'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import WordsEditor from '../common/stage/WordsEditor.vue'
import { useTransient } from '../common/transient'
import { polygon } from '../common/wording'
import { useWords } from '../common/words'
import { useEntries } from './entries'

/** The wordings that the sheet asks for, typed on the picture itself. `said` is how one would be set, while it is on its way. */
const props = defineProps<{ format: Format; k: number; size: { w: number; h: number }; said: Words | null; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const { all, press, toCue } = useEntries()
const list = useWords(() => '')
/** Those that an editor may change here: shown, and of an entry that is. */
const mine = computed(() => list.value.filter((w) => w.shown && all.value.some((e) => e.id === w.entry)))
const open = computed(() => (props.said?.layer === selection.writing ? props.said : list.value.find((w) => w.layer === selection.writing)))
const entry = computed(() => all.value.find((e) => e.id === open.value?.entry))
const from = ref<{ clientX: number; clientY: number }>()

/** An empty wording is pressed where its box begins. */
function area(w: Words): string {
  const [x, y, wide, high] = w.box as [number, number, number, number]
  return wide > 0 ? polygon(w.map, { x: x - 4, y: y - 4, w: wide + 8, h: high + 8 }) : ''
}
function begin(e: MouseEvent | null, w: Words) {
  const asked = all.value.find((x) => x.id === w.entry)
  if (!asked) return
  toCue(asked)
  selection.layer = w.layer
  from.value = e ? { clientX: e.clientX, clientY: e.clientY } : undefined
  selection.writing = w.layer
}
function done() {
  transient.flush()
  selection.writing = ''
}
watch(() => doc.key, () => (selection.writing = ''))
</script>

<template>
  <svg v-if="!selection.writing && !selection.framing" class="areas" :viewBox="`0 0 ${format.width} ${format.height}`">
    <polygon v-for="w in mine" :key="w.layer" class="area" :points="area(w)" tabindex="0" role="button" :aria-label="`Type ${all.find((e) => e.id === w.entry)?.label}`" :data-words="w.layer" @pointerdown.stop @click.stop="begin($event, w)" @keydown.enter.prevent.stop="begin(null, w)"><title>{{ all.find((e) => e.id === w.entry)?.label }}: press to type here</title></polygon>
  </svg>
  <WordsEditor v-if="open && entry" :key="open.layer" :words="open" :label="entry.label" :k="k" :size="size" :at="at" :from="from" @typed="(t: string) => entry && (!entry.required || t.trim()) && press(entry, t)" @done="done" />
</template>

<style scoped>
.areas { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; pointer-events: none; z-index: 3; }
.area { fill: transparent; pointer-events: all; cursor: text; outline: none; stroke: transparent; stroke-width: 2; stroke-dasharray: 1 5; stroke-linecap: round; vector-effect: non-scaling-stroke; }
.area:hover { stroke: #d8b3cd; }
.area:focus-visible { stroke: #fff; stroke-dasharray: none; }
</style>
