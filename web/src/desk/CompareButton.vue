<script setup lang="ts">
import { IconArrowsDiff } from '@tabler/icons-vue'
import { computed, onScopeDispose, ref, watch } from 'vue'

import type { Op } from '../api/client'
import { tip, useCommands } from '../common/commands'
import { useDocument } from '../common/document'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'

/** Shows the picture with the template's own stand-ins in place of what was filled, for as long as it is on; nothing changes. */
const doc = useDocument()
const pockets = usePockets()
const selection = useSelection()
const transient = useTransient()
const transport = useTransport()
const on = ref(false)
const filled = computed(() => pockets.list.filter((p) => !p.standIn))
function show(now: boolean) {
  if (now === on.value || (now && !filled.value.length)) return
  on.value = now
  if (!now) return transient.hide()
  transport.playing = false
  transient.show({ kind: 'batch', ops: filled.value.map((p): Op => ({ kind: 'fill', pocket: p.id, media: '' })) } as Op)
}
// Whatever is done next is done to the piece as it is.
watch([() => doc.piece?.revision, () => doc.key, () => transport.playing, () => selection.framing], () => show(false))
watch(() => transient.op, (op) => {
  if (on.value && op?.kind !== 'batch') on.value = false
})
onScopeDispose(() => show(false))
useCommands({ 'compare-stand-ins': () => show(!on.value) }, () => !selection.framing)
</script>

<template>
  <button v-if="pockets.list.length && !selection.framing" class="look" :class="{ on }" :aria-pressed="on" :disabled="!filled.length" aria-label="Compare with the stand-ins" :title="filled.length ? tip('compare-stand-ins') : 'Nothing is filled yet'" data-test="compare-stand-ins" @click="show(!on)"><IconArrowsDiff :size="15" /><span class="word">Stand-ins</span></button>
</template>

<style scoped>
.look { display: flex; align-items: center; gap: 6px; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; white-space: nowrap; }
.look:hover:not(:disabled, .on) { background: #5a5a58; }
.look:disabled { opacity: 0.45; cursor: default; }
@media (max-width: 720px) { .word { display: none; } }
.look.on { background: #e7a13a; color: #3a2606; font-weight: 600; }
</style>
