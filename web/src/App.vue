<script setup lang="ts">
import { NConfigProvider, NMessageProvider } from 'naive-ui'
import { RouterView } from 'vue-router'

import HealthBar from './common/HealthBar.vue'
import { theme } from './common/theme'
import TopBar from './TopBar.vue'
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
