<script setup lang="ts">
import { IconSearch } from '@tabler/icons-vue'
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import { useAccess } from '../common/access'
import StartDialog from './StartDialog.vue'

/** The shelf's name, its three sides and its search; a template is begun from any of them. */
defineProps<{ about: string; placeholder: string }>()
const search = defineModel<string>('search', { required: true })
const route = useRoute()
const router = useRouter()
const starting = ref(false)
defineExpose({ start: () => (starting.value = true) })
const access = useAccess()
const sides = computed(() =>
  ([['shelf', '/', 'Templates'], ['pieces', '/pieces', 'Pieces'], ['drafts', '/drafts', 'Drafts']] as const).filter(([name]) => name !== 'drafts' || access.builds),
)
</script>

<template>
  <header class="head">
    <div>
      <h1>Shelf</h1>
      <p class="quiet">{{ about }}</p>
    </div>
    <nav class="sides" aria-label="Shelf">
      <RouterLink v-for="[name, to, label] in sides" :key="name" :to="{ path: to, query: search ? { find: search } : {} }" :class="{ on: route.name === name }">{{ label }}</RouterLink>
    </nav>
    <NInput v-model:value="search" :placeholder="placeholder" clearable class="search" :input-props="{ 'aria-label': placeholder, type: 'search' }">
      <template #prefix><IconSearch :size="16" /></template>
    </NInput>
    <NButton v-if="access.builds" type="primary" data-test="new-template" @click="starting = true">New template</NButton>
    <StartDialog v-model:show="starting" @begun="(id) => router.push(`/bench/${id}`)" />
  </header>
</template>

<style scoped>
.head { display: flex; align-items: end; gap: 14px 28px; margin-bottom: 22px; flex-wrap: wrap; }
.head > div:first-child { flex: none; }
h1 { font-size: 24px; letter-spacing: -0.02em; line-height: 1.2; }
.sides { display: flex; gap: 4px; flex: 1; align-self: stretch; align-items: end; min-width: 180px; }
.sides a { padding: 6px 12px 9px; font-weight: 500; font-size: 14px; color: var(--ink-quiet); text-decoration: none; position: relative; }
.sides a:hover { color: var(--ink); }
.sides a.on { color: var(--ivy-deep); font-weight: 600; }
.sides a.on::after { content: ''; position: absolute; left: 8px; right: 8px; bottom: 2px; height: 2px; background: repeating-linear-gradient(90deg, var(--ivy) 0 6px, transparent 6px 10px); }
.search { width: 260px; max-width: 100%; }
@media (max-width: 720px) {
  .sides { flex-basis: 100%; }
  .search { width: 100%; }
}
</style>
