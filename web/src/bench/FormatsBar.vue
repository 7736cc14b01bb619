<script setup lang="ts">
import { IconDots, IconLayoutSidebarRight, IconPlus } from '@tabler/icons-vue'
import { NButton, NInput, NInputNumber, NPopover } from 'naive-ui'
import { computed, ref } from 'vue'

import CardDialog from '../common/CardDialog.vue'
import { tip } from '../common/commands'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useActs, type Deed } from './acts'
import { canvases, canvasName } from './start'
import { useTool } from './tool'

/** The formats of a template: one more, another size, what stands apart, and whether a change is for all. */
const doc = useDocument()
const selection = useSelection()
const tool = useTool()
const { does } = useActs()
const formats = computed(() => doc.draft!.formats)
const here = computed(() => formats.value.find((f) => f.id === selection.format))
const open = ref(false)
const editing = ref<'add' | 'size' | ''>('')
const show = computed({ get: () => !!editing.value, set: (on) => !on && (editing.value = '') })
const [name, w, h] = [ref(''), ref<number | null>(1080), ref<number | null>(1920)]
function begin(what: 'add' | 'size') {
  open.value = false
  editing.value = what
  const f = here.value
  if (what === 'size' && f) [name.value, w.value, h.value] = [f.name, f.width, f.height]
  else {
    const free = canvases.find(([a, b]) => !formats.value.some((x) => x.width === a && x.height === b)) ?? canvases[0]
    ;[name.value, w.value, h.value] = ['', free[0], free[1]]
  }
}
/** Does what may make a format, and goes over to the new one. */
async function make(deed: Deed) {
  const before = formats.value.map((f) => f.id)
  if (!(await does(deed))) return false
  const made = formats.value.find((f) => !before.includes(f.id))
  if (made) selection.format = made.id
  return true
}
async function done() {
  const to = [w.value ?? 0, h.value ?? 0]
  if (await make(editing.value === 'add' ? { kind: 'format-add', name: name.value, to } : { kind: 'format-size', id: selection.format, name: name.value, to })) editing.value = ''
}
function copy() {
  open.value = false
  void make({ kind: 'format-copy', id: selection.format })
}
const many = computed(() => formats.value.length > 1)
/** The format that this one could be laid out like, when layers lie off its canvas. */
const like = computed(() => formats.value.find((f) => f.id === here.value?.layLike))
</script>

<template>
  <div class="bar">
    <button class="tool" title="One more format" aria-label="Add a format" data-test="add-format" @click="begin('add')"><IconPlus :size="15" /></button>
    <NPopover v-model:show="open" trigger="click" placement="bottom-start" :style="{ maxWidth: '340px' }">
      <template #trigger><button class="tool" title="This format" :aria-label="here?.own.length ? `This format, ${here.own.length} of its own` : 'This format'" data-test="format-menu"><IconDots :size="15" /><span v-if="here?.own.length" class="num apart">{{ here.own.length }}</span></button></template>
      <div class="menu">
        <strong>{{ here?.name }} <span class="num quiet">{{ here?.width }} × {{ here?.height }}</span></strong>
        <div class="acts"><NButton size="tiny" data-test="size-format" @click="begin('size')">Rename or size</NButton><NButton size="tiny" title="One more like it, to be changed" data-test="copy-format" @click="copy">Duplicate</NButton><NButton size="tiny" quaternary :disabled="!many" data-test="remove-format" @click="((open = false), does({ kind: 'format-remove', id: selection.format }))">Remove</NButton></div>
        <template v-if="here?.own.length">
          <p class="quiet">What stands apart in it:</p>
          <ul><li v-for="o in here.own" :key="o.path"><button class="link" :disabled="!o.layer" @click="selection.layers = [o.layer]">{{ o.called || o.path }}</button><NButton size="tiny" quaternary @click="does({ kind: 'join', path: o.path })">Join</NButton></li></ul>
          <NButton size="tiny" data-test="join-all" @click="does({ kind: 'join' })">Join all of it</NButton>
        </template>
        <p v-else class="quiet">Nothing stands apart in it.</p>
        <div v-if="many" class="acts"><NButton v-for="f in formats.filter((x) => x.id !== selection.format)" :key="f.id" size="tiny" :data-lay-like="f.id" :title="`Edges and cells hold, sizes go by the shorter side; what ${here?.name} has of its own goes`" @click="((open = false), does({ kind: 'format-lay', id: selection.format, into: f.id }))">Lay out like {{ f.name }}</NButton></div>
      </div>
    </NPopover>
    <button v-if="many" class="tool" :class="{ on: tool.beside }" :aria-pressed="tool.beside" :title="tip('beside')" aria-label="See the formats side by side" data-test="beside" @click="tool.beside = !tool.beside"><IconLayoutSidebarRight :size="16" /></button>
    <button v-if="many" class="where" :class="{ on: selection.apart }" role="switch" :aria-checked="selection.apart" :title="tip('apart')" data-test="apart" @click="selection.apart = !selection.apart">
      {{ selection.apart ? `Changes ${here?.name} alone` : 'Changes all formats' }}
    </button>
    <button v-if="here && like" class="where on astray" data-test="astray" :title="`Edges and cells hold, sizes go by the shorter side; what ${here.name} has of its own goes`" @click="does({ kind: 'format-lay', id: here.id, into: like.id })">{{ here.astray.length === 1 ? '1 layer lies' : `${here.astray.length} layers lie` }} off this canvas. Lay it out like {{ like.name }}</button>
    <button v-if="selection.alone.length" class="where on" :title="tip('alone')" data-test="show-all" @click="selection.alone = []">{{ selection.alone.length === 1 ? '1 layer' : `${selection.alone.length} layers` }} alone: show all</button>
    <CardDialog v-model:show="show" :title="editing === 'add' ? 'One more format' : 'This format'" :width="430">
      <div class="sizes"><button v-for="[a, b] in canvases" :key="`${a}x${b}`" class="canvas num" :class="{ on: a === w && b === h }" @click="((w = a), (h = b))"><i :style="{ aspectRatio: `${a} / ${b}` }" />{{ a }} × {{ b }}</button></div>
      <div class="typed"><NInputNumber v-model:value="w" size="small" :min="16" :max="8192" :step="2" :show-button="false" :input-props="{ 'aria-label': 'Width' }"><template #suffix>px</template></NInputNumber><span>×</span><NInputNumber v-model:value="h" size="small" :min="16" :max="8192" :step="2" :show-button="false" :input-props="{ 'aria-label': 'Height' }"><template #suffix>px</template></NInputNumber>
        <NInput v-model:value="name" size="small" :placeholder="canvasName(w ?? 1, h ?? 1)" :maxlength="60" :input-props="{ 'aria-label': 'Name of the format' }" /></div>
      <p class="quiet">{{ editing === 'add' ? 'It is laid out like the one you look at: edges and cells hold, sizes go by the shorter side.' : 'What is on it is laid out anew for the new size.' }}</p>
      <template #acts><NButton @click="editing = ''">Leave it</NButton><NButton type="primary" :disabled="!w || !h" data-test="format-done" @click="done">{{ editing === 'add' ? 'Add it' : 'Change it' }}</NButton></template>
    </CardDialog>
  </div>
</template>

<style scoped>
.bar { display: flex; align-items: center; gap: 2px; min-width: 0; }
.tool { display: flex; align-items: center; gap: 3px; border: 0; background: none; color: #dcdbd3; padding: 5px; border-radius: 7px; cursor: pointer; }
.tool.on { background: var(--linen); color: var(--ink); }
.tool:hover:not(.on) { background: rgba(0, 0, 0, 0.2); }
.tool:focus-visible, .where:focus-visible { outline-color: #fff; }
.apart { background: #e7a13a; color: #3a2606; border-radius: 8px; padding: 0 5px; font-size: 10.5px; }
.where { border: 1px dashed rgba(233, 232, 226, 0.5); background: none; color: #e9e8e2; border-radius: 7px; padding: 3px 9px; cursor: pointer; white-space: nowrap; margin-left: 6px; font-size: 12px; overflow: hidden; text-overflow: ellipsis; }
.where.on { background: #e7a13a; color: #3a2606; border-style: solid; font-weight: 600; }
.astray { position: absolute; top: 50px; left: 10px; z-index: 6; }
.menu { display: grid; gap: 8px; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; }
ul { list-style: none; margin: 0; padding: 0; max-height: 220px; overflow: auto; }
li { display: flex; justify-content: space-between; align-items: center; gap: 10px; }
.link { background: none; border: 0; padding: 0; text-align: left; cursor: pointer; color: var(--ivy-deep); }
.link:disabled { color: var(--ink); cursor: default; }
.sizes { display: flex; flex-wrap: wrap; gap: 6px; }
.canvas { display: flex; align-items: center; gap: 7px; border: 1px solid var(--rule); border-radius: 8px; background: none; padding: 5px 10px; cursor: pointer; }
.canvas i { height: 14px; border: 1.5px solid currentColor; border-radius: 2px; }
.canvas.on { border-color: var(--ivy); background: var(--ivy-wash); color: var(--ivy-deep); }
.typed { display: grid; grid-template-columns: 96px auto 96px 1fr; gap: 8px; align-items: center; margin: 14px 0 10px; }
</style>
