<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { IconColorPicker, IconPalette } from '@tabler/icons-vue'
import { NColorPicker, NDropdown, NPopover } from 'naive-ui'
import { computed, h, nextTick, ref } from 'vue'

import { readColour } from './colour'
import { useDropper } from './dropper'

/**
 * A colour: its swatch opens a field to pick from, its text is typed in any way of CSS. `draft` tells of colours on the
 * way, `change` of one that is meant, `cancel` that none was. `clear` says whether it may be seen through; `colours` are named
 * ones that it may have, `named` is the one that it has. One is read from the picture, too.
 */
const props = defineProps<{ value: string; label: string; clear?: boolean; colours?: { id: string; name: string; value: string }[]; named?: string }>()
const emit = defineEmits<{ draft: [string]; change: [string]; cancel: [] }>()

const text = ref<string | null>(null)
const wrong = ref('')
const open = ref(false)
const picked = ref<string | null>(null)
/** The colour before one was picked: what is on the way may come back as the value. */
const was = ref('')
const called = computed(() => (picked.value === null && props.colours?.find((c) => c.id === props.named)?.name) || '')
const shown = computed(() => text.value ?? picked.value ?? (called.value || props.value))
const dropper = useDropper()
function mean(hex: string) {
  dropper.used(hex)
  emit('change', hex)
}
/** From the picture; its own alpha stays. */
function drop() {
  dropper.wait = (hex) => mean(props.clear && /^#.{8}$/.test(props.value) && !props.value.endsWith('ff') ? hex + props.value.slice(7) : hex)
}
const menu = computed(() => (props.colours ?? []).map((c) => ({ key: `colour:${c.id}`, label: c.name, icon: () => h('i', { style: { width: '14px', height: '14px', borderRadius: '4px', background: c.value, border: '1px solid #c9c1ad', display: 'block' } }) })))

function typed() {
  if (text.value === null || wrong.value) return
  if (text.value.trim() === props.value || text.value.trim() === called.value) return leave()
  const own = props.colours?.find((c) => c.name.toLowerCase() === text.value!.trim().toLowerCase())
  if (own) {
    leave()
    return emit('change', `colour:${own.id}`)
  }
  const c = readColour(text.value, !!props.clear)
  // What can't be kept stays where it was typed, to be mended or given up.
  if ('why' in c) return void (wrong.value = c.why)
  leave()
  if (c.hex !== props.value || called.value) mean(c.hex)
}
function leave() {
  text.value = null
  wrong.value = ''
}
function key(e: KeyboardEvent) {
  if (e.key === 'Enter') typed()
  else if (e.key === 'Escape') leave()
  else return
  e.stopPropagation()
  e.preventDefault()
}
const short = (v: string) => v.toLowerCase().replace(/^(#.{6})ff$/, '$1')
function pick(v: string) {
  leave()
  picked.value = short(v)
  emit('draft', picked.value)
}
/** The field lies apart from the page: it says what it is by itself. */
function name() {
  const panel = document.querySelector('.n-color-picker-panel')
  panel?.setAttribute('role', 'dialog')
  panel?.setAttribute('aria-label', `Pick ${props.label}`)
}
/** Away from the picker is to mean what was picked; Escape is not. */
function show(is: boolean) {
  open.value = is
  if (is) {
    was.value = props.value
    void nextTick(name)
  }
  if (is || picked.value === null) return
  const c = picked.value
  picked.value = null
  if (c === was.value) emit('cancel')
  else mean(c)
}
useEventListener(
  window,
  'keydown',
  (e) => {
    if (!open.value || (e.key !== 'Escape' && e.key !== 'Enter')) return
    e.stopPropagation()
    e.preventDefault()
    if (e.key === 'Enter') return show(false)
    open.value = false
    if (picked.value !== null) emit('cancel')
    picked.value = null
  },
  { capture: true },
)
</script>

<template>
  <div class="colour" :class="{ wrong: !!wrong }">
    <NColorPicker :value="picked ?? value ?? null" :show="open" :show-alpha="!!clear" :modes="['hex']" :actions="[]" :swatches="dropper.recent" @update:value="pick" @update:show="show">
      <template #trigger="{ ref: hold }">
        <button :ref="hold" class="swatch" type="button" :aria-label="`Pick ${label}`" :aria-expanded="open" @click="show(!open)"><i :style="{ background: picked ?? value }" /></button>
      </template>
    </NColorPicker>
    <input class="num" :value="shown" :aria-label="label" :aria-invalid="!!wrong" spellcheck="false" autocomplete="off" title="A name, hex digits, rgb(), hsl()"
      @focus="($event.target as HTMLInputElement).select()" @input="text = ($event.target as HTMLInputElement).value; wrong = ''" @blur="typed" @keydown="key" />
    <NDropdown v-if="menu.length" trigger="click" :options="menu" @select="(id: string) => emit('change', id)"><button class="tool" type="button" :title="`Named colours`" :aria-label="`${label}: a named colour`" data-test="named-colours"><IconPalette :size="15" /></button></NDropdown>
    <button v-if="dropper.ready" class="tool" type="button" title="From the picture" :aria-label="`${label}: from the picture`" data-test="dropper" @click="drop"><IconColorPicker :size="15" /></button>
    <NPopover v-if="wrong" show trigger="manual" placement="bottom-end" :style="{ maxWidth: '250px' }">
      <template #trigger><i class="hook" /></template>
      <span role="alert" data-test="why">{{ wrong }}. Escape: as it was.</span>
    </NPopover>
  </div>
</template>

<style scoped>
.colour { position: relative; display: flex; align-items: center; gap: 6px; min-width: 0; padding: 2px; border: 1px solid var(--rule); border-radius: 7px; background: #fffefa; }
.colour:hover { border-color: var(--rule-strong); }
.colour:focus-within { border-color: var(--ivy); box-shadow: 0 0 0 1px var(--ivy); }
.colour.wrong { border-color: var(--rust); background: var(--rust-wash); }
.swatch { flex: none; width: 36px; height: 24px; padding: 0; border: 1px solid var(--rule-strong); border-radius: 5px; overflow: hidden; cursor: pointer;
  background: repeating-conic-gradient(#fff 0 25%, #d8d8d4 0 50%) 0 0 / 10px 10px; }
.swatch i { display: block; width: 100%; height: 100%; }
input { flex: 1; min-width: 0; border: 0; background: none; outline: none; color: var(--ink); padding: 0 6px 0 2px; }
.tool { flex: none; width: 22px; height: 24px; display: grid; place-items: center; border: 0; border-radius: 5px; background: none; padding: 0; color: var(--ink-quiet); cursor: pointer; }
.tool:hover { background: var(--linen-deep); color: var(--ink); }
.hook { position: absolute; right: 8px; bottom: 0; }
</style>

<style>
/* Colours are typed in the field beside the swatch. */
.n-color-picker-panel .n-color-picker-input { display: none; }
</style>
