<script setup lang="ts">
import { computed } from 'vue'

import LayerPanel from '../bench/LayerPanel.vue'
import { useDocument } from '../common/document'
import { plain } from '../common/format'
import PocketPanel from '../common/PocketPanel.vue'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'

const doc = useDocument()
const selection = useSelection()
const pockets = usePockets()
const name = (id: string) => doc.face!.pockets.find((p) => p.id === id)?.name ?? id
const framed = computed(() => pockets.pocket && pockets.stand)
</script>

<template>
  <div v-if="selection.line && !pockets.pocket" class="make">
    <header><h2>{{ selection.line.name }}</h2><span class="where">{{ selection.line.kind }}</span></header>
    <LayerPanel />
  </div>
  <div v-else-if="!framed" class="all">
    <p class="quiet">Select a pocket on the stage to frame its media, or any layer to set where it stands and how it looks. The places below count from the canvas centre, x to the right, y down.</p>
    <table class="num" aria-label="Places of all pockets">
      <thead><tr><th>Pocket</th><th>x</th><th>y</th><th>Size</th></tr></thead>
      <tbody>
        <tr v-for="s in pockets.stands" :key="s.layer" :data-stand="s.pocket">
          <td><button @click="selection.pocket = s.pocket">{{ name(s.pocket) }}</button><small v-if="s.where">{{ s.where }}</small></td>
          <td>{{ plain(s.centre.x) }}</td><td>{{ plain(s.centre.y) }}</td><td>{{ plain(s.size.w) }} × {{ plain(s.size.h) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <PocketPanel v-else>
    <details class="own" :open="!pockets.stand!.where">
      <summary class="heading">Layer {{ selection.line?.name }}</summary>
      <LayerPanel />
    </details>
  </PocketPanel>
</template>

<style scoped>
.make, .all { display: grid; gap: 16px; }
header { display: flex; align-items: baseline; justify-content: space-between; gap: 8px; }
h2 { font-size: 16px; letter-spacing: -0.01em; }
.where { color: var(--ink-quiet); font-size: 12px; }
.own summary { cursor: pointer; padding: 6px 0 10px; }
table { border-collapse: collapse; width: 100%; font-size: 11.5px; }
th { text-align: right; font-weight: 500; color: var(--ink-quiet); padding: 3px 0; font-family: 'Figtree', sans-serif; }
th:first-child { text-align: left; }
td { text-align: right; padding: 6px 0 6px 8px; border-top: 1px solid var(--rule); white-space: nowrap; vertical-align: top; }
td:first-child { text-align: left; padding-left: 0; font-family: 'Figtree', sans-serif; white-space: normal; }
td button { background: none; border: 0; padding: 0; font-weight: 600; cursor: pointer; text-align: left; color: var(--ivy-deep); }
td button:hover { text-decoration: underline; }
td small { display: block; color: var(--ink-quiet); font-size: 11px; }
</style>
