<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import CardDialog from './CardDialog.vue'
import { can, listed, run, type Command } from './commands'
import { finder } from './search'

/** Every command by name, with its keys; those that can be done now are done by a press or by Enter. */
const show = defineModel<boolean>('show', { required: true })
const all = listed()
const search = ref('')
const field = ref<HTMLInputElement>()
const groups = computed(() => {
  const fits = finder(search.value)
  return all.map((g) => ({ ...g, lines: g.lines.filter((l) => fits(`${l.text} ${g.title}`)) })).filter((g) => g.lines.length)
})
/** Lines of one command alone can be done from here. */
const doable = (ids: Command[]) => ids.length === 1 && show.value && can(ids[0]!)
watch(show, (s) => {
  if (!s) return
  search.value = ''
  setTimeout(() => field.value?.focus(), 150)
})
async function go(id: Command) {
  show.value = false
  await nextTick()
  run(id)
}
function first() {
  const l = groups.value.flatMap((g) => g.lines).find((x) => doable(x.ids))
  if (search.value.trim() && l) void go(l.ids[0]!)
}
</script>

<template>
  <CardDialog v-model:show="show" title="Keys and commands" :width="1180">
    <input ref="field" v-model="search" class="search" type="search" placeholder="Search by what it does" aria-label="Search commands" data-test="command-search" @keyup.enter="first" />
    <div class="scroll" tabindex="0" role="region" aria-label="All commands">
    <div class="groups">
      <section v-for="g in groups" :key="g.title">
        <h3>{{ g.title }}</h3>
        <dl><template v-for="l in g.lines" :key="l.text"><dt><kbd v-for="k in l.keys" :key="k" class="num">{{ k }}</kbd></dt><dd><button v-if="doable(l.ids)" :data-command="l.ids[0]" @click="go(l.ids[0]!)">{{ l.text }}</button><template v-else>{{ l.text }}</template></dd></template></dl>
      </section>
      <p v-if="!groups.length" class="quiet">No command is called that.</p>
    </div>
    </div>
  </CardDialog>
</template>

<style scoped>
.search { width: 320px; max-width: 100%; border: 1px solid var(--rule-strong); border-radius: 8px; background: #fffefa; padding: 6px 11px; font: inherit; color: var(--ink); margin-bottom: 14px; }
.scroll { max-height: calc(100vh - 190px); overflow: auto; }
.groups { columns: 340px; column-gap: 30px; }
section { break-inside: avoid; margin-bottom: 18px; }
h3 { font-size: 13px; margin-bottom: 6px; color: var(--ivy-deep); }
dl { display: grid; grid-template-columns: 112px 1fr; gap: 4px 10px; font-size: 13px; line-height: 1.35; margin: 0; align-items: baseline; }
dt { display: flex; flex-wrap: wrap; gap: 3px; }
dd { margin: 0; }
dd button { border: 0; background: none; padding: 0; text-align: left; cursor: pointer; color: var(--ivy-deep); text-decoration: underline; text-decoration-color: var(--rule-strong); text-underline-offset: 3px; }
kbd { background: var(--linen-deep); border: 1px solid var(--rule-strong); border-radius: 5px; padding: 1px 6px; }
@media (max-width: 620px) { .groups { columns: 1; } }
</style>
