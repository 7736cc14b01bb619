<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed, onMounted, ref, watch } from 'vue'

import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useActs } from './acts'
import RecipeNumbers from './RecipeNumbers.vue'
import { useRecipes } from './recipes'

/** The numbers that some layers were built from, live: what they make otherwise changes, what was done by hand stays. */
const props = defineProps<{ id: string }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const recipes = useRecipes()
const { act, does } = useActs()
onMounted(recipes.load)
const recipe = computed(() => doc.draft!.recipes.find((r) => r.id === props.id))
const numbers = ref<Record<string, number>>({})
watch(recipe, (r) => r && (numbers.value = { ...r.numbers }), { immediate: true })
function op(to: Record<string, number>) {
  numbers.value = to
  return act({ kind: 'recipe', id: props.id, numbers: to, layers: [] })
}
async function keep(to: Record<string, number>) {
  if (!(await transient.keep(op(to)))) cancel()
}
function cancel() {
  transient.hide()
  numbers.value = { ...recipe.value!.numbers }
}
const mine = computed(() => doc.draft!.layers.filter((y) => y.id.startsWith(`${props.id}-`)).map((y) => y.id))
const all = computed(() => mine.value.every((id) => selection.layers.includes(id)))
</script>

<template>
  <div v-if="recipe" class="recipe" :data-recipe="id">
    <div class="line"><h3 class="heading">{{ recipes.of(recipe.kind)?.label ?? recipe.kind }}</h3><span class="quiet small">from a recipe</span></div>
    <RecipeNumbers :kind="recipe.kind" :numbers="numbers" @draft="transient.show(op($event))" @press="transient.soon(op($event))" @change="keep" @cancel="cancel" />
    <p v-if="recipe.frames !== doc.draft!.frames" class="caution small">Built for <span class="num">{{ recipe.frames }}</span> frames; the template has <span class="num">{{ doc.draft!.frames }}</span>.</p>
    <div class="acts">
      <NButton v-if="recipe.frames !== doc.draft!.frames" size="tiny" data-test="refit" @click="does({ kind: 'recipe', id, layers: [] })">Build for the new length</NButton>
      <NButton v-if="!all" size="tiny" title="Select all layers that it built" @click="selection.layers = mine">Its layers</NButton>
      <NButton size="tiny" quaternary title="Its layers stay, and are like others from then on" data-test="forget-recipe" @click="does({ kind: 'recipe-forget', id, layers: [] })">Let go of the recipe</NButton>
    </div>
  </div>
</template>

<style scoped>
.recipe { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); }
.line { display: flex; justify-content: space-between; align-items: baseline; }
.acts { display: flex; flex-wrap: wrap; gap: 5px; }
.small { font-size: 12px; }
.caution { color: var(--amber); }
</style>
