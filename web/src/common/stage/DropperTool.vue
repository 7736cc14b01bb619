<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

import { useDropper } from '../dropper'

/** Reads a colour from the picture where it is pressed; Escape leaves it. */
const props = defineProps<{ canvas: HTMLCanvasElement | undefined; exact: boolean }>()
const dropper = useDropper()
const at = ref<{ x: number; y: number; hex: string } | null>(null)
/** What the picture has there; nothing where it is clear. */
function read(e: PointerEvent): string {
  const c = props.canvas
  if (!c) return ''
  const r = c.getBoundingClientRect()
  const x = Math.floor(((e.clientX - r.left) / r.width) * c.width)
  const y = Math.floor(((e.clientY - r.top) / r.height) * c.height)
  if (x < 0 || y < 0 || x >= c.width || y >= c.height) return ''
  // From a copy: a canvas that is read itself leaves the graphics process, and its picture with it on a busy machine.
  const copy = new OffscreenCanvas(1, 1).getContext('2d')!
  copy.drawImage(c, x, y, 1, 1, 0, 0, 1, 1)
  const [red, green, blue, alpha] = copy.getImageData(0, 0, 1, 1).data
  return alpha ? `#${[red, green, blue].map((v) => v!.toString(16).padStart(2, '0')).join('')}` : ''
}
function over(e: PointerEvent) {
  const hex = read(e)
  const r = (e.currentTarget as HTMLElement).getBoundingClientRect()
  at.value = hex ? { x: e.clientX - r.left, y: e.clientY - r.top, hex } : null
}
function press(e: PointerEvent) {
  e.stopPropagation()
  e.preventDefault()
  const hex = read(e)
  if (!hex || e.button !== 0) return
  const give = dropper.wait
  dropper.wait = null
  give?.(hex)
}
useEventListener(window, 'keydown', (e) => {
  if (e.key !== 'Escape') return
  e.preventDefault()
  e.stopImmediatePropagation()
  dropper.wait = null
}, { capture: true })
</script>

<template>
  <div class="dropper" data-test="dropping-colour" :data-exact="exact" @pointermove="over" @pointerleave="at = null" @pointerdown="press">
    <span v-if="at" class="chip num" :style="{ left: `${at.x + 14}px`, top: `${at.y + 14}px` }"><i :style="{ background: at.hex }" />{{ at.hex }}</span>
    <p v-else class="tell">Press on the picture to take its colour; Esc leaves it</p>
  </div>
</template>

<style scoped>
.dropper { position: absolute; inset: 0; cursor: crosshair; z-index: 4; touch-action: none; }
.chip { position: absolute; display: flex; align-items: center; gap: 6px; background: #22302a; color: #f5f2ea; border-radius: 5px; padding: 2px 7px; font-size: 11px; pointer-events: none; }
.chip i { width: 18px; height: 18px; border-radius: 4px; border: 1px solid #fffefa; }
.tell { position: absolute; left: 50%; top: 8px; transform: translateX(-50%); background: #22302a; color: #f5f2ea; border-radius: 6px; padding: 3px 10px; font-size: 12px; pointer-events: none; white-space: nowrap; }
</style>
