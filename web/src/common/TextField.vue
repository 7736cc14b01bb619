<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { NInput } from 'naive-ui'
import { computed, onBeforeUnmount, onScopeDispose, ref, watch } from 'vue'

import { useDocument } from './document'
import { pasteClean } from './paste'

/**
 * A text that is kept as it is typed, or when the field is left. What is typed stands: no answer writes over it while somebody types, leaving
 * the field, the document or the page keeps it, and undo is the field's own until nothing that was typed is left.
 *
 * With `live`, `press` tells of it on the way and whoever listens keeps it in time; `change` tells of what is meant when the field is left.
 * `lines` is how many it may have, `most` how many letters, in code points. What is `needed` is not kept while it is empty. Escape gives
 * up what was typed, unless it was told of already.
 */
const props = withDefaults(
  defineProps<{ value: string; label: string; lines?: number; rows?: { minRows: number; maxRows: number }; most?: number; placeholder?: string; size?: 'tiny' | 'small' | 'medium'; needed?: boolean; live?: boolean; disabled?: boolean; plain?: boolean; tidy?: boolean }>(),
  { lines: 1, size: 'small', placeholder: '' },
)
const emit = defineEmits<{ press: [string]; change: [string] }>()
const doc = useDocument()

const text = ref(props.value)
const here = ref(false)
/** Something was typed since the field was entered, or since it followed what changed elsewhere. */
const touched = ref(false)
/** What was told of, and may still come back as an answer. */
let sent: string[] = []
const told = () => sent.at(-1) ?? props.value
watch(
  () => props.value,
  (v) => {
    if (v === text.value) return void (sent = sent.length ? [v] : []) // all answers have come
    // An answer to what was typed before is behind what is typed now.
    if (here.value && touched.value && (sent.includes(v) || !props.live)) return
    if (!here.value && sent.includes(v) && v !== told()) return
    text.value = v
    touched.value = false
    sent = []
  },
)

/** Empties at the ends don't count for what must be there. */
const meant = (t: string) => !props.needed || !!t.trim()
function typed(v: string) {
  const line = props.lines === 1 ? v.replace(/\s*\n\s*/g, ' ') : v.split('\n').slice(0, props.lines).join('\n')
  text.value = [...line].slice(0, props.most ?? Infinity).join('')
  touched.value = true
  if (!props.live || !meant(text.value)) return
  tell()
  emit('press', text.value)
}
function tell() {
  sent.push(text.value)
  if (sent.length > 60) sent.shift()
}
/** Keeps what was typed. */
function keep() {
  if (!touched.value) return
  if (!meant(text.value)) text.value = told()
  else if (text.value !== told()) {
    tell()
    emit('change', text.value)
  }
  touched.value = false
}
function enter() {
  here.value = true
  touched.value = false
}
function leave() {
  here.value = false
  keep()
}
function key(e: KeyboardEvent) {
  if (e.isComposing) return
  const f = e.target as HTMLElement
  if (e.key === 'Enter' && props.lines === 1 && !e.ctrlKey && !e.metaKey) {
    e.preventDefault()
    f.blur()
  } else if (e.key === 'Escape') {
    e.stopPropagation()
    if (!props.live) {
      text.value = told()
      touched.value = false
    }
    f.blur()
  } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !touched.value && doc.home) {
    // Nothing was typed here: what was done last goes back.
    e.preventDefault()
    e.stopPropagation()
    void doc.step(e.shiftKey ? 'redo' : 'undo')
  }
}

/** A letter beyond the first 65,536 counts as two to the browser's own field; the last one that there is room for may be such. */
const units = computed(() => {
  if (!props.most) return undefined
  const left = props.most - [...text.value].length
  return text.value.length + left + (left > 0 ? 1 : 0)
})
onScopeDispose(doc.leaving(keep))
useEventListener(window, 'pagehide', keep)
onBeforeUnmount(keep)
defineExpose({ text })
</script>

<template>
  <NInput :value="text" :size="size" :type="rows ? 'textarea' : 'text'" :autosize="rows ?? false" :maxlength="units" :placeholder="placeholder" :disabled="disabled"
    :input-props="{ 'aria-label': label, spellcheck: !plain, dir: 'auto' }" @update:value="typed" @focus="enter" @blur="leave" @keydown="key" @paste="(p: ClipboardEvent) => tidy && pasteClean(p, lines)" />
</template>
