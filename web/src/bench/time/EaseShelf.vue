<script setup lang="ts">
import { drawn, shelf, type Bezier } from './easings'

/** Our own easings, from soft to violent; one that is pointed at runs. */
defineProps<{ ease: Bezier | null }>()
const emit = defineEmits<{ pick: [Bezier] }>()
</script>

<template>
  <div class="shelf" data-test="ease-shelf">
    <template v-for="g in shelf" :key="g.name">
      <span class="quiet">{{ g.name }}</span>
      <div class="row">
        <button v-for="e in g.list" :key="e.id" :class="{ on: ease?.join() === e.ease.join() }" :title="`${e.name}: ${e.ease.join(', ')}`" :aria-label="e.name" :data-easing="e.id" @click="emit('pick', e.ease)">
          <svg viewBox="-0.1 -0.55 1.2 2.1" aria-hidden="true"><path :d="drawn(e.ease)" /></svg>
          <i :style="{ animationTimingFunction: `cubic-bezier(${e.ease.join()})` }" />
        </button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.shelf { display: grid; grid-template-columns: 62px minmax(0, 1fr); gap: 4px 6px; align-items: center; font-size: 11px; }
.row { display: grid; grid-template-columns: repeat(5, minmax(0, 1fr)); gap: 4px; }
button { position: relative; border: 1px solid var(--rule); border-radius: 6px; background: #fffefa; padding: 0; height: 34px; cursor: pointer; overflow: hidden; }
button:hover { border-color: var(--ivy); }
.on { border-color: var(--ivy); background: var(--ivy-wash); }
svg { width: 100%; height: 100%; }
path { fill: none; stroke: var(--ivy-deep); stroke-width: 1.6; vector-effect: non-scaling-stroke; }
i { position: absolute; left: 10%; bottom: 3px; width: 5px; height: 5px; border-radius: 60% 0; background: #e7a13a; opacity: 0; }
button:hover i, button:focus-visible i { opacity: 1; animation: go 1.2s infinite both; }
@keyframes go { 0% { left: 10%; } 75%, 100% { left: 80%; } }
@media (prefers-reduced-motion: reduce) { button:hover i { animation: none; } }
</style>
