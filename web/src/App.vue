<script setup lang="ts">
import { NConfigProvider, NMessageProvider } from 'naive-ui'
import { RouterView } from 'vue-router'

import TopBar from './components/TopBar.vue'
import { theme } from './theme'
</script>

<template>
  <NConfigProvider :theme-overrides="theme" class="shell" inline-theme-disabled>
    <NMessageProvider :max="3" placement="bottom">
      <TopBar />
      <main><RouterView /></main>
    </NMessageProvider>
  </NConfigProvider>
</template>

<style scoped>
.shell { height: 100%; display: grid; grid-template-rows: 48px minmax(0, 1fr); }
main { min-height: 0; min-width: 0; }
</style>
