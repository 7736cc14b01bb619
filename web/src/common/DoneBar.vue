<script setup lang="ts">
import { NButton } from 'naive-ui'

import type { Done } from './list'

const done = defineModel<Done | null>({ required: true })
</script>

<template>
  <div v-if="done" class="told" role="status" data-test="done">
    <span>{{ done.text }}</span>
    <NButton size="small" data-test="undo" @click="done.undo()">Undo</NButton>
    <NButton size="small" quaternary @click="done = null">Fine</NButton>
  </div>
</template>

<style scoped>
.told { position: sticky; top: 8px; z-index: 2; display: flex; align-items: center; gap: 10px; background: var(--ivy-wash); border-radius: 9px; padding: 8px 14px; }
.told span { flex: 1; }
</style>
