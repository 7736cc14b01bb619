<script setup lang="ts">
import { IconChevronDown, IconChevronRight, IconPlus, IconTrash } from '@tabler/icons-vue'
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'

import { useDocument } from '../common/document'
import GradientStrip from '../common/GradientStrip.vue'
import TextField from '../common/TextField.vue'
import { useActs } from './acts'
import GradientStops from './GradientStops.vue'

/** The gradients that layers take by name, and that an editor may choose between. */
const doc = useDocument()
const { does } = useActs()
const list = computed(() => doc.draft!.gradients)
const open = ref('')
const name = ref('')
async function add() {
  const had = new Set(list.value.map((g) => g.id))
  if (!(await does({ kind: 'gradient', name: name.value.trim() || `Gradient ${list.value.length + 1}`, layers: [] }))) return
  name.value = ''
  open.value = list.value.find((g) => !had.has(g.id))?.id ?? ''
}
</script>

<template>
  <section data-test="gradients">
    <h3 class="heading">Named gradients</h3>
    <div v-for="g in list" :key="g.id" class="one">
      <div class="row">
        <button class="icon-button" :aria-expanded="open === g.id" :aria-label="`${open === g.id ? 'Fold' : 'Change'} the gradient ${g.name}`" :data-open="g.id" @click="open = open === g.id ? '' : g.id"><component :is="open === g.id ? IconChevronDown : IconChevronRight" :size="14" /></button>
        <TextField size="tiny" class="name" :value="g.name" :most="120" needed :label="`Name of the gradient ${g.name}`" @change="(n) => does({ kind: 'gradient', id: g.id, name: n.trim(), layers: [] })" />
        <span class="num quiet uses" :title="`Taken by ${g.uses} ${g.uses === 1 ? 'layer' : 'layers'}`">{{ g.uses }} {{ g.uses === 1 ? 'use' : 'uses' }}</span>
        <button class="icon-button" :aria-label="`Remove the gradient ${g.name}`" :title="g.uses ? 'Remove; who uses it keeps its stops' : 'Remove'" @click="does({ kind: 'gradient-remove', id: g.id, layers: [] })"><IconTrash :size="14" /></button>
      </div>
      <GradientStops v-if="open === g.id" :path="`gradients/${g.id}`" :stops="g.stops" :name="g.name" />
      <button v-else class="peek" tabindex="-1" :aria-label="`Change the gradient ${g.name}`" @click="open = g.id"><GradientStrip :stops="g.stops" /></button>
    </div>
    <div class="row">
      <NInput v-model:value="name" size="tiny" placeholder="Name" :input-props="{ 'aria-label': 'Name of a new gradient' }" @keydown.enter="add" />
      <button class="icon-button" aria-label="Add the gradient" title="Add" data-test="add-gradient" @click="add"><IconPlus :size="15" /></button>
    </div>
  </section>
</template>

<style scoped>
section { display: grid; gap: 7px; grid-template-columns: minmax(0, 1fr); }
.one { display: grid; gap: 4px; grid-template-columns: minmax(0, 1fr); }
.row { display: flex; align-items: center; gap: 6px; min-width: 0; }
.row .icon-button { width: 24px; height: 24px; flex: none; }
.name { flex: 1; min-width: 0; }
.uses { white-space: nowrap; font-size: 12px; }
.peek { border: 0; background: none; padding: 0 7px; cursor: pointer; display: block; width: 100%; }
</style>
