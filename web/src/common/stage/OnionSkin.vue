<script setup lang="ts">
import { onScopeDispose, ref, watch } from 'vue'

import { useTransport } from '../transport'
import type { Frames } from './frames'

/** The two frames before the playhead and the two after it, faintly over the picture: what stands still stays as it is. */
const props = defineProps<{ frames: Frames; width: number; height: number }>()
const transport = useTransport()
const canvas = ref<HTMLCanvasElement>()
/** Which frames, and how much of each: more than half of what is seen stays the frame itself. */
const LAYERS = [
  [-2, 0.09],
  [2, 0.09],
  [-1, 0.15],
  [1, 0.15],
] as const
let wish: AbortController | undefined
onScopeDispose(() => wish?.abort())
async function draw() {
  wish?.abort()
  const c = canvas.value
  if (!c) return
  const mine = (wish = new AbortController())
  const n = transport.frame
  // Nothing of another frame stays over this one.
  c.width = props.width
  c.height = props.height
  if (transport.scrubbing) return
  const ctx = c.getContext('2d')!
  for (const [k, alpha] of LAYERS) {
    const at = n + k * transport.onion
    if (at < 0 || at >= props.frames.count.value) continue
    const b = await props.frames.fetchFrame(at, 'jpg', mine.signal).catch(() => null)
    if (mine.signal.aborted) return
    if (!b) continue
    ctx.globalAlpha = alpha
    ctx.drawImage(b, 0, 0, c.width, c.height)
  }
}
watch([() => transport.frame, () => transport.scrubbing, () => transport.onion, () => props.frames.address(transport.frame), () => props.width, canvas], () => void draw(), { flush: 'post', immediate: true })
</script>

<template>
  <canvas ref="canvas" class="onion" aria-hidden="true" data-test="onion-skin" />
</template>

<style scoped>
.onion { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; }
</style>
