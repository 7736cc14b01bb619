<script setup lang="ts">
import { IconRoute } from '@tabler/icons-vue'
import { NButton } from 'naive-ui'
import { computed } from 'vue'

import type { Layer } from '../../api/client'
import { useActs } from '../acts'
import { useTool, wayOf } from '../tool'

/** The way of motion of a layer or of a mask, `of` its path: it is drawn, and its points are worked on. */
const props = defineProps<{ view: Layer; of: string }>()
const tool = useTool()
const { draw } = useActs()
const path = computed(() => wayOf(props.of))
const goes = computed(() => props.view.forms.some((f) => f.path === path.value))
const open = computed(() => tool.path === path.value)
</script>

<template>
  <NButton v-if="goes" size="tiny" class="way" data-test="edit-way" title="Its keys are points: move, bend, add and take them out on the picture" @click="tool.path = open ? '' : path"><template #icon><IconRoute :size="14" /></template>{{ open ? 'Leave its way' : 'Points of its way' }}</NButton>
  <NButton v-else size="tiny" class="way" data-test="draw-way" title="Draw where it is to go, from this frame to its end" @click="draw(path)"><template #icon><IconRoute :size="14" /></template>Draw a way …</NButton>
</template>

<style scoped>
.way { justify-self: start; }
</style>
