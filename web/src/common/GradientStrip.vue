<script setup lang="ts">
import { computed } from 'vue'

import type { Shade } from '../api/client'

/** How a gradient runs, from left to right. CSS mixes premultiplied, as the picture does. */
const props = defineProps<{ stops: Pick<Shade, 'at' | 'shows'>[] }>()
const runs = computed(() => `linear-gradient(90deg, ${props.stops.map((s) => `${s.shows || 'transparent'} ${s.at * 100}%`).join(', ')})`)
</script>

<template>
  <span class="strip"><i :style="{ background: runs }" /></span>
</template>

<style scoped>
.strip { display: block; height: 22px; border: 1px solid var(--rule-strong); border-radius: 6px; overflow: hidden; background: repeating-conic-gradient(#fff 0 25%, #d8d8d4 0 50%) 0 0 / 10px 10px; }
.strip i { display: block; height: 100%; }
</style>
