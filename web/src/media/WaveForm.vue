<script setup lang="ts">
import { computed } from 'vue'

/** The outline of a sound: lowest and highest sample of equal parts, by turns. */
const props = defineProps<{ peaks: number[] }>()
const path = computed(() => {
  const n = props.peaks.length / 2
  if (!n) return ''
  let up = ''
  let down = ''
  for (let i = 0; i < n; i++) {
    const x = ((i / n) * 1000).toFixed(1)
    up += `${i ? 'L' : 'M'}${x} ${(64 - Math.max(1, props.peaks[2 * i + 1]!) / 2).toFixed(1)}`
    down = `L${x} ${(64 - Math.min(-1, props.peaks[2 * i]!) / 2).toFixed(1)}${down}`
  }
  return `${up}${down}Z`
})
</script>

<template>
  <svg class="wave" viewBox="0 0 1000 128" preserveAspectRatio="none" aria-hidden="true"><path :d="path" /></svg>
</template>

<style scoped>
.wave { width: 100%; height: 100%; display: block; }
path { fill: var(--media); }
</style>
