<script setup lang="ts">
import { IconChevronDown, IconChevronRight, IconEye, IconEyeOff, IconLock, IconLockOpen, IconSearch } from '@tabler/icons-vue'
import { useElementBounding } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import type { LayerLine } from '../api/client'
import { tip } from '../common/commands'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'
import { useRoving } from '../common/roving'
import { finder } from '../common/search'
import { useSelection } from '../common/selection'
import { useActs } from './acts'
import { iconOfLayer, tint } from './kinds'
import { useRows, type Row } from './rows'
import { useTool } from './tool'

/** The tree of layers, the topmost first: picked, named, hidden, pinned down, restacked and put into groups. */
const doc = useDocument()
const selection = useSelection()
const tool = useTool()
const { lines, around, does, point, mark } = useActs()

const { tree, isFolded, fold } = useRows()
const search = ref('')
const searching = ref(false)
const rows = computed(() => {
  if (search.value.trim()) {
    const fits = finder(search.value)
    return tree.value.filter((r) => fits(`${r.y.name} ${r.y.about}`))
  }
  return tree.value.filter((r) => !around(r.y.id).some(isFolded))
})

const list = ref<HTMLElement>()
/** The row that the pointer is on: it alone has its buttons drawn. */
const hovered = ref('')
/** Of a long tree only what is in sight is drawn, and a little around it. Rows are HIGH px. */
const HIGH = 26
const LONG = 150
const AROUND = 12
const { top } = useElementBounding(list)
const sight = computed(() => {
  if (rows.value.length <= LONG) return { from: 0, to: rows.value.length }
  const from = Math.max(0, Math.floor(-top.value / HIGH) - AROUND)
  return { from, to: Math.min(rows.value.length, from + Math.ceil(window.innerHeight / HIGH) + 2 * AROUND) }
})
const drawn = computed(() => rows.value.slice(sight.value.from, sight.value.to))
/** Brings a row into sight, drawn or not. */
async function show(id: string) {
  const i = rows.value.findIndex((r) => r.y.id === id)
  const scroller = list.value?.closest('.left')
  if (i >= 0 && scroller && !row(id)) {
    scroller.scrollTop += list.value!.getBoundingClientRect().top - scroller.getBoundingClientRect().top + i * HIGH - scroller.clientHeight / 2
    await new Promise((r) => requestAnimationFrame(r))
    await nextTick()
  }
  row(id)?.scrollIntoView({ block: 'nearest' })
}
const row = (id: string) => list.value?.querySelector<HTMLElement>(`[data-layer=${JSON.stringify(id)}]`)
const { at, key: rove } = useRoving(computed(() => rows.value.map((r) => r.y.id)), computed(() => selection.layer), (id) => void show(id).then(() => row(id)?.focus()))
watch(() => selection.layer, (id) => id && void nextTick(() => show(id)))

let last = ''
function pick(e: MouseEvent | KeyboardEvent, id: string) {
  if (tool.pointing) return point([id])
  if (e.shiftKey && last) {
    const ids = rows.value.map((r) => r.y.id)
    const [a, b] = [ids.indexOf(last), ids.indexOf(id)].sort((x, y) => x - y) as [number, number]
    selection.layers = [...ids.slice(a, b + 1).filter((x) => x !== id), id]
    return
  }
  last = id
  if (e.ctrlKey || e.metaKey) selection.layers = selection.layers.includes(id) ? selection.layers.filter((x) => x !== id) : [...selection.layers, id]
  else selection.layers = [id]
  const up = around(id)
  tool.inside = up[0] ?? ''
}

const name = ref('')
watch(
  () => tool.naming,
  async (id) => {
    if (!id) return
    name.value = lines.value.get(id)?.name ?? ''
    await nextTick()
    const f = list.value?.querySelector<HTMLInputElement>('input.name')
    f?.focus()
    f?.select()
  },
)
function named(keep: boolean) {
  const id = tool.naming
  if (!id) return
  tool.naming = ''
  if (keep && name.value.trim() && name.value.trim() !== lines.value.get(id)?.name) void does({ kind: 'name', layers: [id], name: name.value })
  void nextTick(() => row(id)?.focus())
}

// Dragging rows: above or below another, or into a group.
const drag = useDrag()
const goal = ref<{ id: string; where: 'above' | 'below' | 'in' } | null>(null)
function take(e: PointerEvent, r: Row) {
  if (tool.pointing || tool.naming || (e.target as Element).closest('button.small')) return
  const ids = selection.layers.includes(r.y.id) ? selection.layers : [r.y.id]
  drag(e, {
    slack: 5,
    move: (d) => {
      const el = document.elementsFromPoint(d.x, d.y).find((x) => x instanceof HTMLElement && x.dataset.layer) as HTMLElement | undefined
      const box = el?.getBoundingClientRect()
      const over = el && rows.value.find((x) => x.y.id === el.dataset.layer)
      if (!over || !box || ids.includes(over.y.id) || around(over.y.id).some((g) => ids.includes(g))) return void (goal.value = null)
      const share = (d.y - box.y) / box.height
      goal.value = { id: over.y.id, where: over.y.holds && share > 0.25 && share < 0.75 ? 'in' : share < 0.5 ? 'above' : 'below' }
    },
    end: () => {
      const g = goal.value
      goal.value = null
      const over = g && rows.value.find((x) => x.y.id === g.id)
      if (!g || !over) return
      const into = g.where === 'in' ? `layers/${g.id}/layers` : over.group ? `layers/${over.group}/layers` : 'layers'
      void does({ kind: 'nest', layers: ids, into, at: g.where === 'in' ? -1 : over.at + (g.where === 'above' ? 1 : 0) })
    },
    cancel: () => (goal.value = null),
  })
}
/** The same by keys: Alt and arrows. */
function keyed(e: KeyboardEvent, r: Row) {
  if (e.key === 'Enter') return pick(e, r.y.id)
  if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
    e.preventDefault()
    e.stopPropagation()
    if (!selection.layers.includes(r.y.id)) selection.layers = [r.y.id]
    return void does({ kind: 'stack', way: e.key === 'ArrowUp' ? 'up' : 'down' })
  }
  if (e.altKey && e.key === 'ArrowRight') {
    // Into the group that stands right below it.
    const i = rows.value.indexOf(r)
    const next = rows.value.slice(i + 1).find((x) => x.group === r.group)
    e.preventDefault()
    e.stopPropagation()
    if (next?.y.holds) return void does({ kind: 'nest', layers: [r.y.id], into: `layers/${next.y.id}/layers`, at: -1 })
    return
  }
  if (e.altKey && e.key === 'ArrowLeft' && r.group) {
    e.preventDefault()
    e.stopPropagation()
    const up = tree.value.find((x) => x.y.id === r.group)!
    return void does({ kind: 'nest', layers: [r.y.id], into: up.group ? `layers/${up.group}/layers` : 'layers', at: up.at + 1 })
  }
  if (r.y.holds && !e.altKey && ((e.key === 'ArrowRight' && isFolded(r.y.id)) || (e.key === 'ArrowLeft' && !isFolded(r.y.id)))) {
    e.preventDefault()
    e.stopPropagation()
    return fold(r.y.id)
  }
  rove(e)
}
/** What a layer hangs on: what it is cut by, follows, or reads in formulas. */
const hangs = (y: LayerLine) =>
  [{ id: y.matte, how: 'cut by', sign: '✂' }, { id: y.follows, how: 'follows', sign: '⇢' }, ...y.reads.map((id) => ({ id, how: 'driven by', sign: '∿' }))]
    .filter((h) => lines.value.has(h.id))
    .map((h) => ({ ...h, text: `${h.how} ${lines.value.get(h.id)!.name}` }))
</script>

<template>
  <section class="tree">
    <h2 class="heading">Layers<span class="num">{{ tree.length }}</span>
      <button class="icon-button small" :class="{ on: searching }" title="Search layers" aria-label="Search layers" :aria-expanded="searching" @click="((searching = !searching), (search = ''))"><IconSearch :size="14" /></button>
    </h2>
    <input v-if="searching" v-model="search" class="search" type="search" placeholder="Name or kind" aria-label="Search layers" @keydown.esc.stop="((searching = false), (search = ''))" />
    <ul ref="list" role="tree" aria-label="Layers, the topmost first" aria-multiselectable="true" :style="{ paddingTop: `${sight.from * HIGH}px`, paddingBottom: `${(rows.length - sight.to) * HIGH}px` }">
      <li v-for="r in drawn" :key="r.y.id" role="none">
        <div class="layer" :class="{ on: selection.layers.includes(r.y.id), hidden: r.y.hidden, out: r.y.leftOut, inside: tool.inside === r.y.id, goal: goal?.id === r.y.id, [goal?.where ?? '']: goal?.id === r.y.id }" :style="{ paddingLeft: `${4 + (search ? 0 : r.y.depth) * 13}px` }" :data-layer="r.y.id"
          role="treeitem" :aria-level="r.y.depth + 1" :aria-selected="selection.layers.includes(r.y.id)" :aria-expanded="r.y.holds ? !isFolded(r.y.id) : undefined" :tabindex="at === r.y.id ? 0 : -1"
          :title="`${r.y.name}: ${r.y.about.toLowerCase()}${r.y.hidden ? ', hidden' : ''}${r.y.leftOut ? `, left out: nothing lies in the pocket ${doc.draft!.pockets.find((p) => p.id === r.y.without)?.name ?? r.y.without}` : ''}${r.y.locked ? ', pinned down' : ''}`" @focus="at = r.y.id" @pointerenter="hovered = r.y.id" @click="pick($event, r.y.id)" @dblclick="tool.naming = r.y.id" @pointerdown="take($event, r)" @keydown="keyed($event, r)">
          <button v-if="r.y.holds && !search" class="small fold" tabindex="-1" :aria-label="isFolded(r.y.id) ? 'Unfold' : 'Fold'" @click.stop="fold(r.y.id)"><component :is="isFolded(r.y.id) ? IconChevronRight : IconChevronDown" :size="12" /></button>
          <i v-else class="fold" />
          <component :is="iconOfLayer(r.y)" :size="14" :style="{ color: tint(r.y.thread) }" class="kind" />
          <input v-if="tool.naming === r.y.id" v-model="name" class="name" maxlength="120" aria-label="Name of the layer" @click.stop @dblclick.stop @pointerdown.stop @blur="named(true)" @keydown.stop @keydown.enter="named(true)" @keydown.esc="named(false)" />
          <span v-else>{{ r.y.name }}</span>
          <button v-for="h in hangs(r.y)" :key="h.text" class="small hang" tabindex="-1" :title="`${h.text}: go there`" :aria-label="`${h.text}: go there`" @click.stop="selection.layers = [h.id]">{{ h.sign }}</button>
          <button v-if="r.y.locked || hovered === r.y.id || selection.layers.includes(r.y.id)" class="small act" :class="{ set: r.y.locked }" tabindex="-1" :title="tip('lock', r.y.locked ? 'Pinned down: unlock it' : 'Pin it down')" :aria-label="r.y.locked ? 'Unlock' : 'Lock'" @click.stop="mark('locked', [r.y.id])"><component :is="r.y.locked ? IconLock : IconLockOpen" :size="13" /></button>
          <button v-if="r.y.hidden || hovered === r.y.id || selection.layers.includes(r.y.id)" class="small act" :class="{ set: r.y.hidden }" tabindex="-1" :title="tip('hide', r.y.hidden ? 'Hidden: show it' : 'Hide it')" :aria-label="r.y.hidden ? 'Show' : 'Hide'" @click.stop="mark('hidden', [r.y.id])"><component :is="r.y.hidden ? IconEyeOff : IconEye" :size="13" /></button>
        </div>
      </li>
    </ul>
    <p v-if="!tree.length" class="quiet empty">Nothing yet. What you take from the tray lies here, the topmost first.</p>
    <p v-else-if="!rows.length" class="quiet empty">No layer matches.</p>
  </section>
</template>

<style scoped>
.heading { display: flex; align-items: center; gap: 6px; padding: 12px 6px 5px; margin: 0; }
.heading .num { font-weight: 400; }
.heading button { margin-left: auto; width: 22px; height: 22px; }
.search { width: 100%; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; padding: 3px 8px; margin-bottom: 4px; color: var(--ink); font: inherit; }
ul { list-style: none; margin: 0; padding: 0; }
li { height: 26px; }
.layer { position: relative; display: flex; align-items: center; gap: 5px; height: 26px; border: 1px solid transparent; border-radius: 7px; padding: 0 3px; cursor: default; min-width: 0; user-select: none; touch-action: none; }
.layer span { flex: 1; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.layer:hover { background: var(--linen-raised); }
.layer.on { background: var(--ivy-wash); border-color: var(--ivy); font-weight: 600; }
.layer.out span { color: var(--ink-quiet); font-style: italic; }
.layer.hidden span { color: var(--ink-quiet); text-decoration: line-through; text-decoration-color: var(--rule-strong); }
.layer.inside { border-style: dashed; border-color: var(--ivy); }
.layer.goal.in { background: var(--ivy-wash); box-shadow: inset 0 0 0 2px var(--ivy); }
.layer.goal.above::before, .layer.goal.below::before { content: ''; position: absolute; left: 4px; right: 4px; height: 0; border-top: 2px dashed var(--ivy); }
.layer.goal.above::before { top: -2px; }
.layer.goal.below::before { bottom: -2px; }
.fold { width: 14px; flex: none; }
.small { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ink-quiet); display: inline-grid; place-items: center; }
.small.act { width: 18px; height: 20px; opacity: 0; }
.layer:hover .act, .layer:focus .act, .act.set, .act:focus-visible { opacity: 1; }
.act.set { color: var(--rust); }
.hang { width: 18px; color: var(--ivy-deep); font-size: 12px; }
.small:hover { color: var(--ink); }
.kind { flex: none; }
input.name { flex: 1; min-width: 0; border: 1px solid var(--ivy); border-radius: 5px; font: inherit; padding: 0 5px; background: #fffefa; color: var(--ink); user-select: text; }
.empty { font-size: 12px; padding: 2px 6px; }
</style>
