<script setup lang="ts">
import { IconPlayerPauseFilled, IconPlayerPlayFilled, IconX } from '@tabler/icons-vue'
import { computed } from 'vue'

import { bytes, plain, seconds } from '../common/format'
import { useUploads, type Arrival } from './uploads'

/** A file on its way into the store: how far it is, and how to stop, pause and go on. */
const props = defineProps<{ arrival: Arrival }>()
const uploads = useUploads()
const a = computed(() => props.arrival)
const share = computed(() => (a.value.size ? a.value.sent / a.value.size : 0))
const line = computed(() => {
  const x = a.value
  const part = x.pictures ? `${x.there} of ${x.pictures}, ` : ''
  switch (x.state) {
    case 'waiting':
      return 'waits its turn'
    case 'paused':
      return `${part}paused at ${plain(share.value * 100, 0)} %`
    case 'broken':
      return `${part}broke off at ${plain(share.value * 100, 0)} %`
    case 'checking':
      return 'being looked at'
    case 'done':
      return 'in the store'
    case 'refused':
      return ''
  }
  const left = x.speed > 0 ? (x.size - x.sent) / x.speed : -1
  return `${part}${plain(share.value * 100, 0)} %${left > 2 ? `, ${seconds(left)} left` : ''}`
})
</script>

<template>
  <div class="arrival" :class="a.state" :role="a.state === 'refused' ? 'alert' : 'status'" :data-arrival="a.name" :data-state="a.state">
    <div class="line">
      <span class="file" :title="`${a.name}, ${bytes(a.size)}`">{{ a.name }}</span>
      <button v-if="a.state === 'coming' || a.state === 'waiting'" class="icon-button small" title="Pause" :aria-label="`Pause ${a.name}`" @click="uploads.pause(a.key)"><IconPlayerPauseFilled :size="12" /></button>
      <button v-if="a.state === 'paused' || a.state === 'broken'" class="icon-button small" title="Go on" :aria-label="`Go on with ${a.name}`" @click="uploads.resume(a.key)"><IconPlayerPlayFilled :size="12" /></button>
      <button v-if="a.state !== 'checking'" class="icon-button small" :title="a.state === 'refused' || a.state === 'done' ? 'Dismiss' : 'Cancel'" :aria-label="`${a.state === 'refused' || a.state === 'done' ? 'Dismiss' : 'Cancel'} ${a.name}`"
        @click="a.state === 'refused' || a.state === 'done' ? uploads.dismiss(a.key) : uploads.cancel(a.key)"><IconX :size="13" /></button>
    </div>
    <div v-if="a.state !== 'refused' && a.state !== 'done'" class="thread"><i :style="{ width: `${share * 100}%` }" /></div>
    <div v-if="line" class="num quiet">{{ line }}</div>
    <p v-if="a.reason">{{ a.reason }}</p>
    <p v-if="a.state === 'done' && a.medium?.kind === 'picture' && a.medium.notes?.length" class="quiet">{{ a.medium.notes.join(' ') }}</p>
  </div>
</template>

<style scoped>
.arrival { border: 1px solid var(--rule); border-radius: 8px; padding: 5px 8px; background: var(--linen-raised); font-size: 12px; min-width: 0; }
.line { display: flex; align-items: center; gap: 2px; min-width: 0; }
.file { font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; flex: 1; min-width: 0; }
.icon-button.small { width: 20px; height: 20px; flex: none; }
.thread { height: 4px; border-radius: 2px; background: var(--linen-deep); overflow: hidden; margin: 4px 0 3px; }
.thread i { display: block; height: 100%; background: var(--media); transition: width 0.2s; }
.checking .thread i { background: repeating-linear-gradient(90deg, var(--media) 0 6px, #d9b36c 6px 10px); }
.paused .thread i, .broken .thread i { background: var(--rule-strong); }
.num { font-size: 11px; }
.refused { border-color: #d9a58f; background: var(--rust-wash); }
.refused p { color: #8c3518; overflow-wrap: anywhere; }
.broken p { color: var(--amber); }
</style>
