<script setup lang="ts">
import { NConfigProvider, NMessageProvider } from 'naive-ui'
import { RouterView } from 'vue-router'

import HealthBar from './components/HealthBar.vue'
import TopBar from './components/TopBar.vue'
import { theme } from './theme'
</script>

<template>
  <NConfigProvider :theme-overrides="theme" class="shell" inline-theme-disabled>
    <NMessageProvider :max="3" placement="bottom">
      <TopBar />
      <HealthBar />
      <main><RouterView /></main>
    </NMessageProvider>
  </NConfigProvider>
</template>

<style scoped>
.shell { height: 100%; display: flex; flex-direction: column; }
.shell > :deep(:first-child) { flex: none; height: 48px; }
main { flex: 1; min-height: 0; min-width: 0; }
</style>
