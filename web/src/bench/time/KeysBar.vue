<script setup lang="ts">
import { IconArrowsExchange, IconTrash } from '@tabler/icons-vue'
import { computed } from 'vue'

import { tip } from '../../common/commands'
import type { TimeWindow } from '../../common/stage/window'
import { useActs } from '../acts'
import { useMotion } from './motion'

/** What is done to the keys that are picked. */
defineProps<{ span: TimeWindow }>()
const motion = useMotion()
const { does } = useActs()
const told = computed(() => {
  const s = motion.span!
  const one = (n: number) => String(Math.round(n * 100) / 100)
  return `${motion.picked.length === 1 ? '1 key' : `${motion.picked.length} keys`}, ${s.from === s.to ? `frame ${one(s.from)}` : `frames ${one(s.from)} to ${one(s.to)}`}`
})
</script>

<template>
  <div v-if="motion.span" class="keysbar" role="toolbar" aria-label="Picked keys" data-test="keys-bar">
    <span class="num">{{ told }}</span>
    <button :title="tip('reverse-keys')" :disabled="motion.span.from === motion.span.to" data-test="keys-reverse" @click="does({ kind: 'reverse', keys: motion.picked, layers: [] })"><IconArrowsExchange :size="14" /> Reverse</button>
    <button title="Take them away (Delete)" aria-label="Take the picked keys away" data-test="keys-delete" @click="does({ kind: 'unkey', keys: motion.picked, layers: [] })"><IconTrash :size="14" /></button>
  </div>
</template>

<style scoped>
.keysbar { display: flex; align-items: center; gap: 8px; background: var(--ivy-wash); border-radius: 6px; padding: 1px 4px 1px 8px; color: var(--ivy-deep); }
button { display: flex; align-items: center; gap: 3px; border: 0; background: none; padding: 2px 4px; border-radius: 4px; cursor: pointer; color: inherit; font-size: 11px; }
button:hover:not(:disabled) { background: #fffefa; }
button:disabled { opacity: 0.45; }
</style>
