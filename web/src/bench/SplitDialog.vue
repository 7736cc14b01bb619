<script setup lang="ts">
import { NButton, NCheckbox, NInputNumber, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, ref } from 'vue'

import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useActs } from './acts'
import { useTool } from './tool'

/** A split: so many columns and rows of pockets, computed, with a gap between them. */
const doc = useDocument()
const selection = useSelection()
const tool = useTool()
const { does } = useActs()
const columns = ref<number | null>(2)
const rows = ref<number | null>(2)
const gutter = ref<number | null>(12)
const margin = ref<number | null>(0)
const radius = ref<number | null>(0)
const by = ref<'shrink' | 'outwards'>('shrink')
const backing = ref(true)
const f = computed(() => doc.draft!.formats.find((x) => x.id === selection.format)!)
/** A likeness of it; the true one is computed by the server. */
const cells = computed(() => {
  const [c, r] = [columns.value ?? 1, rows.value ?? 1]
  return Array.from({ length: Math.min(256, c * r) }, (_, i) => i)
})
const k = computed(() => 230 / Math.max(f.value.width, f.value.height * 1.4))
async function done() {
  const ok = await does({ kind: 'split', to: [columns.value ?? 2, rows.value ?? 2], way: by.value, middle: backing.value, numbers: { gutter: gutter.value ?? 0, margin: margin.value ?? 0, radius: radius.value ?? 0 } })
  if (ok) tool.splitting = false
}
</script>

<template>
  <CardDialog v-model:show="tool.splitting" title="Split the canvas" :width="540">
    <div class="two">
      <div class="fields">
        <label v-for="[label, model, most, set] in ([['Columns', columns, 16, (v: number | null) => (columns = v)], ['Rows', rows, 16, (v: number | null) => (rows = v)], ['Gutter', gutter, 2000, (v: number | null) => (gutter = v)], ['Margin', margin, 2000, (v: number | null) => (margin = v)], ['Corner radius', radius, 2000, (v: number | null) => (radius = v)]] as const)" :key="label">
          <span>{{ label }}</span><NInputNumber :value="model" size="small" :min="most === 16 ? 1 : 0" :max="most" :input-props="{ 'aria-label': label }" @update:value="set"><template v-if="most > 16" #suffix>px</template></NInputNumber>
        </label>
      </div>
      <div class="likeness" :style="{ width: `${f.width * k}px`, height: `${f.height * k}px`, padding: `${(margin ?? 0) * k}px`, gap: `${(gutter ?? 0) * k}px`, gridTemplateColumns: `repeat(${columns ?? 1}, 1fr)`, gridTemplateRows: `repeat(${rows ?? 1}, 1fr)`, background: backing ? '#c9b88c' : 'none' }"><i v-for="c in cells" :key="c" :style="{ borderRadius: `${(radius ?? 0) * k}px` }" /></div>
    </div>
    <NRadioGroup v-model:value="by" size="small" aria-label="How the gutter is made">
      <NRadioButton value="shrink" title="Cells get smaller; the outer edges stay">Gutter by smaller cells</NRadioButton>
      <NRadioButton value="outwards" title="Cells keep their size and move apart; the outer edges are lost">Gutter by moving cells outwards</NRadioButton>
    </NRadioGroup>
    <p><NCheckbox v-model:checked="backing">A backing under the cells, which gives the gutter its colour</NCheckbox></p>
    <template #acts><NButton @click="tool.splitting = false">Leave it</NButton><NButton type="primary" data-test="split-done" :disabled="(columns ?? 0) * (rows ?? 0) < 2" @click="done">Split into {{ (columns ?? 0) * (rows ?? 0) }}</NButton></template>
  </CardDialog>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1fr auto; gap: 22px; align-items: center; margin-bottom: 14px; }
.fields { display: grid; gap: 6px; }
label { display: grid; grid-template-columns: 90px minmax(0, 1fr); align-items: center; }
p { margin-top: 12px; }
.likeness { display: grid; border: 1px solid var(--rule-strong); overflow: hidden; box-sizing: border-box; }
.likeness i { background: #7d8f86; border: 1.4px dashed #fffefa; min-width: 0; min-height: 0; }
</style>
