<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Entry } from '../api/client'
import { pasteClean } from './paste'

/** A wording of the sheet, as it is typed in a field. `press` tells of it on the way, `change` when it is meant. */
const props = defineProps<{ e: Entry; value: string }>()
const emit = defineEmits<{ press: [string]; change: [string] }>()

const text = ref(props.value)
const typing = ref(false)
watch(() => props.value, (v) => !typing.value && (text.value = v))
const lines = computed(() => props.e.lines)
/** A long line is shown whole, on as many rows as it takes. */
const rows = computed(() => (lines.value > 1 ? { minRows: 2, maxRows: 8 } : props.e.letters > 30 ? { minRows: 1, maxRows: 4 } : null))
function enter(k: KeyboardEvent) {
  if (lines.value > 1 || k.isComposing) return
  k.preventDefault()
  ;(k.target as HTMLElement).blur()
}
/** How much room is left, where it is getting scarce. */
const left = computed(() => props.e.letters - [...text.value].length)
const scarce = computed(() => props.e.letters < 2000 && left.value <= Math.max(5, props.e.letters / 4))

/** The room as a field counts it, to which a letter beyond the first 65,536 is two; the last one may be such. */
const units = computed(() => text.value.length + left.value + (left.value > 0 ? 1 : 0))

function typed(v: string) {
  const kept = lines.value === 1 ? v.replace(/\s*\n\s*/g, ' ') : v.split('\n').slice(0, lines.value).join('\n')
  text.value = [...kept].slice(0, props.e.letters).join('')
  if (props.e.required && !text.value.trim()) return // nothing is kept while it is empty
  emit('press', text.value)
}
function done() {
  typing.value = false
  if (props.e.required && !text.value.trim()) text.value = props.value
  else if (text.value !== props.value) emit('change', text.value)
}
</script>

<template>
  <div class="words">
    <NInput :value="text" size="small" :type="rows ? 'textarea' : 'text'" :autosize="rows ?? false" :maxlength="units" placeholder="Nothing is said" :input-props="{ 'aria-label': e.label, spellcheck: true, dir: 'auto' }" @focus="typing = true" @update:value="typed" @blur="done" @paste="(p: ClipboardEvent) => pasteClean(p, lines)" @keydown.enter="enter" />
    <span v-if="scarce" class="left num quiet" :title="`There is room for ${e.letters} letters`">{{ left }} left</span>
  </div>
</template>

<style scoped>
.left { display: block; padding-right: 9px; text-align: right; font-size: 10.5px; line-height: 1.3; }
</style>
