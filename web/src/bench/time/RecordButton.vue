<script setup lang="ts">
import { tip } from '../../common/commands'
import { useMotion } from './motion'

/** Key recording, plainly on or off. */
const motion = useMotion()
</script>

<template>
  <button class="record" :class="{ on: motion.recording }" :aria-pressed="motion.recording" :title="tip('record-keys', motion.recording ? 'Keys are recorded: what is set becomes a key at the playhead. Press to stop' : 'Record keys: what is set becomes a key at the playhead')" data-test="record" @click="motion.recording = !motion.recording">
    <svg width="14" height="16" viewBox="-7 -8 14 16" aria-hidden="true"><path d="M0 7C-5.500 3.500 -5.500 -3 0 -7.500 5.500 -3 5.500 3.500 0 7Z" /></svg>{{ motion.recording ? 'Recording' : 'Keys' }}
  </button>
</template>

<style scoped>
.record { display: flex; align-items: center; gap: 5px; height: 28px; margin-right: 7px; padding: 0 9px 0 7px; border: 1px solid var(--rule-strong); border-radius: 8px; background: none; cursor: pointer; font-size: 12px; }
.record path { fill: none; stroke: #8b6a2c; stroke-width: 1.4; }
.record:hover { background: var(--linen-deep); }
.record.on { background: #e7a13a; border-color: #a86c14; color: #3a2606; font-weight: 600; }
.record.on path { fill: #6b3f06; stroke: #6b3f06; }
</style>
