<script setup lang="ts">
import { NAutoComplete, NButton, NInput } from 'naive-ui'
import { ref, watch } from 'vue'

import CardDialog from '../common/CardDialog.vue'

/** What a template or a draft is called, and what it is filed under. */
const props = defineProps<{ of: { name: string; category: string; family: string } | null; categories: string[]; families: string[] }>()
const emit = defineEmits<{ keep: [{ name: string; category: string; family: string }]; close: [] }>()
const show = ref(false)
const name = ref('')
const category = ref('')
const family = ref('')
const field = ref<InstanceType<typeof NInput>>()
watch(
  () => props.of,
  (t) => {
    show.value = !!t
    if (!t) return
    ;({ name: name.value, category: category.value, family: family.value } = t)
    // Whoever types before that has begun already.
    setTimeout(() => name.value === t.name && field.value?.select(), 150)
  },
)
watch(show, (s) => !s && props.of && emit('close'))
const like = (list: string[], text: string) => list.filter((c) => c.toLowerCase().includes(text.trim().toLowerCase()) && c !== text)
function keep() {
  if (!name.value.trim()) return
  emit('keep', { name: name.value.trim(), category: category.value.trim(), family: family.value.trim() })
  show.value = false
}
</script>

<template>
  <CardDialog v-model:show="show" title="Name and place" :width="440">
    <div class="form" @keydown.enter="keep">
      <label><span>Name</span><NInput ref="field" v-model:value="name" :maxlength="120" :input-props="{ 'aria-label': 'Name' }" data-test="file-name" /></label>
      <label><span>Category</span><NAutoComplete v-model:value="category" :options="like(categories, category)" :get-show="() => true" placeholder="Openers, cards …" :input-props="{ 'aria-label': 'Category', maxlength: 120 }" /></label>
      <label><span>Family</span><NAutoComplete v-model:value="family" :options="like(families, family)" :get-show="() => true" placeholder="None" :input-props="{ 'aria-label': 'Family', maxlength: 120 }" /></label>
    </div>
    <template #acts><NButton @click="show = false">Leave it</NButton><NButton type="primary" :disabled="!name.trim()" data-test="file-keep" @click="keep">Keep</NButton></template>
  </CardDialog>
</template>

<style scoped>
.form { display: grid; gap: 12px; }
label { display: grid; gap: 3px; }
label > span { color: var(--ink-quiet); font-size: 12px; }
</style>
