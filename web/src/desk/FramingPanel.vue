<script setup lang="ts">
import { computed } from 'vue'

import { useDocument } from '../common/document'
import { plain } from '../common/format'
import PocketPanel from '../common/PocketPanel.vue'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'

/** How media lies in the selected pocket; with none, where the pockets stand and how large they are. */
const doc = useDocument()
const selection = useSelection()
const pockets = usePockets()
const stands = computed(() => pockets.stands.filter((s) => pockets.list.some((p) => p.id === s.pocket)))
const framed = computed(() => pockets.pocket && pockets.stand)
</script>

<template>
  <PocketPanel v-if="framed" />
  <p v-else-if="!pockets.list.length" class="quiet">{{ doc.piece!.template.name }} asks for no media.</p>
  <div v-else class="all">
    <p class="quiet">Press a pocket on the picture to frame what lies in it. Sizes and places are those at rest, in pixels; places count from the middle of the canvas, x to the right, y down.</p>
    <table class="num" aria-label="Places of all pockets">
      <thead><tr><th>Pocket</th><th>x</th><th>y</th><th>Size</th></tr></thead>
      <tbody>
        <tr v-for="s in stands" :key="s.layer" :data-stand="s.pocket">
          <td><button @click="selection.pocket = s.pocket">{{ pockets.name(s.pocket) }}</button><small v-if="s.where">{{ s.where }}</small></td>
          <td>{{ plain(s.centre.x) }}</td><td>{{ plain(s.centre.y) }}</td><td>{{ plain(s.size.w) }} × {{ plain(s.size.h) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.all { display: grid; gap: 16px; }
table { border-collapse: collapse; width: 100%; font-size: 11.5px; }
th { text-align: right; font-weight: 500; color: var(--ink-quiet); padding: 3px 0; font-family: 'Figtree', sans-serif; }
th:first-child { text-align: left; }
td { text-align: right; padding: 6px 0 6px 8px; border-top: 1px solid var(--rule); white-space: nowrap; vertical-align: top; }
td:first-child { text-align: left; padding-left: 0; font-family: 'Figtree', sans-serif; white-space: normal; }
td button { background: none; border: 0; padding: 0; font-weight: 600; cursor: pointer; text-align: left; color: var(--ivy-deep); }
td button:hover { text-decoration: underline; }
td small { display: block; color: var(--ink-quiet); font-size: 11px; }
</style>
