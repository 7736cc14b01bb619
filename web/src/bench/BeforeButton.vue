<script setup lang="ts">
import { IconHistoryToggle } from '@tabler/icons-vue'
import { computed, onScopeDispose, ref, watch } from 'vue'

import { tip, useCommands } from '../common/commands'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'
import { useActs } from './acts'
import { useLayer } from './layer'
import { useTool } from './tool'

/** Shows the picture as it was when the draft was opened, or without the treatment or mask that is worked on; nothing changes. */
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const transport = useTransport()
const tool = useTool()
const layer = useLayer()
const { act } = useActs()
const on = ref('')
/** What is left out: of the selected layer what is open in its lists, a mask of a treatment before that. */
const part = computed(() => {
  const of = `layers/${selection.layer}/`
  const there = (path: string) => (layer.view?.id === selection.layer && layer.view.properties.some((p) => p.path === `${path}/off`) ? path : '')
  const mask = there(tool.mask)
  if (!selection.layer || mask.startsWith(`${of}treatments/`)) return mask
  return there(`${of}treatments/${tool.treatment}`) || mask
})
const text = computed(() => (part.value ? `Before and after: without this ${part.value.split('/').at(-2) === 'masks' ? 'mask' : 'treatment'}` : 'Before and after: as it was when you opened it'))
function off() {
  if (!on.value) return
  if (on.value === 'past') transient.look = null
  else transient.hide()
  on.value = ''
}
function toggle() {
  if (on.value) return off()
  transport.playing = false
  if (part.value) {
    on.value = part.value
    transient.show(act({ kind: 'rest', path: `${part.value}/off`, value: true, layers: [] }))
  } else {
    on.value = 'past'
    transient.look = { past: doc.opened }
  }
}
// Whatever is done next is done to the draft as it is.
watch([() => doc.draft?.revision, () => doc.key, () => transport.playing, part], off)
watch(() => transient.op, (op) => {
  if (on.value && on.value !== 'past' && !(op && 'path' in op && String(op.path).endsWith('/off'))) on.value = ''
  if (on.value === 'past' && op) off()
})
watch(() => transient.look, (l) => on.value === 'past' && !(l && 'past' in l) && (on.value = ''))
onScopeDispose(off)
useCommands({ before: toggle }, () => !!doc.draft)
</script>

<template>
  <button class="look" :class="{ on }" :aria-pressed="!!on" :aria-label="on ? `${on === 'past' ? 'as opened' : 'without it'}: ${text}` : text" :title="tip('before', text)" data-test="before" @click="toggle"><IconHistoryToggle :size="16" /><span v-if="on" class="word">{{ on === 'past' ? 'as opened' : 'without it' }}</span></button>
</template>

<style scoped>
.look { display: flex; align-items: center; gap: 6px; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; white-space: nowrap; }
.look:hover { background: rgba(0, 0, 0, 0.2); }
.look.on { background: #e7a13a; color: #3a2606; font-weight: 600; }
.look:focus-visible { outline-color: #fff; }
</style>
