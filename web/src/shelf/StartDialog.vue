<script setup lang="ts">
import { NButton, NCheckbox, NInput, NInputNumber, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Medium } from '../api/client'
import { canvases, canvasName, purposes, rates, type Purpose } from '../bench/start'
import { useRecipes } from '../bench/recipes'
import RecipeNumbers from '../bench/RecipeNumbers.vue'
import CardDialog from '../common/CardDialog.vue'
import { plain } from '../common/format'
import { useMediaStore } from '../media/media'
import { useDrafts } from './drafts'

/** Begins a template from what it is for. */
const show = defineModel<boolean>('show', { required: true })
const emit = defineEmits<{ begun: [string] }>()
const drafts = useDrafts()
const media = useMediaStore()

const purpose = ref<Purpose>('stand-alone')
const name = ref('')
const category = ref('')
const family = ref('')
const rate = ref('25')
const length = ref<number | null>(250)
const chosen = ref<[number, number][]>([[1920, 1080]])
const typed = ref<{ w: number | null; h: number | null }>({ w: null, h: null })
const clip = ref<string | null>(null)
const take = ref(true)
const recipes = useRecipes()
const recipe = ref('')
const numbers = ref<Record<string, number>>({})
watch(recipe, (kind) => (numbers.value = recipes.usual(kind)))
/** A transition is over in a few seconds; a length that was typed stays. */
watch(purpose, (now, was) => {
  const usual = (p: Purpose) => (p === 'transition' ? 60 : 250)
  if (length.value === usual(was)) length.value = usual(now)
})
const busy = ref(false)
const field = ref<InstanceType<typeof NInput>>()
watch(show, (s) => {
  if (!s) return
  name.value = ''
  void media.load()
  void recipes.load()
  setTimeout(() => field.value?.focus(), 150)
})
const has = (w: number, h: number) => chosen.value.some(([a, b]) => a === w && b === h)
function toggle(w: number, h: number) {
  if (!has(w, h)) chosen.value = [...chosen.value, [w, h]]
  else if (chosen.value.length > 1) chosen.value = chosen.value.filter(([a, b]) => a !== w || b !== h)
}
function addTyped() {
  const { w, h } = typed.value
  if (!w || !h || has(w, h)) return
  chosen.value = [...chosen.value, [w, h]]
  typed.value = { w: null, h: null }
}
const seconds = computed(() => {
  const [n, d] = rate.value.split('/').map(Number) as [number, number?]
  return n > 0 ? ((length.value ?? 0) * (d ?? 1)) / n : 0
})
const all = computed(() => [...canvases.map(([w, h]) => [w, h] as [number, number]), ...chosen.value.filter(([w, h]) => !canvases.some(([a, b]) => a === w && b === h))])
const clips = computed(() => (media.list as Medium[]).filter((m) => m.kind === 'footage').map((m) => ({ value: m.hash, label: m.name })))
async function begin() {
  addTyped()
  busy.value = true
  const id = await drafts.begin({
    start: { name: name.value.trim() || 'Untitled', category: category.value, family: family.value, purpose: purpose.value, rate: rate.value, frames: Math.round(length.value ?? 1), canvases: chosen.value, ...(purpose.value === 'frame' && clip.value ? { clip: clip.value, take: take.value } : {}), ...(recipe.value ? { recipe: recipe.value, numbers: numbers.value } : {}) },
  })
  busy.value = false
  if (!id) return
  show.value = false
  emit('begun', id)
}
</script>

<template>
  <CardDialog v-model:show="show" title="A new template" :width="640">
    <div class="form" @keydown.enter="($event.target as Element).matches('input:not([data-recipe-numbers] input)') && begin()">
      <div class="purposes" role="radiogroup" aria-label="What it is for">
        <button v-for="p in purposes" :key="p.id" role="radio" :aria-checked="purpose === p.id" :class="{ on: purpose === p.id }" :data-purpose="p.id" @click="purpose = p.id"><strong>{{ p.label }}</strong><span>{{ p.about }}</span></button>
      </div>
      <div v-if="purpose === 'frame'" class="clip"><NSelect v-model:value="clip" size="small" clearable filterable :options="clips" placeholder="A clip of the store, or choose it later" :input-props="{ 'aria-label': 'The clip' }" /><NCheckbox v-model:checked="take" :disabled="!clip">Take its canvas, rate and length</NCheckbox></div>
      <div class="three">
        <label><span>Name</span><NInput ref="field" v-model:value="name" placeholder="Untitled" :maxlength="120" :input-props="{ 'aria-label': 'Name' }" data-test="start-name" /></label>
        <label><span>Category</span><NInput v-model:value="category" placeholder="Openers, cards …" :maxlength="80" :input-props="{ 'aria-label': 'Category' }" /></label>
        <label><span>Family</span><NInput v-model:value="family" placeholder="None" :maxlength="80" :input-props="{ 'aria-label': 'Family' }" /></label>
      </div>
      <div><span class="label">Canvases, one for each format</span>
        <div class="sizes"><button v-for="[w, h] in all" :key="`${w}x${h}`" class="canvas num" role="checkbox" :aria-checked="has(w, h)" :class="{ on: has(w, h) }" :data-canvas="`${w}x${h}`" @click="toggle(w, h)"><i :style="{ aspectRatio: `${w} / ${h}` }" />{{ w }} × {{ h }}<small>{{ canvasName(w, h) }}</small></button>
          <span class="typed"><NInputNumber v-model:value="typed.w" size="small" placeholder="width" :min="16" :max="8192" :show-button="false" :input-props="{ 'aria-label': 'Another width' }" />×<NInputNumber v-model:value="typed.h" size="small" placeholder="height" :min="16" :max="8192" :show-button="false" :input-props="{ 'aria-label': 'Another height' }" /><NButton size="small" :disabled="!typed.w || !typed.h" @click="addTyped">Add</NButton></span>
        </div>
      </div>
      <div class="three">
        <label><span>Rate</span><NSelect v-model:value="rate" filterable tag :options="rates" :input-props="{ 'aria-label': 'Frames per second' }" title="Choose, or type a number or a fraction such as 15000/1001" /></label>
        <label><span>Length</span><NInputNumber v-model:value="length" :min="1" :max="200000" :input-props="{ 'aria-label': 'Length in frames' }"><template #suffix>frames</template></NInputNumber></label>
        <p class="quiet secs"><span class="num">{{ plain(seconds, 2) }}</span> seconds. All of this can be changed later.</p>
      </div>
      <div class="begin"><span class="label">Begin with</span>
        <div class="sizes" role="radiogroup" aria-label="Begin with">
          <button v-for="r in [{ kind: '', label: 'Nothing', about: 'An empty table' }, ...recipes.list]" :key="r.kind" role="radio" class="canvas" :aria-checked="recipe === r.kind" :class="{ on: recipe === r.kind }" :title="r.about" :data-begin-with="r.kind" @click="recipe = r.kind">{{ r.label }}</button>
        </div>
        <RecipeNumbers v-if="recipe" :kind="recipe" :numbers="numbers" @draft="numbers = $event" @press="numbers = $event" @change="numbers = $event" />
      </div>
      <p v-if="drafts.failure" class="rust" role="alert">{{ drafts.failure }}</p>
    </div>
    <template #acts><NButton @click="show = false">Leave it</NButton><NButton type="primary" :loading="busy" data-test="begin" @click="begin">To the bench</NButton></template>
  </CardDialog>
</template>

<style scoped>
.form { display: grid; gap: 16px; }
.purposes { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
.purposes button { display: grid; text-align: left; gap: 1px; border: 1px solid var(--rule); border-radius: 10px; background: none; padding: 8px 12px; cursor: pointer; }
.purposes button span { color: var(--ink-quiet); font-size: 12px; }
.purposes button.on { border-color: var(--ivy); background: var(--ivy-wash); box-shadow: 0 0 0 1px var(--ivy); }
.three { display: grid; grid-template-columns: 1fr 1fr 1fr; gap: 12px; align-items: end; }
label { display: grid; gap: 3px; }
label span, .label { color: var(--ink-quiet); font-size: 12px; }
.sizes { display: flex; flex-wrap: wrap; gap: 6px; margin-top: 4px; }
.canvas { display: flex; align-items: center; gap: 7px; border: 1px solid var(--rule); border-radius: 8px; background: none; padding: 5px 10px; cursor: pointer; }
.canvas i { height: 14px; border: 1.5px solid currentColor; border-radius: 2px; }
.canvas small { color: var(--ink-quiet); font-family: 'Figtree', sans-serif; }
.canvas.on { border-color: var(--ivy); background: var(--ivy-wash); color: var(--ivy-deep); }
.typed { display: flex; align-items: center; gap: 5px; }
.typed :deep(.n-input-number) { width: 76px; }
.begin { display: grid; gap: 7px; }
.clip { display: grid; gap: 6px; }
.secs { font-size: 12px; padding-bottom: 7px; }
.rust { color: var(--rust); white-space: pre-line; }
@media (max-width: 620px) { .purposes, .three { grid-template-columns: 1fr; } }
</style>
