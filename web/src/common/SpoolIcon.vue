<script setup lang="ts">
import { computed } from 'vue'

import { thread } from './theme'

/** A spool of thread in the colour of a kind. */
const props = defineProps<{ kind: string; size?: number }>()
const colour = computed(() => thread[props.kind] ?? '#66726B')
</script>

<template>
  <svg :width="size ?? 14" :height="size ?? 14" viewBox="0 0 16 16" aria-hidden="true" class="spool">
    <rect x="3" y="1.500" width="10" height="2.400" rx="1.200" fill="#C9C1AD" />
    <rect x="3" y="12.100" width="10" height="2.400" rx="1.200" fill="#C9C1AD" />
    <rect x="4.300" y="3.900" width="7.400" height="8.200" :fill="colour" />
    <path d="M4.300 6.100 11.700 5M4.300 8.500l7.400-1.100M4.300 10.900l7.400-1.100" stroke="#fff" stroke-opacity=".45" stroke-width=".9" />
  </svg>
</template>

<style scoped>
.spool { flex: none; }
</style>
