<script setup lang="ts">
import CardDialog from './CardDialog.vue'
import { listed } from './commands'

const show = defineModel<boolean>('show', { required: true })
const groups = listed()
</script>

<template>
  <CardDialog v-model:show="show" title="Keys" :width="1180">
    <div class="groups" tabindex="0" role="region" aria-label="All keys">
      <section v-for="g in groups" :key="g.title">
        <h3>{{ g.title }}</h3>
        <dl><template v-for="l in g.lines" :key="l.text"><dt><kbd v-for="k in l.keys" :key="k" class="num">{{ k }}</kbd></dt><dd>{{ l.text }}</dd></template></dl>
      </section>
    </div>
  </CardDialog>
</template>

<style scoped>
.groups { columns: 340px; column-gap: 30px; max-height: calc(100vh - 130px); overflow: auto; }
section { break-inside: avoid; margin-bottom: 18px; }
h3 { font-size: 13px; margin-bottom: 6px; color: var(--ivy-deep); }
dl { display: grid; grid-template-columns: 112px 1fr; gap: 4px 10px; font-size: 13px; line-height: 1.35; margin: 0; align-items: baseline; }
dt { display: flex; flex-wrap: wrap; gap: 3px; }
dd { margin: 0; }
kbd { background: var(--linen-deep); border: 1px solid var(--rule-strong); border-radius: 5px; padding: 1px 6px; }
@media (max-width: 620px) { .groups { columns: 1; } }
</style>
