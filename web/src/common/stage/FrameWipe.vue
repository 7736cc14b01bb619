<script setup lang="ts">
import { IconX } from '@tabler/icons-vue'
import { ref } from 'vue'

import { useDrag } from '../drag'

/** A kept frame over the picture, up to an edge that is dragged: left is what was kept, right what is there now. */
defineProps<{ kept: { url: string; frame: number }; frame: number }>()
defineEmits<{ close: [] }>()
const at = ref(0.5)
const root = ref<HTMLElement>()
const drag = useDrag()
const put = (x: number) => {
  const r = root.value!.getBoundingClientRect()
  at.value = Math.max(0, Math.min(1, (x - r.x) / r.width))
}
function take(e: PointerEvent) {
  e.stopPropagation()
  drag(e, { move: (d) => put(d.x) })
}
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[e.key]
  if (!by) return
  at.value = Math.max(0, Math.min(1, at.value + by * (e.shiftKey ? 5 : 1)))
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div ref="root" class="wipe" data-test="frame-wipe">
    <img :src="kept.url" alt="The kept frame" draggable="false" :style="{ clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }" />
    <span class="tag num left">{{ kept.frame }}</span><span class="tag num right">{{ frame }}</span>
    <button class="close" aria-label="Compare no longer" title="Compare no longer" @click="$emit('close')"><IconX :size="13" /></button>
    <div class="edge" role="slider" tabindex="0" aria-label="Where the kept frame ends" :aria-valuenow="Math.round(at * 100)" aria-valuemin="0" aria-valuemax="100" :style="{ left: `${at * 100}%` }" data-test="wipe-edge" @pointerdown="take" @keydown="key"><i /></div>
  </div>
</template>

<style scoped>
.wipe { position: absolute; inset: 0; pointer-events: none; overflow: hidden; }
img { position: absolute; inset: 0; width: 100%; height: 100%; }
.edge { position: absolute; top: 0; bottom: 0; width: 15px; margin-left: -8px; cursor: ew-resize; pointer-events: auto; touch-action: none; display: grid; place-items: center; background: linear-gradient(90deg, transparent 6px, #14201a 6px 7px, #fffefa 7px 8px, #14201a 8px 9px, transparent 9px); }
.edge i { width: 13px; height: 26px; border-radius: 7px; background: #fbfaf5; border: 1.5px solid #173d2b; }
.edge:focus-visible { outline: 2px solid #fff; }
.tag { position: absolute; bottom: 6px; background: #22302a; color: #f5f2ea; font-size: 11px; border-radius: 5px; padding: 1px 6px; }
.left { left: 6px; }
.right { right: 6px; }
.close { position: absolute; right: 6px; top: 6px; width: 22px; height: 22px; display: grid; place-items: center; border: 0; border-radius: 6px; background: #22302a; color: #f5f2ea; cursor: pointer; pointer-events: auto; }
</style>
