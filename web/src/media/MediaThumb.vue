<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Medium } from '../api/client'
import WaveForm from './WaveForm.vue'

/** Media as it looks; a clip runs through its frames under the pointer. */
const props = defineProps<{ medium: Medium; side?: number }>()
const share = ref(-1)
const side = computed(() => props.side ?? 300)
const frame = computed(() => (share.value < 0 ? 0 : Math.min(props.medium.frames - 1, Math.floor(share.value * props.medium.frames))))
/** Few steps, so that running along asks for few pictures. */
const step = computed(() => Math.max(1, Math.floor(props.medium.frames / 24)))
const src = computed(() => `/api/media/${props.medium.hash}/thumb?side=${side.value}&frame=${Math.floor(frame.value / step.value) * step.value}${props.medium.counted ? '' : '&v=0'}`)
function along(e: PointerEvent) {
  if (props.medium.kind !== 'footage' || props.medium.frames < 2) return
  const r = (e.currentTarget as HTMLElement).getBoundingClientRect()
  share.value = Math.max(0, Math.min(0.999, (e.clientX - r.left) / r.width))
}
</script>

<template>
  <span class="thumb" :class="{ sees: medium.alpha }" @pointermove="along" @pointerleave="share = -1">
    <WaveForm v-if="medium.kind === 'sound'" :peaks="medium.peaks" />
    <img v-else :src="src" alt="" draggable="false" loading="lazy" />
    <i v-if="share >= 0" class="at" :style="{ left: `${share * 100}%` }" />
  </span>
</template>

<style scoped>
.thumb { position: relative; display: grid; place-items: center; overflow: hidden; background: #d6d0c2; width: 100%; height: 100%; }
.thumb.sees { background: repeating-conic-gradient(#d9d4c7 0 25%, #efece3 0 50%) 0 0 / 14px 14px; }
img { max-width: 100%; max-height: 100%; display: block; min-height: 0; min-width: 0; object-fit: contain; width: 100%; height: 100%; }
.at { position: absolute; top: 0; bottom: 0; width: 2px; background: var(--media); box-shadow: 0 0 0 1px rgba(255, 255, 255, 0.6); pointer-events: none; }
</style>
