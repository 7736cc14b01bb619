<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask } from '../api/client'
import type { components } from '../api/schema'
import { coalesced } from '../common/coalesced'
import { useDocument } from '../common/document'
import { plain } from '../common/format'
import { useSelection } from '../common/selection'
import { useTransport } from '../common/transport'

/** What a layer's motion blur costs, measured at the frame that is looked at. */
const props = defineProps<{ layer: string }>()
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const cost = ref<components['schemas']['CostView'] | null>(null)
const load = coalesced(async () => {
  if (!doc.draft) return
  cost.value = await ask(api.GET('/api/drafts/{id}/layers/{layer}/blur', { params: { path: { id: doc.draft.id, layer: props.layer }, query: { format: selection.format, frame: Math.max(0, Math.min(transport.frame, doc.face!.frames - 1)) } } })).catch(() => null)
})
// Not while something is on its way: it would slow that down, and be slowed down by it.
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  [() => props.layer, () => doc.draft?.revision, () => selection.format, () => !transport.playing && !transport.scrubbing && transport.frame],
  () => {
    clearTimeout(timer)
    if (!transport.playing && !transport.scrubbing) timer = setTimeout(() => void load(), 400)
  },
  { immediate: true },
)
const times = computed(() => (cost.value ? cost.value.with / Math.max(0.05, cost.value.without) : 1))
</script>

<template>
  <p v-if="cost" class="quiet small" data-test="blur-cost"><template v-if="times < 1.1">Costs next to nothing at this frame</template><template v-else>This frame takes <strong class="num">{{ plain(times, 1) }}×</strong> as long with it</template>: <span class="num">{{ plain(cost.with, 1) }} ms</span> instead of <span class="num">{{ plain(cost.without, 1) }} ms</span> at {{ cost.width }} px.</p>
</template>

<style scoped>
.small { font-size: 12px; margin: 0; }
</style>
