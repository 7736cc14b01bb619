<script setup lang="ts">
import { NButton, NInput, NSelect } from 'naive-ui'
import { computed } from 'vue'

import { coalesced } from '../common/coalesced'
import { usePeople } from './people'

/** Who did what, the last first. */
const people = usePeople()
const who = computed(() => [{ label: 'Everybody', value: '' }, ...people.codes.map((c) => ({ label: c.withdrawn ? `${c.name} (withdrawn)` : c.name, value: c.id }))])
const read = coalesced(() => people.read())
function filter(code: string) {
  people.by = code
  void people.read()
}
function search(text: string) {
  people.text = text
  read()
}
const time = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' })
const date = new Intl.DateTimeFormat(undefined, { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' })
/** Lines by days. */
const days = computed(() => {
  const out: { day: string; lines: { key: number; at: string; name: string; said: string; role: string }[] }[] = []
  for (const d of people.deeds) {
    const day = date.format(new Date(d.at))
    if (out.at(-1)?.day !== day) out.push({ day, lines: [] })
    out.at(-1)!.lines.push({ key: d.number, at: time.format(new Date(d.at)), name: d.name || 'At this machine', said: d.said, role: d.role })
  }
  return out
})
</script>

<template>
  <section class="deeds" aria-labelledby="deeds-head">
    <div class="head">
      <h2 id="deeds-head">What was done</h2>
      <NSelect :value="people.by" :options="who" size="small" class="who" :input-props="{ 'aria-label': 'By whom' }"
        aria-label="By whom" @update:value="filter" />
      <NInput :value="people.text" size="small" clearable placeholder="Search" class="find"
        :input-props="{ 'aria-label': 'Search what was done', type: 'search' }" @update:value="search" />
    </div>
    <p v-if="!people.deeds.length"
      class="quiet">{{ people.by || people.text ? 'Nothing of the kind was done.' : 'Nothing was changed or rendered yet.' }}</p>
    <template v-for="d in days" :key="d.day">
      <h3>{{ d.day }}</h3>
      <ol>
        <li v-for="l in d.lines" :key="l.key"><span class="quiet at">{{ l.at }}</span><span class="by">{{ l.name }}</span><span
          class="said">{{ l.said }}</span></li>
      </ol>
    </template>
    <NButton v-if="people.more" size="small" data-test="more-deeds" @click="people.read(people.deeds.at(-1)!.number)">Earlier</NButton>
  </section>
</template>

<style scoped>
.deeds { margin-top: 32px; max-width: 1100px; }
.head { display: flex; gap: 10px; align-items: center; flex-wrap: wrap; margin-bottom: 8px; }
h2 { font-size: 16px; margin-right: auto; }
h3 { font-size: 11.5px; font-weight: 600; color: var(--ink-quiet); margin: 14px 0 3px; }
.who { width: 190px; }
.find { width: 190px; }
ol { list-style: none; margin: 0; padding: 0; }
li { display: grid; grid-template-columns: 68px 170px minmax(0, 1fr); gap: 12px; padding: 5px 0; border-top: 1px solid var(--rule); }
.at { white-space: nowrap; }
.by { font-weight: 500; overflow-wrap: anywhere; }
.said { overflow-wrap: anywhere; }
.deeds > .n-button { margin-top: 14px; }
@media (max-width: 620px) {
  li { grid-template-columns: 68px minmax(0, 1fr); gap: 0 12px; }
  .said { grid-column: 2; }
  .who, .find { flex: 1; min-width: 130px; width: auto; }
}
</style>
