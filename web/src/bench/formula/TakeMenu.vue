<script setup lang="ts">
import { onClickOutside, useEventListener, useWindowSize } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import { api, ask, type Failure } from '../../api/client'
import type { components } from '../../api/schema'
import { useDocument } from '../../common/document'
import { useNotices } from '../../common/notices'
import { useSelection } from '../../common/selection'
import { useTransport } from '../../common/transport'
import { useTaking } from './taking'

/** The values of a layer, or of what is none, that another value may be taken from. */
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const taking = useTaking()
const list = ref<components['schemas']['SourceView'][]>([])
const asked = ref(false)
const el = ref<HTMLElement>()
const { width, height } = useWindowSize()

watch(
  () => taking.menu,
  async (m) => {
    list.value = []
    asked.value = false
    if (!m || !doc.draft || !taking.of) return
    try {
      list.value = await ask(api.GET('/api/drafts/{id}/sources', { params: { path: { id: doc.draft.id }, query: { path: taking.of.path, layer: m.layer || undefined, format: selection.format, frame: Math.max(0, Math.min(transport.frame, doc.face!.frames - 1)) } } }))
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
    }
    asked.value = true
    await nextTick()
    el.value?.querySelector<HTMLElement>('button')?.focus()
  },
)
const groups = computed(() => {
  const out = new Map<string, typeof list.value>()
  for (const s of list.value) out.set(s.group, [...(out.get(s.group) ?? []), s])
  return [...out]
})
const at = computed(() => {
  const m = taking.menu
  if (!m) return {}
  return { left: `${Math.max(8, Math.min(m.x + 8, width.value - 268))}px`, top: `${Math.max(8, Math.min(m.y - 20, height.value - 420))}px` }
})
onClickOutside(el, () => taking.menu && asked.value && taking.over())
useEventListener(window, 'keydown', (e) => {
  if (!taking.menu || e.key !== 'Escape') return
  e.stopImmediatePropagation()
  taking.over()
}, true)
function rove(e: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (!by) return
  const all = [...el.value!.querySelectorAll<HTMLElement>('button')]
  all[Math.max(0, Math.min(all.length - 1, all.indexOf(document.activeElement as HTMLElement) + by))]?.focus()
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div v-if="taking.menu" ref="el" class="menu" role="dialog" :aria-label="`Take from ${taking.menu.name}`" data-test="take-menu" :style="at" @keydown="rove">
    <h3>{{ taking.of?.label }} <span class="quiet">takes from</span> {{ taking.menu.name }}</h3>
    <p v-if="asked && !list.length" class="quiet">There is nothing here that fits.</p>
    <template v-for="[group, items] in groups" :key="group">
      <p class="quiet group">{{ group }}</p>
      <button v-for="s in items" :key="s.path" :data-source="s.path" @click="taking.from(s.path)"><span>{{ s.label }}</span><span class="num quiet">{{ s.now }}</span></button>
    </template>
  </div>
</template>

<style scoped>
.menu { position: fixed; z-index: 60; width: 260px; max-height: 410px; overflow: auto; padding: 10px; border-radius: 10px; background: var(--linen-raised); border: 1px solid var(--rule-strong); box-shadow: 0 10px 30px rgba(40, 30, 10, 0.22); display: grid; gap: 1px; }
h3 { font-size: 13px; margin: 0 4px 4px; font-weight: 600; }
h3 .quiet { font-weight: 400; }
.group { font-size: 11px; margin: 6px 6px 1px; }
button { display: flex; justify-content: space-between; gap: 10px; border: 0; background: none; border-radius: 6px; padding: 4px 8px; cursor: pointer; text-align: left; font: inherit; color: inherit; }
button:hover, button:focus-visible { background: var(--ivy-wash); }
button .num { font-size: 11.5px; white-space: nowrap; }
</style>
