<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask, type LayerLine } from '../../api/client'
import { coalesced } from '../../common/coalesced'
import { useDocument } from '../../common/document'
import { useSelection } from '../../common/selection'
import type { TimeWindow } from '../../common/stage/window'

/** What a layer's clip shows when, as small pictures along its bar. */
const props = defineProps<{ line: LayerLine; left: number; width: number; span: TimeWindow }>()
const doc = useDocument()
const selection = useSelection()

/** Each picture is so wide, px. */
const CELL = 34
const cells = computed(() => {
  const out: { x: number; at: number }[] = []
  const from = Math.max(0, props.left)
  const to = Math.min(props.span.width.value, props.left + props.width)
  for (let x = from; x < to - 6 && out.length < 200; x += CELL) out.push({ x, at: Math.floor(props.span.at(Math.min(x + CELL / 2, to))) })
  return out
})
const shows = ref<{ media: string; frames: number[] } | null>(null)
const load = coalesced(async () => {
  const at = cells.value.map((c) => c.at)
  if (!doc.draft || !at.length) return
  shows.value = await ask(api.GET('/api/drafts/{id}/clips', { params: { path: { id: doc.draft.id }, query: { format: selection.format, layer: props.line.id, at } } })).catch(() => null)
})
watch([() => cells.value.map((c) => c.at).join(), () => doc.draft?.revision, () => selection.format], () => void load(), { immediate: true })
</script>

<template>
  <div v-if="shows?.media" class="clips" aria-hidden="true" :style="{ left: `${Math.max(0, left)}px`, width: `${Math.min(span.width.value, left + width) - Math.max(0, left)}px` }">
    <img v-for="(c, i) in cells.filter((_, i) => (shows!.frames[i] ?? -1) >= 0)" :key="i" :src="`/api/media/${shows.media}/thumb?side=64&frame=${shows.frames[i]}`" alt="" draggable="false" :style="{ left: `${c.x - Math.max(0, left)}px`, width: `${CELL}px` }" />
  </div>
</template>

<style scoped>
.clips { position: absolute; top: 3px; height: 17px; overflow: hidden; border-radius: 4px; pointer-events: none; z-index: 1; opacity: 0.5; }
.clips img { position: absolute; top: 0; height: 17px; object-fit: cover; }
</style>
