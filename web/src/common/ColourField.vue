<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { NColorPicker, NPopover } from 'naive-ui'
import { computed, ref } from 'vue'

import { readColour } from './colour'

/**
 * A colour: its swatch opens a field to pick from, its text is typed in any way of CSS. `draft` tells of colours on the
 * way, `change` of one that is meant, `cancel` that none was. `clear` says whether it may be seen through.
 */
const props = defineProps<{ value: string; label: string; clear?: boolean }>()
const emit = defineEmits<{ draft: [string]; change: [string]; cancel: [] }>()

const text = ref<string | null>(null)
const wrong = ref('')
const open = ref(false)
const picked = ref<string | null>(null)
/** The colour before one was picked: what is on the way may come back as the value. */
const was = ref('')
const shown = computed(() => text.value ?? picked.value ?? props.value)

function typed() {
  if (text.value === null || wrong.value) return
  if (text.value.trim() === props.value) return leave()
  const c = readColour(text.value, !!props.clear)
  // What can't be kept stays where it was typed, to be mended or given up.
  if ('why' in c) return void (wrong.value = c.why)
  leave()
  if (c.hex !== props.value) emit('change', c.hex)
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
/** Away from the picker is to mean what was picked; Escape is not. */
function show(is: boolean) {
  open.value = is
  if (is) was.value = props.value
  if (is || picked.value === null) return
  const c = picked.value
  picked.value = null
  if (c === was.value) emit('cancel')
  else emit('change', c)
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
    <NColorPicker :value="picked ?? value ?? null" :show="open" :show-alpha="!!clear" :modes="['hex']" :actions="[]" @update:value="pick" @update:show="show">
      <template #trigger="{ ref: hold }">
        <button :ref="hold" class="swatch" type="button" :aria-label="`Pick ${label}`" :aria-expanded="open" @click="show(!open)"><i :style="{ background: picked ?? value }" /></button>
      </template>
    </NColorPicker>
    <input class="num" :value="shown" :aria-label="label" :aria-invalid="!!wrong" spellcheck="false" autocomplete="off" title="A name, hex digits, rgb(), hsl()"
      @focus="($event.target as HTMLInputElement).select()" @input="text = ($event.target as HTMLInputElement).value; wrong = ''" @blur="typed" @keydown="key" />
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
.swatch { flex: none; width: 44px; height: 24px; padding: 0; border: 1px solid var(--rule-strong); border-radius: 5px; overflow: hidden; cursor: pointer;
  background: repeating-conic-gradient(#fff 0 25%, #d8d8d4 0 50%) 0 0 / 10px 10px; }
.swatch i { display: block; width: 100%; height: 100%; }
input { flex: 1; min-width: 0; border: 0; background: none; outline: none; color: var(--ink); padding: 0 6px 0 2px; }
.hook { position: absolute; right: 8px; bottom: 0; }
</style>

<style>
/* Colours are typed in the field beside the swatch. */
.n-color-picker-panel .n-color-picker-input { display: none; }
</style>
