<script setup lang="ts">
import { NConfigProvider, NMessageProvider } from 'naive-ui'
import { ref, watchEffect } from 'vue'
import { RouterView, useRoute } from 'vue-router'

import { useAccess } from './common/access'
import { useDocument } from './common/document'
import EnterGate from './common/EnterGate.vue'
import HealthBar from './common/HealthBar.vue'
import { theme } from './common/theme'
import NumberedDialog from './media/NumberedDialog.vue'
import TopBar from './TopBar.vue'

const access = useAccess()
/** Nothing is asked for before somebody is in; later what is open stays. */
const known = ref(!access.out)
watchEffect(() => (known.value ||= !access.out))
const route = useRoute()
const doc = useDocument()
// A window is found again by what is open in it.
watchEffect(() => {
  const title = String(route.meta.title ?? '')
  document.title = [route.name === 'desk' || route.name === 'bench' ? doc.face?.name : '', title, 'Ivy Pocket'].filter(Boolean).join(' · ')
})
</script>

<template>
  <NConfigProvider :theme-overrides="theme" class="shell" inline-theme-disabled>
    <NMessageProvider to="#notices" :max="3" placement="bottom" :container-style="{ bottom: '116px' }">
      <TopBar />
      <HealthBar />
      <main><RouterView v-if="known" /></main>
      <NumberedDialog />
      <EnterGate v-if="access.out" />
    </NMessageProvider>
  </NConfigProvider>
</template>

<style scoped>
.shell { height: 100%; display: flex; flex-direction: column; }
.shell > :deep(:first-child) { flex: none; min-height: 48px; }
main { flex: 1; min-height: 0; min-width: 0; }
</style>
