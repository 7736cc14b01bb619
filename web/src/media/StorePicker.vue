<script setup lang="ts">
import { IconFolder, IconFolderOpen, IconSearch } from '@tabler/icons-vue'
import { NButton, NInput, NSkeleton } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Medium } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import { bytes, seconds } from '../common/format'
import { useHeld } from '../common/held'
import { finder } from '../common/search'
import { chooseFiles } from './choose'
import { useMediaStore } from './media'
import MediaThumb from './MediaThumb.vue'

/** Chooses media from the store, or files to bring in; whoever hears of it closes it. */
const props = defineProps<{ title: string; takes: (kind: string) => boolean; except?: string }>()
const show = defineModel<boolean>('show', { required: true })
const emit = defineEmits<{ use: [Medium]; files: [File[]] }>()
const media = useMediaStore()
const held = useHeld()
const search = ref('')
const field = ref<InstanceType<typeof NInput>>()

watch(show, (s) => {
  if (!s) return
  search.value = ''
  void media.load()
  void held.until() // what is looked for is typed at once
  setTimeout(() => field.value?.focus(), 150)
})
/** While it fades away it holds what it held. */
const found = computed<Medium[]>((was) => {
  if (!show.value && was) return was
  const fits = finder(search.value)
  return media.list.filter((m) => m.hash !== props.except && props.takes(m.kind) && fits(`${m.name} ${m.type} ${m.kind} ${m.uses.map((u) => u.name).join(' ')}`))
})
async function bring(folder: boolean) {
  const files = await chooseFiles(folder)
  if (files.length) emit('files', files)
}
function pick(m: Medium) {
  emit('use', m)
}
function facts(m: Medium) {
  if (m.kind === 'footage') return `${m.width} × ${m.height}, ${seconds(m.seconds)}`
  if (m.kind === 'sound') return seconds(m.seconds)
  if (m.kind === 'font') return m.type
  return `${m.width} × ${m.height}, ${bytes(m.bytes)}`
}
</script>

<template>
  <CardDialog v-model:show="show" :title="title" :width="760">
    <div class="bar">
      <NInput ref="field" v-model:value="search" placeholder="Search what came in before" clearable :input-props="{ 'aria-label': 'Search the media store' }"><template #prefix><IconSearch :size="16" /></template></NInput>
      <NButton data-test="bring-files" @click="bring(false)"><template #icon><IconFolderOpen :size="16" /></template>Files from this computer</NButton>
      <NButton title="A folder; of numbered pictures it is asked whether they are a clip" @click="bring(true)"><template #icon><IconFolder :size="16" /></template>A folder</NButton>
    </div>
    <div v-if="!media.loaded" class="grid"><NSkeleton v-for="i in 8" :key="i" height="120px" /></div>
    <p v-else-if="!found.length" class="quiet none">{{ search ? `Nothing that fits “${search}”.` : 'Nothing in the store fits yet. Bring files in.' }}</p>
    <div v-else class="grid">
      <button v-for="m in found" :key="m.hash" class="card" :data-pick="m.name" @click="pick(m)">
        <span class="view"><MediaThumb :medium="m" /></span>
        <b :title="m.name">{{ m.name }}</b>
        <small class="num quiet">{{ facts(m) }}</small>
      </button>
    </div>
  </CardDialog>
</template>

<style scoped>
.bar { display: flex; gap: 8px; margin-bottom: 14px; }
.grid { display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 10px; max-height: 56vh; overflow: auto; padding: 2px; }
.card { display: grid; gap: 1px; padding: 6px; background: none; border: 1px solid transparent; border-radius: 9px; text-align: left; cursor: pointer; min-width: 0; }
.card:hover { background: var(--ivy-wash); border-color: var(--ivy); }
.view { height: 92px; border-radius: 6px; overflow: hidden; display: block; margin-bottom: 3px; }
b { font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: 12.5px; }
small { font-size: 11px; }
.none { padding: 40px 0; text-align: center; }
</style>
