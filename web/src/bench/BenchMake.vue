<script setup lang="ts">
import { computed } from 'vue'

import PocketPanel from '../common/PocketPanel.vue'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import KeysPanel from './time/KeysPanel.vue'
import LayerPanel from './LayerPanel.vue'
import LayoutPanel from './LayoutPanel.vue'
import { useMotion } from './time/motion'
import { useRecipes } from './recipes'
import RecipePanel from './RecipePanel.vue'
import MovesPanel from './time/MovesPanel.vue'
import PocketSettings from './PocketSettings.vue'
import SeveralPanel from './SeveralPanel.vue'
import TemplatePanel from './TemplatePanel.vue'

/** What is made at the bench: the selection, or with none the template itself. */
const selection = useSelection()
const pockets = usePockets()
const recipes = useRecipes()
const motion = useMotion()
const several = computed(() => selection.layers.length > 1)
</script>

<template>
  <div v-if="!selection.layers.length && pockets.pocket && !pockets.pocket.layers.length" class="make">
    <header><h2>{{ pockets.pocket.name }}</h2><span class="quiet">pocket</span></header>
    <PocketSettings />
  </div>
  <TemplatePanel v-else-if="!selection.layers.length" />
  <div v-else class="make">
    <header><h2>{{ several ? `${selection.layers.length} layers` : selection.line?.name }}</h2><span v-if="!several" class="quiet">{{ selection.line?.about.toLowerCase() }}</span></header>
    <KeysPanel v-if="motion.chosen.length" />
    <RecipePanel v-if="recipes.chosen && several" :id="recipes.chosen.id" />
    <SeveralPanel />
    <MovesPanel />
    <LayoutPanel v-if="selection.line?.layout" :id="selection.line.layout" />
    <template v-if="!several">
      <LayerPanel />
      <details v-if="pockets.pocket && pockets.stand" class="inside" open>
        <summary class="heading">In the pocket</summary>
        <PocketPanel />
      </details>
      <RecipePanel v-if="recipes.chosen" :id="recipes.chosen.id" />
      <PocketSettings v-if="pockets.pocket" />
      <p v-if="selection.line?.locked" class="quiet">It is pinned down: the pointer and the keys leave it as it is.</p>
    </template>
  </div>
</template>

<style scoped>
.make { display: grid; gap: 14px; grid-template-columns: minmax(0, 1fr); }
header { display: flex; align-items: baseline; justify-content: space-between; gap: 8px; }
h2 { font-size: 16px; letter-spacing: -0.01em; overflow-wrap: anywhere; }
.inside summary { cursor: pointer; padding: 8px 0; }
</style>
