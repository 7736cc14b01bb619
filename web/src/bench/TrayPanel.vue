<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { NDropdown } from 'naive-ui'
import { computed, onMounted } from 'vue'

import { tip } from '../common/commands'
import { useDocument } from '../common/document'
import { useActs } from './acts'
import { iconOf, tint } from './kinds'
import { useRecipes } from './recipes'
import { tray, useTool, type Swatch } from './tool'

/** What can be put on the table: press a swatch and draw its box on the stage; press twice for a size that suits it. */
const tool = useTool()
const folded = useLocalStorage('ivy-tray-folded', false)
const { take, put, does } = useActs()
const recipes = useRecipes()
onMounted(recipes.load)
const dishes = computed(() => recipes.list.map((r) => ({ key: r.kind, label: r.label, props: { title: r.about, 'data-dish': r.kind } })))
const doc = useDocument()
/** The template's own motifs lie with the rest. */
const all = computed<Swatch[]>(() => [
  ...tray,
  ...doc.draft!.motifs.map((m) => ({ id: `motif-${m.id}`, label: m.name, tip: `One more ${m.name}: a motif of this template`, thread: '', act: { kind: 'insert', way: 'use', id: m.id }, box: false })),
])
const keys: Record<string, Parameters<typeof tip>[0]> = { pocket: 'sew', rectangle: 'panel', ellipse: 'round' }
const told = (s: Swatch) => `${s.tip}.${s.box ? ' Press, then draw its box; press twice for one in the middle' : ''}${keys[s.id] ? tip(keys[s.id]!, '').trimEnd() : ''}`
</script>

<template>
  <details :open="!folded" @toggle="folded = !($event.target as HTMLDetailsElement).open">
    <summary class="heading">Tray</summary>
    <div class="tray">
      <NDropdown v-for="s in all" :key="s.id" trigger="click" :disabled="s.id !== 'recipe'" :options="dishes" @select="(way: string) => does({ kind: 'recipe', way })">
      <button class="swatch" :class="{ on: tool.swatch?.id === s.id }" :aria-pressed="s.box ? tool.swatch?.id === s.id : undefined" :title="told(s)" :data-swatch="s.id" @click="take(s)" @dblclick="s.box && put(s)">
        <component :is="iconOf(s.id)" :size="17" :stroke-width="1.7" :style="{ color: tint(s.thread) }" /><span>{{ s.label }}</span>
      </button>
      </NDropdown>
    </div>
  </details>
</template>

<style scoped>
.heading { padding: 12px 6px 5px; margin: 0; cursor: pointer; }
.tray { display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 3px; }
/* Swatches of cloth, their upper edge cut with pinking shears. */
.swatch { display: grid; justify-items: center; gap: 1px; padding: 7px 0 4px; border: 0; background: var(--linen-raised); cursor: pointer; font-size: 10.5px; color: var(--ink); min-width: 0;
  clip-path: polygon(0 4px, 6.25% 0, 12.5% 4px, 18.75% 0, 25% 4px, 31.25% 0, 37.5% 4px, 43.75% 0, 50% 4px, 56.25% 0, 62.5% 4px, 68.75% 0, 75% 4px, 81.25% 0, 87.5% 4px, 93.75% 0, 100% 4px, 100% 100%, 0 100%); }
.swatch span { max-width: 100%; overflow: hidden; text-overflow: ellipsis; }
.swatch:hover { background: #fffefa; }
.swatch.on { background: var(--ivy); color: #fff; }
.swatch.on :deep(svg) { color: #fff !important; }
.swatch:focus-visible { outline-offset: -3px; }
</style>
