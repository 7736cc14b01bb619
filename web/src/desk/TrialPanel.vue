<script setup lang="ts">
import { IconNeedle, IconPlayerStopFilled } from '@tabler/icons-vue'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'

import type { Finding } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'
import { timecode } from '../common/format'
import { useTrial } from '../common/trials'

const emit = defineEmits<{ look: [string, number] }>()
const doc = useDocument()
const shown = ref<{ picture: string; title: string; text: string } | null>(null)
const { trial, failure, running, faults, groups, start, stop } = useTrial(computed(() => doc.piece!.id))
const stale = computed(() => trial.value?.state === 'done' && trial.value.revision !== (doc.piece!.tryout ? doc.piece!.under : doc.piece!.revision))
const formatName = (id: string) => doc.piece!.template.formats.find((f) => f.id === id)?.name ?? id
const tc = (n: number) => timecode(n, doc.piece!.rateN, doc.piece!.rateD, doc.piece!.dropFrame)
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)
function look(f: Finding) {
  emit('look', f.format, f.frame)
  shown.value = { picture: f.picture, title: `${capital(f.kind)}: ${f.where}, ${f.case}`, text: `${f.what} ${f.advice}` }
}
</script>

<template>
  <div class="trial">
    <p class="quiet">Fills every pocket with tall, wide, tiny, dark, bright and transparent media, every wording with short, long and awkward words, and takes every entry to both ends, in all formats.</p>
    <div v-if="running" class="progress" role="status">
      <div class="line"><b>Trying swaps</b><span class="num">{{ trial!.done }} / {{ trial!.total || '…' }}</span></div>
      <div class="thread"><i :style="{ width: `${trial!.total ? (trial!.done / trial!.total) * 100 : 0}%` }" /></div>
      <NButton size="small" @click="stop"><template #icon><IconPlayerStopFilled :size="14" /></template>Stop</NButton>
    </div>
    <NButton v-else type="primary" data-test="try" @click="start"><template #icon><IconNeedle :size="17" /></template>{{ trial?.state === 'done' ? 'Try all swaps again' : 'Try all swaps' }}</NButton>
    <p v-if="failure || trial?.failure" class="failed" role="alert">{{ failure || trial?.failure }} Nothing was changed.</p>
    <template v-if="trial?.state === 'done'">
      <p v-if="stale" class="stale">The piece has changed since; try again to be sure.</p>
      <p v-if="!faults.length" class="sound">Sound: {{ trial.cases }} cases tried, nothing broke.</p>
      <p v-else class="count"><b class="num">{{ faults.length }}</b> {{ faults.length === 1 ? 'finding' : 'findings' }} in <span class="num">{{ trial.cases }}</span> cases</p>
      <article v-for="g in groups" :key="g[0]!.kind + g[0]!.where + g[0]!.format" class="finding" :class="{ hint: g[0]!.hint }" :data-test="g[0]!.hint ? 'hint' : 'finding'">
        <button v-if="g[0]!.picture" class="picture" :aria-label="`Look at ${g[0]!.kind}`" @click="look(g[0]!)"><img :src="g[0]!.picture" alt="" /></button>
        <h2>{{ g[0]!.hint ? 'Advice' : capital(g[0]!.kind) }}</h2>
        <p class="where">{{ g[0]!.where }}, {{ formatName(g[0]!.format).toLowerCase() }}, <button class="goto num" @click="emit('look', g[0]!.format, g[0]!.frame)">{{ tc(g[0]!.frame) }}</button></p>
        <p>{{ g[0]!.what }}</p>
        <p class="quiet">{{ g[0]!.advice }}</p>
        <div v-if="!g[0]!.hint" class="cases"><button v-for="f in g" :key="f.case" @click="look(f)">{{ f.case }}</button></div>
      </article>
      <section v-for="s in trial.sheets" :key="s.format">
        <div class="line"><h2>{{ formatName(s.format) }}</h2><a :href="s.picture" :download="`contact sheet ${s.format}.png`">Save contact sheet</a></div>
        <div class="tiles">
          <button v-for="t in trial.tiles.filter((x) => x.format === s.format)" :key="t.case" :class="{ bad: t.findings > 0 }" :title="t.case"
            @click="shown = { picture: t.picture, title: capital(t.case), text: t.findings ? `${t.findings} found` : 'Nothing found' }">
            <img :src="t.picture" alt="" loading="lazy" /><span>{{ t.case }}</span>
          </button>
        </div>
      </section>
    </template>
    <CardDialog :show="!!shown" :title="shown?.title ?? ''" :width="820" @update:show="shown = null">
      <img v-if="shown" :src="shown.picture" class="large" alt="" />
      <p v-if="shown">{{ shown.text }}</p>
    </CardDialog>
  </div>
</template>

<style scoped>
.trial { display: grid; gap: 12px; align-content: start; }
.progress { display: grid; gap: 7px; justify-items: start; }
.line { display: flex; justify-content: space-between; width: 100%; align-items: baseline; }
.line a { color: var(--ivy-deep); font-size: 12px; }
.thread { width: 100%; height: 7px; border-radius: 4px; background: var(--linen-deep); overflow: hidden; }
.thread i { display: block; height: 100%; background: repeating-linear-gradient(-55deg, var(--ivy) 0 5px, #3c7d5d 5px 8px); transition: width 0.2s; }
.failed { color: #9a3c20; }
.stale { background: var(--amber-wash); color: #6f470a; border-radius: 7px; padding: 6px 10px; font-size: 12px; }
.sound { background: var(--ivy-wash); color: var(--ivy-deep); border-radius: 7px; padding: 8px 10px; font-weight: 500; }
.count { font-size: 14px; }
.finding { border: 1px solid #dfb9a7; border-radius: 10px; overflow: hidden; background: var(--linen-raised); padding-bottom: 10px; }
.finding.hint { border-color: #d9c48f; }
.finding.hint h2 { color: var(--amber); }
.finding > :not(.picture) { margin: 0 12px; }
.finding h2 { margin-top: 8px; font-size: 14px; color: var(--rust); }
.picture { display: block; width: 100%; border: 0; padding: 0; background: var(--surround); cursor: zoom-in; text-align: center; }
.picture img { max-width: 100%; max-height: 150px; display: block; margin: 0 auto; }
.where { font-weight: 500; }
.goto { background: none; border: 0; padding: 0; color: var(--ivy-deep); cursor: pointer; text-decoration: underline; text-decoration-style: dashed; text-underline-offset: 3px; }
.cases { display: flex; flex-wrap: wrap; gap: 4px; padding-top: 6px; }
.cases button { border: 1px solid var(--rule-strong); background: var(--linen); border-radius: 5px; font-size: 11.5px; padding: 1px 7px; cursor: pointer; }
.cases button:hover { border-color: var(--rust); }
section { display: grid; gap: 7px; }
section h2 { font-size: 13px; }
.tiles { display: grid; grid-template-columns: repeat(3, 1fr); gap: 6px; }
.tiles button { border: 0; background: none; padding: 0; cursor: zoom-in; display: grid; gap: 2px; text-align: left; min-width: 0; align-content: start; }
.tiles img { width: 100%; display: block; border-radius: 3px; }
.tiles span { font-size: 10.5px; color: var(--ink-quiet); line-height: 1.25; }
.tiles .bad img { outline: 2px solid var(--rust); }
.tiles .bad span { color: var(--rust); }
.large { display: block; max-width: 100%; max-height: 60vh; margin: 0 auto 10px; }
</style>
