<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { NSlider } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Stored } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import { useCommands } from '../common/commands'
import { useGuides } from '../common/guides'
import GuidesMenu from '../common/GuidesMenu.vue'
import { vNamed } from '../common/named'
import StageGuides from '../common/stage/StageGuides.vue'

/** A picture or a clip alone, large, with guides over it. */
const show = defineModel<boolean>('show', { required: true })
const props = defineProps<{ medium: Stored }>()
const guides = useGuides()
const table = ref<HTMLElement>()
const { width, height } = useElementSize(table)
const canvas = computed(() => ({ width: props.medium.width, height: props.medium.height }))
const k = computed(() => Math.min(width.value / canvas.value.width, height.value / canvas.value.height))
const frame = ref(0)
watch(() => props.medium.hash, () => (frame.value = 0))
const src = computed(() => `/api/media/${props.medium.hash}/thumb?side=1600&frame=${frame.value}`)
useCommands({ guides: guides.toggle }, () => show.value)
</script>

<template>
  <CardDialog v-model:show="show" :title="medium.name" :width="1040">
    <div class="look" data-test="look">
      <div class="bar"><span class="num quiet">{{ medium.width }} × {{ medium.height }}</span><GuidesMenu :canvas="canvas" fixed /></div>
      <div ref="table" class="table">
        <div v-if="k > 0" class="picture" :class="{ sees: medium.alpha }" :style="{ width: `${canvas.width * k}px`, height: `${canvas.height * k}px` }">
          <img :src="src" :alt="medium.name" draggable="false" />
          <StageGuides :canvas="canvas" :k="k" />
        </div>
      </div>
      <div v-if="medium.kind === 'footage' && medium.frames > 1" class="frames"><NSlider v-model:value="frame" v-named="'Frame'" :min="0" :max="medium.frames - 1" :tooltip="false" /><span class="num">frame {{ frame }}</span></div>
    </div>
  </CardDialog>
</template>

<style scoped>
.look { display: grid; gap: 8px; container: stage / inline-size; }
.bar { display: flex; justify-content: space-between; align-items: center; background: var(--surround); color: #e9e8e2; border-radius: 8px 8px 0 0; padding: 3px 8px 3px 12px; }
.bar .quiet { color: #d6d5ce; }
.table { display: grid; place-items: center; height: min(58vh, 560px); background: var(--surround); border-radius: 0 0 8px 8px; margin-top: -8px; }
.picture { position: relative; }
.picture.sees { background: repeating-conic-gradient(#d9d4c7 0 25%, #efece3 0 50%) 0 0 / 14px 14px; }
img { width: 100%; height: 100%; display: block; }
.frames { display: grid; grid-template-columns: minmax(0, 1fr) 92px; gap: 14px; align-items: center; }
</style>
