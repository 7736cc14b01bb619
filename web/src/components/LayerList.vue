<script setup lang="ts">
import { IconAdjustmentsHorizontal, IconEyeOff, IconHexagon, IconPhoto, IconRectangleFilled, IconStack2, IconVideo } from '@tabler/icons-vue'
import { computed } from 'vue'

import type { LayerLine } from '../api/client'
import { usePiece } from '../stores/piece'
import { thread } from '../theme'

/** All layers, the topmost first, as they lie on each other. */
const store = usePiece()

const icons = {
  view: [IconPhoto, thread.media, 'shows a pocket'], picture: [IconPhoto, thread.media, 'a picture'], shape: [IconHexagon, thread.colour, 'a shape'], ground: [IconRectangleFilled, thread.colour, 'a ground'],
  group: [IconStack2, '#66726B', 'a group'], grade: [IconAdjustmentsHorizontal, thread.amount, 'changes the colours of all below'], camera: [IconVideo, thread.duration, 'moves all below'],
} as const
/** Groups stand above what is in them; the rest is turned round. */
const lines = computed(() => {
  const all = store.piece!.layers
  const out: LayerLine[] = []
  const among = (from: number, to: number) => {
    const heads: [number, number][] = []
    for (let i = from; i < to; ) {
      let end = i + 1
      while (end < to && all[end]!.depth > all[i]!.depth) end++
      heads.push([i, end])
      i = end
    }
    for (const [i, end] of heads.reverse()) {
      out.push(all[i]!)
      among(i + 1, end)
    }
  }
  among(0, all.length)
  return out
})
</script>

<template>
  <details open>
    <summary class="heading">Layers<span class="num">{{ lines.length }}</span></summary>
    <ul>
      <li v-for="y in lines" :key="y.id">
        <button class="layer" :class="{ on: store.layer === y.id, hidden: y.hidden }" :style="{ paddingLeft: `${8 + y.depth * 13}px` }" :data-layer="y.id" :aria-pressed="store.layer === y.id"
          :title="`${y.name}: ${icons[y.kind][2]}${y.hidden ? ', itself not drawn' : ''}`" @click="store.layer = store.layer === y.id ? '' : y.id">
          <component :is="icons[y.kind][0]" :size="14" :style="{ color: icons[y.kind][1] }" /><span>{{ y.name }}</span>
          <IconEyeOff v-if="y.hidden" :size="13" class="off" /><i v-if="y.changed" class="changed" title="Changed in this piece" />
        </button>
      </li>
    </ul>
  </details>
</template>

<style scoped>
summary { display: flex; justify-content: space-between; cursor: pointer; padding: 14px 6px 6px; list-style: none; }
summary .num { font-weight: 400; }
ul { list-style: none; margin: 0; padding: 0; }
.layer { display: flex; align-items: center; gap: 7px; width: 100%; border: 1px solid transparent; background: none; border-radius: 7px; padding: 3px 8px; cursor: pointer; text-align: left; min-width: 0; }
.layer span { flex: 1; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.layer:hover { background: var(--linen-raised); border-color: var(--rule); }
.layer.on { background: var(--linen-raised); border-color: var(--ivy); font-weight: 600; }
.layer.hidden span { color: var(--ink-quiet); }
.layer > svg { flex: none; }
.off { color: var(--ink-quiet); }
.changed { flex: none; width: 7px; height: 7px; border-radius: 0 50% 50% 50%; background: var(--ivy); transform: rotate(45deg); }
</style>
