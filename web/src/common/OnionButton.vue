<script setup lang="ts">
import { IconStack2 } from '@tabler/icons-vue'
import { NPopselect } from 'naive-ui'

import { tip, useCommands } from './commands'
import { useTransport } from './transport'

/** Onion skin: two frames before and after over the picture, near by or further off. */
const transport = useTransport()
const steps = [
  { label: 'No onion skin', value: 0 },
  { label: 'The next two frames either way', value: 1 },
  { label: 'Every 3rd frame', value: 3 },
  { label: 'Every 6th frame', value: 6 },
]
useCommands({ onion: () => (transport.onion = transport.onion ? 0 : 3) })
</script>

<template>
  <NPopselect v-model:value="transport.onion" :options="steps" trigger="click"><button class="look" :class="{ on: transport.onion }" :aria-pressed="!!transport.onion" aria-label="Onion skin" :title="tip('onion')" data-test="onion"><IconStack2 :size="15" /></button></NPopselect>
</template>

<style scoped>
.look { display: flex; align-items: center; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; }
.look:hover:not(.on) { background: #5a5a58; }
.look.on { background: #e7a13a; color: #3a2606; }
</style>
