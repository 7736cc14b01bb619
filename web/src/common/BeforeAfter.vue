<script setup lang="ts">
import { NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Looks } from '../api/client'

/** Two states of a picture beside each other, at the cues and in the formats that either has. */
const props = defineProps<{ looks: Looks; before: string; after: string; picture: (side: 'before' | 'after', format: string, cue: string) => string }>()
const format = ref('')
const cue = ref('')
watch(() => props.looks, (l) => {
  if (!l.formats.some((f) => f.id === format.value)) format.value = l.formats[0]?.id ?? ''
  if (!l.cues.some((c) => c.id === cue.value)) cue.value = (l.cues.find((c) => c.name === 'Poster') ?? l.cues[0])?.id ?? ''
}, { immediate: true })
const f = computed(() => props.looks.formats.find((x) => x.id === format.value))
const c = computed(() => props.looks.cues.find((x) => x.id === cue.value))
const sides = computed(() => (['before', 'after'] as const).map((side) => ({ side, title: props[side], there: !!f.value?.[side] && !!c.value?.[side] })))
</script>

<template>
  <div class="pair" data-test="before-after">
    <div class="choose">
      <NRadioGroup v-if="looks.formats.length > 1" v-model:value="format" size="small" aria-label="Format"><NRadioButton v-for="x in looks.formats" :key="x.id" :value="x.id">{{ x.name }}</NRadioButton></NRadioGroup>
      <NRadioGroup v-if="looks.cues.length > 1" v-model:value="cue" size="small" aria-label="Cue"><NRadioButton v-for="x in looks.cues" :key="x.id" :value="x.id" :data-cue="x.id">{{ x.name }}</NRadioButton></NRadioGroup>
    </div>
    <figure v-for="s in sides" :key="s.side">
      <figcaption class="quiet">{{ s.title }}</figcaption>
      <div class="frame"><img v-if="s.there" :key="picture(s.side, format, cue)" :src="picture(s.side, format, cue)" :alt="`${s.title}, ${f!.name}, ${c!.name}`" :data-look="s.side" /><span v-else class="none">{{ f?.[s.side] ? 'no such cue' : 'no such format' }}</span></div>
    </figure>
  </div>
</template>

<style scoped>
.pair { display: grid; grid-template-columns: 1fr 1fr; gap: 8px 12px; }
.choose { grid-column: 1 / -1; display: flex; flex-wrap: wrap; gap: 8px; justify-content: space-between; }
figure { margin: 0; min-width: 0; }
figcaption { font-size: 12px; margin-bottom: 3px; }
.frame { background: var(--surround); border-radius: 7px; height: 216px; display: grid; place-items: center; overflow: hidden; padding: 6px; }
img { max-width: 100%; max-height: 204px; display: block; }
.none { color: #dcdbd3; font-size: 12px; }
@media (max-width: 620px) {
  .frame { height: 150px; }
  img { max-height: 138px; }
}
</style>
