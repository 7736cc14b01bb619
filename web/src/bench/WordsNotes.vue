<script setup lang="ts">
import { computed } from 'vue'

import { plain } from '../common/format'
import { useWords } from '../common/words'
import { useActs } from './acts'

/** What is to be known of how words are set: what fitting found, what is missing, what does not fit. */
const props = defineProps<{ layer: string }>()
const { does } = useActs()
const list = useWords(() => props.layer)
const w = computed(() => list.value[0])
const set = computed(() => {
  if (!w.value) return ''
  if (!w.value.rows.length || !w.value.text.trim()) return 'Nothing is said: it shows nothing and takes no room.'
  return `${w.value.rows.length === 1 ? 'One line' : `${w.value.rows.length} lines`} at ${plain(w.value.size, 1)} px, ${plain(w.value.box[2]!, 0)} × ${plain(w.value.box[3]!, 0)}.`
})
</script>

<template>
  <div v-if="w" class="notes small" data-test="words-notes">
    <p class="quiet num">{{ set }}</p>
    <p v-if="w.over" class="bad" data-test="words-over">They don’t fit their box by any of the means below.</p>
    <p v-if="w.short" class="care">Their end is left out.</p>
    <p v-if="w.faceGone" class="bad">Their face is not here; another stands in.</p>
    <p v-if="w.missing" class="bad" data-test="words-missing">No face has {{ [...w.missing].join(' ') }}</p>
    <p v-if="w.standIns.length" class="quiet">{{ w.standIns.join(', ') }} {{ w.standIns.length === 1 ? 'stands' : 'stand' }} in for letters that the face doesn’t have.</p>
    <p v-if="w.stray" class="care">There are stray blanks, tabs or line ends in them. <button class="link" data-test="tidy" @click="does({ kind: 'tidy' })">Clean them</button></p>
    <button class="link" data-test="back-words" @click="does({ kind: 'back' })">Put a backing behind them</button>
  </div>
</template>

<style scoped>
.notes { display: grid; gap: 3px; justify-items: start; }
.bad { color: var(--rust); }
.care { color: #8a5a0f; }
.small { font-size: 12px; }
.link { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline; text-underline-offset: 3px; font-size: 12px; }
</style>
