<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { NPopover } from 'naive-ui'
import { computed, nextTick, onBeforeUnmount, onScopeDispose, ref, watch } from 'vue'

import { arithmetic } from './arithmetic'
import { useDocument } from './document'
import { useDrag } from './drag'
import { plain } from './format'

/**
 * A number with its unit: drag it to scrub, type a sum, use the arrow keys
 * (Shift ×10, Alt ×0.1), double-click to reset: to `reset`, or with `resets` to
 * whatever the one who listens to it knows. `draft` tells of values on the
 * way, `press` of one by a key, which others may follow, `change` of one that is
 * meant, `cancel` that none was. `name` is what it is called where its label alone says too little.
 */
const props = withDefaults(
  defineProps<{ value: number; label: string; name?: string; unit?: string; step?: number; min?: number; max?: number; reset?: number; resets?: boolean; places?: number; readonly?: boolean; note?: string }>(),
  { step: 1, places: 2, unit: '', min: -Infinity, max: Infinity },
)
const emit = defineEmits<{ draft: [number]; press: [number]; change: [number]; reset: []; cancel: [] }>()

const typing = ref(false)
const text = ref('')
const drafted = ref<number | null>(null)
/** Why what was typed can't be kept. */
const wrong = ref('')
/** What was made of it, for a moment. */
const told = ref('')
let telling: ReturnType<typeof setTimeout> | undefined
function tell(what: string) {
  told.value = what
  clearTimeout(telling)
  telling = setTimeout(() => (told.value = ''), 4000)
}
const field = ref<HTMLInputElement>()
const root = ref<HTMLElement>()
const shown = computed(() => plain(drafted.value ?? wish.value ?? props.value, props.places))

const doc = useDocument()
/** What was last asked for, until it is there: the next key goes on from it. */
const wish = ref<number | null>(null)
const meant = () => wish.value ?? props.value
/** What was asked for before that and may still come. */
let asked: number[] = []
let gone: ReturnType<typeof setTimeout> | undefined
function forget() {
  clearTimeout(gone)
  wish.value = null
  asked = []
}
function want(v: number) {
  wish.value = v
  asked.push(v)
  clearTimeout(gone)
  gone = setTimeout(overdue, ANSWERED)
}
/** So long after the last change was answered what is shown is what there is, in ms: it was refused, or became something else. */
const ANSWERED = 3000
function overdue() {
  if (doc.saving) gone = setTimeout(overdue, ANSWERED)
  else forget()
}
watch(
  () => props.value,
  (v) => (v === wish.value || !asked.some((x) => Math.abs(x - v) < 1e-6)) && forget(),
)
/** Tells of a value that is meant. */
function mean(v: number) {
  want(v)
  emit('change', v)
}
onBeforeUnmount(() => {
  clearTimeout(gone)
  clearTimeout(telling)
})

const clamp = (v: number) => Math.min(props.max, Math.max(props.min, Number(v.toFixed(6))))

/** Lets the number be typed, as it is or from nothing. */
async function type(anew = false) {
  if (props.readonly || typing.value) return
  text.value = anew ? '' : shown.value.replace('−', '-')
  typing.value = true
  wrong.value = ''
  await nextTick()
  field.value?.focus()
  field.value?.select()
}
function typed() {
  if (!typing.value) return
  wrong.value = ''
  if (text.value.trim()) {
    const sum = arithmetic(text.value, props.unit)
    if ('why' in sum) wrong.value = sum.why
    else {
      const v = clamp(sum.value)
      if (sum.value < props.min) tell(`Not below ${plain(v, props.places)}`)
      if (sum.value > props.max) tell(`Not above ${plain(v, props.places)}`)
      if (v !== meant()) mean(v)
    }
    // What can't be kept stays where it was typed, to be mended or given up.
    if (wrong.value) return
  }
  typing.value = false
}
function key(e: KeyboardEvent) {
  const by = e.key === 'ArrowUp' || e.key === 'ArrowRight' ? 1 : e.key === 'ArrowDown' || e.key === 'ArrowLeft' ? -1 : 0
  if (props.readonly) return
  if (by) {
    e.preventDefault()
    e.stopPropagation()
    const v = clamp(meant() + by * props.step * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1))
    if (v === meant()) return
    want(v)
    emit('press', v)
  } else if (e.key === 'Enter' || /^[\d(.-]$/.test(e.key)) {
    e.stopPropagation()
    // The field is there before the character is put in: it goes into it.
    if (e.key === 'Enter') e.preventDefault()
    void type(e.key !== 'Enter')
  }
}
async function done(e: KeyboardEvent) {
  e.stopPropagation()
  last = -Infinity // a press after it is a first one
  if (e.key === 'Escape') {
    typing.value = false
    wrong.value = ''
  } else if (e.key === 'Enter') typed()
  else return
  await nextTick()
  if (!typing.value) root.value?.focus()
}

const drag = useDrag()
/** The whole box is what is pressed and dragged; a second press soon after the first resets. */
function scrub(e: PointerEvent) {
  if (props.readonly || e.button !== 0) return
  const second = again()
  if (second && (props.resets || props.reset !== undefined)) {
    typing.value = false
    wrong.value = ''
    if (props.resets) emit('reset')
    else if (props.reset !== meant()) mean(props.reset!)
    void nextTick(() => root.value?.focus())
    return
  }
  if (typing.value) return
  root.value?.focus({ preventScroll: true })
  const from = meant()
  drag(e, {
    slack: 3,
    move: (d) => {
      last = -Infinity
      const v = clamp(from + Math.round(d.dx / 2) * props.step * (d.shift ? 10 : d.alt ? 0.1 : 1))
      if (v === drafted.value) return
      drafted.value = v
      emit('draft', v)
    },
    end: () => {
      if (drafted.value !== null) mean(drafted.value)
      drafted.value = null
    },
    press: () => void type(),
    cancel: () => {
      drafted.value = null
      emit('cancel')
    },
  })
}
/** Beside the digits a press leaves the focus where `scrub` puts it; in them the caret goes where it was pressed. */
const held = (e: MouseEvent) => !props.readonly && e.target !== field.value && e.preventDefault()
/** So soon after one press another is the second of two, in ms. */
const TWICE = 300
let last = -Infinity
function again(): boolean {
  const now = performance.now()
  const second = now - last < TWICE
  last = second ? -Infinity : now
  return second
}
defineExpose({ type })
/** What was typed and not entered is kept with what it belongs to. */
onScopeDispose(doc.leaving(typed))
useEventListener(window, 'pagehide', typed)
onBeforeUnmount(typed)
</script>

<template>
  <div class="field" :class="{ readonly, wrong: !!wrong, typing }" @pointerdown="scrub" @mousedown="held" :title="note ?? (readonly ? undefined : 'Drag, type a sum, arrow keys; double-click resets')">
    <span class="label">{{ label }}</span>
    <input v-if="typing" ref="field" v-model="text" class="num" :aria-label="name ?? label" :aria-invalid="!!wrong" @input="wrong = ''" @blur="typed" @keydown="done" />
    <span v-else ref="root" class="num value" :role="readonly ? undefined : 'spinbutton'" :tabindex="readonly ? undefined : 0" :aria-label="readonly ? undefined : name ?? label"
      :aria-valuenow="readonly ? undefined : meant()" :aria-valuetext="readonly ? undefined : `${shown} ${unit}`" @keydown="key">{{ shown }}<span v-if="unit" class="unit">{{ unit }}</span></span>
    <NPopover v-if="wrong || told" show trigger="manual" placement="bottom-end" :style="{ maxWidth: '250px' }">
      <template #trigger><i class="hook" /></template>
      <span v-if="wrong" role="alert" data-test="why">{{ wrong }}. Escape: as it was.</span>
      <span v-else role="status" data-test="why">{{ told }}.</span>
    </NPopover>
  </div>
</template>

<style scoped>
.field { position: relative; display: flex; align-items: baseline; justify-content: space-between; gap: 6px; min-width: 0; padding: 3px 8px; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; }
.field:hover:not(.readonly) { border-color: var(--rule-strong); }
.field:focus-within { border-color: var(--ivy); box-shadow: 0 0 0 1px var(--ivy); }
.field.readonly { background: transparent; border-color: transparent; border-bottom-color: var(--rule); border-radius: 0; padding-left: 0; padding-right: 0; }
.field.wrong { border-color: var(--rust); background: var(--rust-wash); }
.hook { position: absolute; right: 8px; bottom: 0; }
.label { color: var(--ink-quiet); white-space: nowrap; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.field:not(.readonly) { cursor: ew-resize; user-select: none; touch-action: none; }
.field.typing { cursor: text; }
.value { white-space: nowrap; }
.value:focus-visible { outline-offset: 3px; }
.unit { color: var(--ink-quiet); margin-left: 3px; font-size: 11px; }
input { width: 84px; border: 0; background: none; text-align: right; outline: none; color: var(--ink); padding: 0; }
</style>
