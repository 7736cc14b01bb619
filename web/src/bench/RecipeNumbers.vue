<script setup lang="ts">
import { computed, onMounted } from 'vue'

import AskedNumbers from './time/AskedNumbers.vue'
import { useRecipes } from './recipes'

/** The numbers that a recipe asks for. */
const props = defineProps<{ kind: string; numbers: Record<string, number> }>()
const emit = defineEmits<{ draft: [Record<string, number>]; press: [Record<string, number>]; change: [Record<string, number>]; cancel: [] }>()
const recipes = useRecipes()
onMounted(recipes.load)
const asked = computed(() => recipes.of(props.kind)?.numbers ?? [])
</script>

<template>
  <AskedNumbers :asked="asked" :numbers="numbers" :data-recipe-numbers="kind" @draft="emit('draft', $event)" @press="emit('press', $event)" @change="emit('change', $event)" @cancel="emit('cancel')" />
</template>
