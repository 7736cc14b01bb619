<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Entry } from '../api/client'
import TextField from './TextField.vue'

/** A wording of the sheet, as it is typed in a field. `press` tells of it on the way, `change` when it is meant. */
const props = defineProps<{ e: Entry; value: string }>()
const emit = defineEmits<{ press: [string]; change: [string] }>()

const field = ref<InstanceType<typeof TextField>>()
/** A long line is shown whole, on as many rows as it takes. */
const rows = computed(() => (props.e.lines > 1 ? { minRows: 2, maxRows: 8 } : props.e.letters > 30 ? { minRows: 1, maxRows: 4 } : undefined))
/** How much room is left, where it is getting scarce. */
const left = computed(() => props.e.letters - [...(field.value?.text ?? props.value)].length)
const scarce = computed(() => props.e.letters < 2000 && left.value <= Math.max(5, props.e.letters / 4))
</script>

<template>
  <div class="words">
    <TextField ref="field" :value="value" :label="e.label" :lines="e.lines" :rows="rows" :most="e.letters" :needed="e.required" placeholder="Nothing is said" live tidy @press="emit('press', $event)" @change="emit('change', $event)" />
    <span v-if="scarce" class="left num quiet" :title="`There is room for ${e.letters} letters`">{{ left === 1 ? '1 letter' : `${left} letters` }} left</span>
  </div>
</template>

<style scoped>
.left { display: block; padding-right: 9px; text-align: right; font-size: 10.5px; line-height: 1.3; }
</style>
