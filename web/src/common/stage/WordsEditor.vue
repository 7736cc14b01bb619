<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, nextTick, onMounted, onScopeDispose, ref, watch } from 'vue'

import type { Words } from '../../api/client'
import { useDocument } from '../document'
import { useNotices } from '../notices'
import { pasteClean } from '../paste'
import { apply, inverse, type Projective } from '../projective'
import { chosen, polygon, rowEnds, spotAt, unitAt, unitOn } from '../wording'

/**
 * A wording that is typed on the picture itself. A field that can't be seen takes what is typed, so that every way of
 * writing works; caret and selection are drawn where the letters are set.
 */
const props = defineProps<{ words: Words; label: string; k: number; size: { w: number; h: number }; at: (p: { clientX: number; clientY: number }) => [number, number]; /** All of it is selected when it begins. */ all?: boolean; from?: { clientX: number; clientY: number } }>()
const emit = defineEmits<{ typed: [string]; done: []; marked: [number, number] }>()
const field = ref<HTMLTextAreaElement>()
const text = ref(props.words.text)
const sel = ref({ start: 0, end: 0, back: false })
const caret = computed(() => (sel.value.back ? sel.value.start : sel.value.end))
const lit = ref(true)
const blink = useTimeoutFn(function tick() {
  lit.value = !lit.value
  blink.start()
}, 530)
function wake() {
  lit.value = true
  blink.start()
}

const map = computed(() => props.words.map as unknown as Projective)
const spot = computed(() => spotAt(props.words, caret.value))
/** The caret as a line on the canvas, and where the hidden field stands for what composes letters. */
const line = computed(() => [apply(map.value, { x: spot.value.x, y: spot.value.top }), apply(map.value, { x: spot.value.x, y: spot.value.bottom })])
const marked = computed(() => (sel.value.start === sel.value.end ? [] : chosen(props.words, sel.value.start, sel.value.end).map((b) => polygon(props.words.map, b))))
const around = computed(() => {
  const [x, y, w, h] = props.words.box
  return w > 0 && h > 0 ? polygon(props.words.map, { x, y, w, h }) : ''
})

function read() {
  const f = field.value
  if (!f) return
  sel.value = { start: f.selectionStart, end: f.selectionEnd, back: f.selectionDirection === 'backward' }
  emit('marked', f.selectionStart, f.selectionEnd)
  wake()
}
function put(start: number, end = start, back = false) {
  field.value?.setSelectionRange(Math.min(start, end), Math.max(start, end), back ? 'backward' : 'forward')
  read()
}
/** What is typed, as long as there is room for it. */
function input() {
  const f = field.value!
  let t = f.value
  if (props.words.lines === 1) t = t.replace(/\n/g, ' ')
  const n = [...t].length
  if (n > props.words.letters) {
    useNotices().say('info', `There is room for ${props.words.letters} letters.`)
    t = [...t].slice(0, props.words.letters).join('')
  }
  if (t !== f.value) {
    const at = Math.min(f.selectionStart, t.length)
    f.value = t
    f.setSelectionRange(at, at)
  }
  text.value = t
  touched = true
  emit('typed', t)
  read()
}
/** Something was typed here: undo takes that back, in the field, until there is nothing left of it. */
let touched = false
/** Keys by which the caret goes where letters are set; all others are the field's own. */
let goal: number | null = null
function key(e: KeyboardEvent) {
  e.stopPropagation() // keys of the stage are not meant
  if (e.isComposing) return
  // Who types fast is ahead of where letters are set; until those follow, the field's own lines hold.
  const set = props.words.text === text.value
  const up = { ArrowUp: -1, ArrowDown: 1 }[e.key]
  if (up && !e.altKey && set) {
    e.preventDefault()
    const row = spot.value.row + up
    goal ??= spot.value.x
    const to = row < 0 ? 0 : row >= props.words.rows.length ? text.value.length : unitOn(props.words, row, goal)
    move(to, e.shiftKey)
    return
  }
  goal = null
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !touched) {
    e.preventDefault()
    void useDocument().step(e.shiftKey ? 'redo' : 'undo')
    return
  }
  if ((e.key === 'Home' || e.key === 'End') && !e.ctrlKey && !e.metaKey && set) {
    e.preventDefault()
    const [a, b] = rowEnds(props.words, spot.value.row)
    move(e.key === 'Home' ? a : b, e.shiftKey)
  } else if (e.key === 'Escape' || (e.key === 'Enter' && (props.words.lines === 1 || e.ctrlKey || e.metaKey))) {
    e.preventDefault()
    emit('done')
  } else if (e.key === 'Enter' && text.value.split('\n').length >= props.words.lines) {
    e.preventDefault()
    useNotices().say('info', `There is room for ${props.words.lines} lines.`)
  }
}
function move(to: number, keep: boolean) {
  if (!keep) return put(to)
  const fixed = sel.value.back ? sel.value.end : sel.value.start
  put(fixed, to, to < fixed)
}

// The pointer: a press puts the caret, a drag selects, a second press takes the word, a third all.
const unit = (e: { clientX: number; clientY: number }) => {
  const [x, y] = props.at(e)
  const p = apply(inverse(map.value), { x, y })
  return unitAt(props.words, p.x, p.y)
}
let begun: number | null = null
function press(e: PointerEvent) {
  if (e.button !== 0) return
  e.preventDefault()
  e.stopPropagation()
  field.value?.focus({ preventScroll: true })
  const u = unit(e)
  if (e.detail >= 3) return put(0, text.value.length)
  if (e.detail === 2) return put(...wordAt(u))
  if (e.shiftKey) return move(u, true)
  begun = u
  put(u)
  ;(e.target as Element).setPointerCapture(e.pointerId)
}
function drag(e: PointerEvent) {
  if (begun === null) return
  const u = unit(e)
  put(begun, u, u < begun)
}
const segments = new Intl.Segmenter(undefined, { granularity: 'word' })
function wordAt(u: number): [number, number] {
  const s = segments.segment(text.value).containing(Math.min(u, Math.max(0, text.value.length - 1)))
  return s ? [s.index, s.index + s.segment.length] : [0, text.value.length]
}
/** A double press comes as two single ones before it is told. */
function twice(e: MouseEvent) {
  e.stopPropagation()
  put(...wordAt(unit(e)))
}

// What changes elsewhere, by undo or in another window, comes in while nothing is being typed here.
watch(
  () => props.words.text,
  (t) => {
    const f = field.value
    if (!f || t === f.value || pending(t)) return
    f.value = text.value = t
    sent.length = 0 // what was typed before has been overtaken, and may come back by undo
    read()
  },
)
/** What the picture shows may be behind what was typed since. */
const sent: string[] = [props.words.text]
watch(text, (t) => {
  sent.push(t)
  if (sent.length > 40) sent.shift()
})
const pending = (t: string) => sent.includes(t)

onMounted(async () => {
  await nextTick()
  const f = field.value!
  f.value = text.value
  f.focus({ preventScroll: true })
  if (props.all) put(0, text.value.length)
  else if (props.from) put(unit(props.from))
  else put(text.value.length)
})
onScopeDispose(() => blink.stop())
</script>

<template>
  <svg class="ink" :viewBox="`0 0 ${size.w / k} ${size.h / k}`" data-test="writing">
    <polygon v-if="around" class="catch" :points="around" @pointerdown="press" @pointermove="drag" @pointerup="begun = null" @pointercancel="begun = null" @dblclick="twice" />
    <polygon v-for="(p, i) in marked" :key="i" class="chosen" :points="p" />
    <line v-show="lit" class="caret under" :x1="line[0]!.x" :y1="line[0]!.y" :x2="line[1]!.x" :y2="line[1]!.y" />
    <line v-show="lit" class="caret" :x1="line[0]!.x" :y1="line[0]!.y" :x2="line[1]!.x" :y2="line[1]!.y" data-test="caret" />
  </svg>
  <textarea
    ref="field" class="hand" :aria-label="label" dir="auto" spellcheck="true" autocapitalize="off" autocomplete="off" :rows="1" data-test="writing-field"
    :style="{ left: `${Math.min(size.w - 4, Math.max(0, line[0]!.x * k))}px`, top: `${Math.min(size.h - 4, Math.max(0, line[0]!.y * k))}px`, height: `${Math.max(14, Math.abs(line[1]!.y - line[0]!.y) * k)}px` }"
    @input="input" @keydown="key" @keyup="read" @select="read" @paste="(e) => pasteClean(e, words.lines)" @blur="emit('done')"
  />
</template>

<style scoped>
.ink { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; pointer-events: none; z-index: 5; }
.catch { fill: transparent; stroke: #d8b3cd; stroke-width: 1.4; stroke-dasharray: 2 4; stroke-linecap: round; vector-effect: non-scaling-stroke; pointer-events: all; cursor: text; touch-action: none; }
.chosen { fill: rgba(123, 63, 102, 0.42); pointer-events: none; }
.caret { stroke: #fff; stroke-width: 2; vector-effect: non-scaling-stroke; pointer-events: none; }
.caret.under { stroke: #7b3f66; stroke-width: 4.5; }
/* It is there for what writes, and for those who can't see the picture. */
.hand { position: absolute; width: 2px; padding: 0; border: 0; margin: 0; opacity: 0; resize: none; overflow: hidden; white-space: pre; font-size: 16px; z-index: 5; outline: none; }
</style>
