<script setup lang="ts">
import { NSelect } from 'naive-ui'
import { computed, ref, shallowRef, watch } from 'vue'

import { api, ask, Failure, type Comparison } from '../api/client'
import BeforeAfter from '../common/BeforeAfter.vue'
import CardDialog from '../common/CardDialog.vue'
import { ago } from '../common/format'

/** Two releases of a template: what is otherwise on the sheet and besides, and both pictures. */
const props = defineProps<{ template: { id: string; name: string }; releases: { number: number; note: string; when: string }[]; from: number }>()
const show = defineModel<boolean>('show', { required: true })
const from = ref(0)
const to = ref(0)
const found = shallowRef<Comparison | null>(null)
const failure = ref('')
watch(show, (on) => {
  if (!on) return
  // With the newest other one, the older before the newer.
  const other = props.releases.find((r) => r.number !== props.from)?.number ?? props.from
  from.value = Math.min(props.from, other)
  to.value = Math.max(props.from, other)
})
watch([show, from, to], async ([on]) => {
  if (!on || !from.value || !to.value) return
  const asked = { from: from.value, to: to.value }
  failure.value = ''
  try {
    const c = await ask(api.GET('/api/templates/{id}/compare', { params: { path: { id: props.template.id }, query: asked } }))
    if (asked.from === from.value && asked.to === to.value) found.value = c
  } catch (e) {
    failure.value = (e as Failure).message
  }
})
const options = computed(() => props.releases.map((r) => ({ value: r.number, label: `Release ${r.number}, ${ago(r.when)}` })))
const picture = (side: 'before' | 'after', format: string, cue: string) => `/api/templates/${props.template.id}/releases/${side === 'before' ? found.value!.from : found.value!.to}/look?format=${format}&cue=${cue}&side=640`
const words = { added: 'new', lost: 'gone', renamed: 'renamed', changed: 'changed' } as const
const parts = computed(() => [
  { title: 'On the sheet', list: found.value?.sheet ?? [], none: 'The sheet asks for the same.' },
  { title: 'Besides', list: found.value?.template ?? [], none: 'All else is the same.' },
])
</script>

<template>
  <CardDialog v-model:show="show" :title="`Releases of ${template.name}`" :width="760">
    <div class="compare">
      <div class="which">
        <label><span class="quiet">Before</span><NSelect v-model:value="from" size="small" :options="options" data-test="compare-from" /></label>
        <label><span class="quiet">After</span><NSelect v-model:value="to" size="small" :options="options" data-test="compare-to" /></label>
      </div>
      <template v-if="found">
        <BeforeAfter :looks="found" :before="`Release ${found.from}`" :after="`Release ${found.to}`" :picture="picture" />
        <p v-if="found.alike" class="quiet">They are the same.</p>
        <div v-else class="lists">
          <section v-for="p in parts" :key="p.title">
            <h3 class="heading">{{ p.title }}</h3>
            <p v-if="!p.list.length" class="quiet">{{ p.none }}</p>
            <ul><li v-for="d in p.list" :key="d.entry + d.what" :data-difference="d.entry || d.what"><span class="how" :class="d.how">{{ words[d.how] }}</span><div><b>{{ d.what }}</b><span v-for="s in d.says" :key="s" class="quiet says">{{ s }}</span></div></li></ul>
          </section>
        </div>
      </template>
      <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    </div>
  </CardDialog>
</template>

<style scoped>
.compare { display: grid; gap: 14px; }
.which { display: grid; grid-template-columns: 1fr 1fr; gap: 12px; }
.which label { display: grid; grid-template-columns: auto minmax(0, 1fr); gap: 8px; align-items: center; }
.lists { display: grid; grid-template-columns: 1fr 1fr; gap: 14px 22px; max-height: 260px; overflow: auto; align-items: start; }
ul { list-style: none; margin: 6px 0 0; padding: 0; display: grid; gap: 6px; }
li { display: grid; grid-template-columns: 62px minmax(0, 1fr); gap: 8px; align-items: baseline; overflow-wrap: anywhere; }
b { font-weight: 600; }
.says { display: block; font-size: 12px; }
.how { font-size: 11.5px; text-align: center; border-radius: 4px; padding: 0 5px; background: var(--linen-deep); color: var(--ink-quiet); }
.how.added { background: var(--ivy-wash); color: var(--ivy-deep); }
.how.lost { background: var(--rust-wash); color: #8c3518; }
.failure { color: var(--rust); }
@media (max-width: 620px) { .lists { grid-template-columns: minmax(0, 1fr); max-height: none; } }
</style>
