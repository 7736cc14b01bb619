<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { bytes } from './format'
import { useHealth } from './health'

/** Says across the top what keeps the store from working as it should, and what may be done. */
const health = useHealth()
const route = useRoute()
const open = ref(false)
</script>

<template>
  <div v-if="health.low" class="bar low" role="status" data-test="low">
    <span>The disk is nearly full: {{ bytes(health.state!.free) }} left. Nothing comes in and nothing is rendered until {{ bytes(health.state!.reserve) }} are free; what you change is still kept.</span>
    <RouterLink v-if="route.path !== '/media'" to="/media">Make room</RouterLink>
  </div>
  <div v-if="health.troubles.length" class="bar" role="status" data-test="troubles">
    <div class="text">
      <span v-if="health.troubles.length === 1"><b>{{ health.troubles[0]!.what }}:</b> {{ health.troubles[0]!.why }} {{ health.troubles[0]!.do }}</span>
      <template v-else>
        <button class="more" :aria-expanded="open" @click="open = !open"><b>{{ health.troubles.length }} things in the store can't be used.</b> All else is as it was. <u>{{ open ? 'Fold' : 'Show them' }}</u></button>
        <ul v-if="open"><li v-for="t in health.troubles" :key="t.what + t.why"><b>{{ t.what }}:</b> {{ t.why }} {{ t.do }}</li></ul>
      </template>
    </div>
    <NButton size="tiny" quaternary @click="health.dismiss()">Fine</NButton>
  </div>
</template>

<style scoped>
.bar { display: flex; align-items: center; gap: 14px; padding: 7px 20px; background: var(--amber-wash); color: #5f3d08; border-bottom: 1px solid #e2cf9f; }
.bar.low { background: var(--rust-wash); color: #7c2f15; border-color: #e3bfae; }
.bar span, .text { flex: 1; min-width: 0; }
.bar a { color: inherit; font-weight: 600; }
.more { border: 0; background: none; padding: 0; text-align: left; cursor: pointer; }
ul { margin: 6px 0 0; padding-left: 18px; max-height: 180px; overflow: auto; }
</style>
