<script setup lang="ts">
import { IconUnlink } from '@tabler/icons-vue'
import { NSelect } from 'naive-ui'
import { computed } from 'vue'

import type { Entry, Tie } from '../api/client'
import NumberField from '../common/NumberField.vue'

/** One tie: what it drives, from which range into which, and by which ease. */
const props = defineProps<{ e: Entry; tie: Tie; called: string }>()
const emit = defineEmits<{ change: [Tie]; off: []; go: [] }>()
const ranged = computed(() => (props.e.kind === 'amount' || props.e.kind === 'angle') && !props.tie.stops?.length)
const from = computed(() => props.tie.from ?? [props.e.min, props.e.max])
const into = computed(() => props.tie.into ?? [props.e.min, props.e.max])
function set(which: 'from' | 'into', i: number, v: number) {
  const next: Tie = { ...props.tie, from: [...from.value] as [number, number], into: [...into.value] as [number, number] }
  next[which]![i] = v
  if (next.from![0] === next.from![1]) return
  emit('change', next)
}
/** CSS Easing Functions Level 1 by their names there. */
const eases = [
  ['', 'straight', undefined],
  ['ease', 'ease', [0.25, 0.1, 0.25, 1]],
  ['ease-in', 'ease-in', [0.42, 0, 1, 1]],
  ['ease-out', 'ease-out', [0, 0, 0.58, 1]],
  ['ease-in-out', 'ease-in-out', [0.42, 0, 0.58, 1]],
] as const
const ease = computed(() => eases.find(([, , n]) => JSON.stringify(n) === JSON.stringify(props.tie.ease))?.[0] ?? 'own')
function bend(id: string) {
  const n = eases.find(([x]) => x === id)?.[2]
  emit('change', { ...props.tie, from: from.value as [number, number], into: into.value as [number, number], ease: n && [...n] })
}
const said = (v: unknown) => (typeof v === 'boolean' ? (v ? 'on' : 'off') : (props.e.options.find((o) => o.id === v)?.name ?? String(v)))
const gives = (v: unknown) => (typeof v === 'boolean' ? (v ? 'yes' : 'no') : Array.isArray(v) ? v.join(', ') : String(v))
</script>

<template>
  <div class="tie" :data-tie="tie.to">
    <div class="line"><button class="link" title="Select what it drives" @click="emit('go')">{{ called || tie.to }}</button><span v-if="tie.of" class="chip">{{ tie.of }} of it</span><button class="icon-button" title="Untie" :aria-label="`Untie ${called}`" @click="emit('off')"><IconUnlink :size="14" /></button></div>
    <div v-if="ranged" class="range">
      <NumberField label="from" :name="`${called}, from`" :value="from[0]!" :places="3" @change="set('from', 0, $event)" @press="set('from', 0, $event)" /><NumberField label="to" :name="`${called}, to`" :value="from[1]!" :places="3" @change="set('from', 1, $event)" @press="set('from', 1, $event)" />
      <NumberField label="gives" :name="`${called}, gives at its least`" :value="into[0]!" :places="3" @change="set('into', 0, $event)" @press="set('into', 0, $event)" /><NumberField label="to" :name="`${called}, gives at its most`" :value="into[1]!" :places="3" @change="set('into', 1, $event)" @press="set('into', 1, $event)" />
      <NSelect class="ease" size="tiny" :value="ease" :options="[...eases.map(([value, label]) => ({ value, label })), ...(ease === 'own' ? [{ value: 'own', label: 'its own curve' }] : [])]" :aria-label="`Ease of ${called}`" @update:value="bend" />
    </div>
    <ul v-else-if="tie.stops?.length" class="stops"><li v-for="s in tie.stops" :key="JSON.stringify(s.at)"><span>{{ said(s.at) }}</span><span class="num">{{ gives(s.value) }}</span></li></ul>
  </div>
</template>

<style scoped>
.tie { display: grid; gap: 4px; padding: 3px 0 5px; }
.line { display: flex; align-items: center; gap: 6px; }
.link { flex: 1; min-width: 0; text-align: left; border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline dotted; text-underline-offset: 3px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.chip { font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 0 5px; color: var(--ink-quiet); }
.range { display: grid; grid-template-columns: 1fr 1fr; gap: 4px 6px; }
.ease { grid-column: 1 / -1; }
.stops { list-style: none; margin: 0; padding: 0; font-size: 12px; display: grid; gap: 1px; }
.stops li { display: flex; justify-content: space-between; gap: 8px; }
.stops .num { color: var(--ink-quiet); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.icon-button { width: 24px; height: 22px; }
</style>
