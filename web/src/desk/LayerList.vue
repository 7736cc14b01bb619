<script setup lang="ts">
import { type Icon, IconAdjustmentsHorizontal, IconEyeOff, IconHexagon, IconPhoto, IconRectangleFilled, IconSquare, IconStack2, IconVideo } from '@tabler/icons-vue'
import { computed, ref } from 'vue'

import type { LayerLine } from '../api/client'
import { useDocument } from '../common/document'
import { useRoving } from '../common/roving'
import { useSelection } from '../common/selection'
import { thread } from '../common/theme'

/** All layers, the topmost first, as they lie on each other. */
const doc = useDocument()
const selection = useSelection()

/** Pictures of the kinds; one that has none is shown as a thing among others. */
const icons: Record<string, Icon> = {
  view: IconPhoto, picture: IconPhoto, shape: IconHexagon, ground: IconRectangleFilled, group: IconStack2, grade: IconAdjustmentsHorizontal, camera: IconVideo,
}
const tint = (y: LayerLine) => (y.thread ? thread[y.thread] : '#66726B')
/** Groups stand above what is in them; the rest is turned round. */
const lines = computed(() => {
  const all = doc.face!.layers
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
const list = ref<HTMLElement>()
const { at, key } = useRoving(computed(() => lines.value.map((y) => y.id)), computed(() => selection.layer), (id) => list.value?.querySelector<HTMLElement>(`[data-layer=${JSON.stringify(id)}]`)?.focus())
</script>

<template>
  <details open>
    <summary class="heading">Layers<span class="num">{{ lines.length }}</span></summary>
    <ul ref="list" role="tree" aria-label="Layers, the topmost first" @keydown="key">
      <li v-for="y in lines" :key="y.id" role="none">
        <button class="layer" :class="{ on: selection.layer === y.id, hidden: y.hidden }" :style="{ paddingLeft: `${8 + y.depth * 13}px` }" :data-layer="y.id" role="treeitem" :aria-level="y.depth + 1" :aria-selected="selection.layer === y.id" :tabindex="at === y.id ? 0 : -1"
          :title="`${y.name}: ${y.about.toLowerCase()}${y.hidden ? ', itself not drawn' : ''}`" @focus="at = y.id" @click="selection.layer = selection.layer === y.id ? '' : y.id">
          <component :is="icons[y.kind] ?? IconSquare" :size="14" :style="{ color: tint(y) }" /><span>{{ y.name }}</span>
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
