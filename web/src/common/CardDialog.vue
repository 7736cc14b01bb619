<script setup lang="ts">
import { IconX } from '@tabler/icons-vue'
import { NModal } from 'naive-ui'
import { nextTick, ref, useId, watch } from 'vue'

/** A dialog on a card, with a name that is told (WAI-ARIA, dialog). Escape and a press beside it close it. */
defineProps<{ title: string; width: number }>()
const show = defineModel<boolean>('show', { required: true })
const id = useId()

// The focus goes back to where it was as soon as the dialog closes; when it has faded away it is not taken once more
// from whoever has it by then.
const traps = ref(true)
watch(show, (on) => on && (traps.value = true), { flush: 'sync' })
</script>

<template>
  <NModal v-model:show="show" :trap-focus="traps" @before-leave="nextTick(() => (traps = show))">
    <div class="dialog" role="dialog" aria-modal="true" :aria-labelledby="id" :style="{ width: `min(${width}px, 94vw)` }">
      <div class="head">
        <h2 :id="id">{{ title }}</h2>
        <button class="icon-button" aria-label="Close" title="Close" @click="show = false"><IconX :size="18" /></button>
      </div>
      <slot />
      <div v-if="$slots.acts" class="acts"><slot name="acts" /></div>
    </div>
  </NModal>
</template>

<style scoped>
.dialog { background: var(--linen-raised); color: var(--ink); border-radius: 12px; padding: 18px 24px 22px; box-shadow: 0 12px 42px rgba(30, 38, 33, 0.3); }
.head { display: flex; align-items: center; justify-content: space-between; gap: 12px; margin-bottom: 14px; }
h2 { font-size: 17px; letter-spacing: -0.01em; overflow-wrap: anywhere; min-width: 0; }
.head .icon-button { flex: none; margin-right: -6px; }
.acts { display: flex; justify-content: flex-end; flex-wrap: wrap; gap: 8px; margin-top: 20px; }
@media (max-width: 620px) { .dialog { padding: 14px 16px 18px; } }
</style>
