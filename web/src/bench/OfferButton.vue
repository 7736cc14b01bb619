<script setup lang="ts">
import { computed } from 'vue'

import SpoolIcon from '../common/SpoolIcon.vue'
import { useActs } from './acts'
import { useSheet } from './sheet'

/** Puts values on the sheet as they are now, and takes them off by the same press. `entry` is the one that drives them, where the server said so. */
const props = defineProps<{ paths: string[]; what: string; entry?: string }>()
const sheet = useSheet()
const { does } = useActs()
const on = computed(() => (props.entry !== undefined ? sheet.of(props.entry) : sheet.drives(props.paths[0]!)))
const text = computed(() => (on.value ? `On the sheet as “${on.value.label}”: take it off` : 'Put on sheet'))
function press() {
  void does({ kind: on.value ? 'withdraw' : 'offer', paths: props.paths, layers: [] })
}
</script>

<template>
  <button class="offer" :class="{ on }" :aria-pressed="!!on" :title="text" :aria-label="`${what}: ${on ? 'on the sheet' : 'put on sheet'}`" :data-offer="paths[0]" @click.stop.prevent="press"><SpoolIcon :kind="on?.thread ?? ''" :size="13" /></button>
</template>

<style scoped>
.offer { flex: none; display: grid; place-items: center; width: 20px; height: 20px; border: 0; border-radius: 5px; background: none; padding: 0; cursor: pointer; opacity: 0.38; filter: grayscale(1); align-self: center; }
.offer:hover, .offer:focus-visible { opacity: 1; background: var(--linen-deep); }
.offer.on { opacity: 1; filter: none; background: var(--ivy-wash); box-shadow: inset 0 0 0 1px var(--ivy); }
</style>
