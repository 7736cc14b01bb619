<script setup lang="ts">
import { IconUsers } from '@tabler/icons-vue'
import { NDropdown } from 'naive-ui'
import { computed } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import { useAccess } from '../common/access'

/** Who is here, with the way out; where nobody logs in, the way to the people alone. */
const access = useAccess()
const route = useRoute()
const router = useRouter()
const initials = computed(() => (access.session?.name ?? '').split(' ').map((w) => [...w][0]).filter(Boolean).slice(0, 2).join('').toUpperCase())
const options = computed(() => [
  { key: 'who', label: `${access.session?.name}, ${access.session?.role}`, disabled: true },
  ...(access.builds ? [{ key: 'people', label: 'People and what they did' }] : []),
  { key: 'leave', label: 'Go out' },
])
function act(key: string) {
  if (key === 'people') void router.push('/people')
  else void access.leave()
}
</script>

<template>
  <NDropdown v-if="access.session?.id" trigger="click" :options="options" @select="act">
    <button class="me" :title="`${access.session.name}, ${access.session.role}`"
      :aria-label="`${initials}: ${access.session.name}, ${access.session.role}`" data-test="me">{{ initials }}</button>
  </NDropdown>
  <RouterLink v-else-if="access.builds" to="/people" class="icon-button people" :class="{ here: route.name === 'people' }"
    title="People and what they did" aria-label="People and what they did"><IconUsers :size="19" :stroke-width="1.8" /></RouterLink>
</template>

<style scoped>
.me { width: 28px; height: 28px; border-radius: 6px; border: 1px dashed var(--ivy); background: var(--ivy-wash);
  color: var(--ivy-deep); font: inherit; font-size: 11px; font-weight: 700; cursor: pointer; }
.people { color: inherit; }
/* A telephone has room for the way out alone. */
@media (max-width: 620px) { .people { display: none; } }
.people.here { color: var(--ivy-deep); background: var(--ivy-wash); }
</style>
