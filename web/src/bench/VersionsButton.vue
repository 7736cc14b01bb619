<script setup lang="ts">
import { IconColumns2 } from '@tabler/icons-vue'
import { computed, onScopeDispose, watch } from 'vue'

import { tip, useCommands } from '../common/commands'
import { useDocument } from '../common/document'
import { useTool } from './tool'

/** Sees the draft as it was before its last step beside how it is; which step can be chosen there, and in its history. */
const doc = useDocument()
const tool = useTool()
const can = computed(() => (doc.draft?.revision ?? 0) > 0)
function toggle() {
  tool.version = tool.version >= 0 || !can.value ? -1 : doc.draft!.revision - 1
}
watch(() => doc.key, () => (tool.version = -1))
onScopeDispose(() => (tool.version = -1))
useCommands({ 'two-versions': toggle }, () => !!doc.draft)
</script>

<template>
  <button class="look" :class="{ on: tool.version >= 0 }" :disabled="!can" :aria-pressed="tool.version >= 0" aria-label="Two versions side by side" :title="tip('two-versions')" data-test="two-versions" @click="toggle"><IconColumns2 :size="16" /></button>
</template>

<style scoped>
.look { display: flex; align-items: center; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; }
.look:hover:not(:disabled) { background: rgba(0, 0, 0, 0.2); }
.look.on { background: #e7a13a; color: #3a2606; }
.look:disabled { opacity: 0.4; cursor: default; }
.look:focus-visible { outline-color: #fff; }
</style>
