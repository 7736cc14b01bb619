<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ref } from 'vue'

import { ago } from '../common/format'

/** What lies in the bin, folded; each thing can be taken out again. */
defineProps<{ items: { id: string; name: string; deleted: string; kept: string }[]; out: string }>()
const emit = defineEmits<{ out: [string] }>()
const open = ref(false)
</script>

<template>
  <template v-if="items.length">
    <button class="link" data-test="bin" :aria-expanded="open" @click="open = !open">Bin, {{ items.length }}</button>
    <ul v-if="open" class="bin">
      <li v-for="i in items" :key="i.id"><span>{{ i.name }}</span><span class="quiet">put in the bin {{ ago(i.deleted) }}; kept for {{ i.kept }}</span><NButton size="tiny" data-test="out" @click="emit('out', i.id)">{{ out }}</NButton></li>
    </ul>
  </template>
</template>

<style scoped>
.link { border: 0; background: none; color: var(--ink-quiet); cursor: pointer; margin-left: auto; text-decoration: underline; text-underline-offset: 3px; }
.bin { list-style: none; margin: 0; padding: 8px 14px; background: var(--linen-deep); border-radius: 10px; flex-basis: 100%; }
.bin li { display: flex; gap: 14px; align-items: center; padding: 4px 0; }
.bin li span:nth-child(2) { flex: 1; }
</style>
