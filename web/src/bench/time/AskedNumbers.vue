<script setup lang="ts">
import { NRadioButton, NRadioGroup } from 'naive-ui'
import { computed } from 'vue'

import type { Asked } from '../../api/client'
import NumberField from '../../common/NumberField.vue'

/** Numbers that a recipe or a move asks for. `draft` tells of some on the way, `press` of some by a key, `change` of those that are meant: all of them, whichever was touched. */
const props = defineProps<{ asked: Asked[]; numbers: Record<string, number> }>()
const emit = defineEmits<{ draft: [Record<string, number>]; press: [Record<string, number>]; change: [Record<string, number>]; cancel: [] }>()
const counts = computed(() => props.asked.filter((n) => !n.words.length))
const choices = computed(() => props.asked.filter((n) => n.words.length))
const now = (name: string, value: number) => ({ ...props.numbers, [name]: value })
</script>

<template>
  <div class="numbers">
    <div class="grid">
      <NumberField v-for="n in counts" :key="n.name" :label="n.label" :unit="n.unit" :title="n.about" :value="numbers[n.name] ?? n.default" :min="n.least" :max="n.most" :reset="n.default" :places="n.unit === '%' || n.unit === '°' ? 2 : 0" :data-number="n.name"
        @draft="emit('draft', now(n.name, $event))" @press="emit('press', now(n.name, $event))" @change="emit('change', now(n.name, $event))" @cancel="emit('cancel')" />
    </div>
    <div v-for="n in choices" :key="n.name" class="choice" :title="n.about">
      <span>{{ n.label }}</span>
      <NRadioGroup :value="numbers[n.name] ?? n.default" size="small" :aria-label="n.label" @update:value="(v: number) => emit('change', now(n.name, v))">
        <NRadioButton v-for="(w, i) in n.words" :key="w" :value="i" :data-word="`${n.name}-${w}`">{{ w }}</NRadioButton>
      </NRadioGroup>
    </div>
  </div>
</template>

<style scoped>
.numbers { display: grid; gap: 6px; grid-template-columns: minmax(0, 1fr); }
.grid { display: grid; grid-template-columns: repeat(auto-fill, minmax(122px, 1fr)); gap: 6px; }
.choice { display: flex; align-items: center; justify-content: space-between; gap: 8px; }
.choice span { color: var(--ink-quiet); }
.choice :deep(.n-radio-button) { padding: 0 9px; }
</style>
