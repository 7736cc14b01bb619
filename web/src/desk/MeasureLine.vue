<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed } from 'vue'

import { api, ask } from '../api/client'
import { useDocument } from '../common/document'

/** Whether a piece that is put around a clip has the clip's canvas, rate and length. */
const doc = useDocument()
const piece = computed(() => doc.piece!)
const clip = computed(() => piece.value.pockets.find((p) => p.role === 'clip'))
const filled = computed(() => !!clip.value && !clip.value.standIn)
const made = computed(() => {
  const f = piece.value.template.formats.find((x) => x.id === piece.value.made) ?? piece.value.template.formats[0]!
  return `${f.px[0]} × ${f.px[1]} at ${piece.value.template.rate}, ${piece.value.frames} frames`
})
async function take(back: boolean) {
  const id = crypto.randomUUID()
  await doc.carry(async (h, base) => (await ask(api.POST('/api/pieces/{id}/measure', { params: { path: { id: h.id } }, body: { id, base, back } }))).piece)
}
</script>

<template>
  <div v-if="piece.purpose === 'frame' && (filled || piece.measured)" class="measure" data-test="measure">
    <p><span class="num">{{ made }}</span><br /><span
      class="quiet">{{ piece.measured === 'clip' ? `as ${clip?.mediaName} is` : piece.measured ? 'as a clip before it was' : 'as the template is' }}</span></p>
    <NButton v-if="filled && piece.measured !== 'clip'" size="tiny" data-test="take-measure" title="Canvas, rate and length"
      @click="take(false)">Take the clip’s</NButton>
    <NButton v-if="piece.measured" size="tiny" quaternary data-test="leave-measure" @click="take(true)">As the template</NButton>
  </div>
</template>

<style scoped>
.measure { display: flex; gap: 6px; align-items: center; flex-wrap: wrap; padding: 6px 8px; border: 1px dashed var(--rule-strong);
  border-radius: 8px; font-size: 12px; }
p { flex: 1; min-width: 150px; line-height: 1.35; overflow-wrap: anywhere; }
</style>
