<script setup lang="ts">
import { IconCheck, IconFileTypography } from '@tabler/icons-vue'
import { NButton, NInput, NPopover } from 'naive-ui'
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import type { Failure } from '../api/client'
import { chooseFiles } from '../media/choose'
import { useUploads } from '../media/uploads'
import { useFaces } from './faces'
import { useNotices } from './notices'

/** Chooses a face from a list that shows each in itself, with the words it is for; those chosen last come first. */
const props = defineProps<{ value: string; label: string; sample: string; disabled?: boolean; /** The faces there are to choose from; all, where none are named. */ among?: { id: string; name: string }[]; /** Font files may be brought in here. */ brings?: boolean }>()
const emit = defineEmits<{ change: [string] }>()
const faces = useFaces()
onMounted(async () => {
  await faces.load()
  faces.show(props.value)
})
watch(() => props.value, (id) => faces.show(id))

const open = ref(false)
const text = ref('')
const at = ref(0)
const rows = computed(() => {
  const of = (id: string) => faces.list.find((f) => f.id === id)
  const all = (props.among ?? faces.list).map((f) => ({ id: f.id, name: f.name, sort: of(f.id)?.sort ?? '' }))
  const like = text.value.trim().toLowerCase()
  const found = all.filter((f) => `${f.name} ${f.sort}`.toLowerCase().includes(like))
  const last = faces.recent.flatMap((id) => found.filter((f) => f.id === id))
  return [...last.map((f) => ({ ...f, last: true })), ...found.filter((f) => !last.includes(f)).map((f) => ({ ...f, last: false }))]
})
/** A few of the words: what a row has room for. */
const sample = computed(() => props.sample.replace(/\s+/g, ' ').trim().slice(0, 40))
const trigger = ref<HTMLElement>()
/** To which side there is more room, and how much the list has of it: what stands around it takes some. */
const room = ref({ above: false, left: false, list: 380 })
const AROUND = 124
const WIDTH = 318
watch(open, (on) => {
  if (!on) return
  const r = trigger.value?.getBoundingClientRect()
  if (r) {
    const above = r.top > innerHeight - r.bottom
    room.value = { above, left: r.left + WIDTH > innerWidth, list: Math.max(120, Math.min(380, (above ? r.top : innerHeight - r.bottom) - AROUND)) }
  }
  text.value = ''
  void faces.load().then(() => {
    for (const r of rows.value) faces.show(r.id)
    at.value = Math.max(0, rows.value.findIndex((r) => r.id === props.value))
    void nextTick(seen)
  })
})
watch(text, () => (at.value = 0))
const list = ref<HTMLElement>()
const seen = () => list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
function key(e: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (by) {
    e.preventDefault()
    at.value = Math.min(rows.value.length - 1, Math.max(0, at.value + by))
    void nextTick(seen)
  } else if (e.key === 'Enter' && rows.value[at.value]) {
    e.preventDefault()
    take(rows.value[at.value]!.id)
  } else if (e.key === 'Escape') {
    e.stopPropagation()
    open.value = false
  }
}
const coming = ref(false)
/** Brings a font file in and sets the words in it. */
async function bring() {
  const files = await chooseFiles(false, 'fonts')
  if (!files.length) return
  coming.value = true
  try {
    const uploads = useUploads()
    const all = await Promise.all(files.map((file) => uploads.add({ files: [file] }).medium))
    const font = all.find((m) => m.kind === 'font')
    if (!font) return useNotices().say('error', `${all[0]!.name} is no font; it is under Media now.`)
    await faces.again()
    take(font.hash)
  } catch (e) {
    useNotices().say('error', (e as Failure).message)
  } finally {
    coming.value = false
  }
}
function take(id: string) {
  open.value = false
  faces.use(id)
  if (id !== props.value) emit('change', id)
}
</script>

<template>
  <NPopover v-model:show="open" trigger="click" :placement="`${room.above ? 'top' : 'bottom'}-${room.left ? 'end' : 'start'}`" :flip="false" :show-arrow="false" :disabled="disabled" raw>
    <template #trigger>
      <button ref="trigger" class="face" :disabled="disabled" :aria-label="`${label}: ${faces.name(value)}`" aria-haspopup="listbox" :aria-expanded="open" data-test="face" :style="{ fontFamily: faces.css(value) }"><span>{{ faces.name(value) }}</span></button>
    </template>
    <div class="drawer" :style="{ width: `${WIDTH}px` }" role="dialog" :aria-label="`${label}: all faces`" @keydown="key">
      <NInput v-if="rows.length > 8 || text" v-model:value="text" size="small" placeholder="Find a face" autofocus :input-props="{ 'aria-label': 'Find a face' }" />
      <div ref="list" class="list" :style="{ maxHeight: `${room.list}px` }" role="listbox" :aria-label="label" tabindex="0">
        <button v-for="(r, i) in rows" :key="r.id" role="option" :aria-selected="r.id === value" :class="{ at: i === at, on: r.id === value }" :data-face="r.id" @click="take(r.id)" @pointermove="at = i">
          <span class="name"><b>{{ r.name }}</b><small class="quiet">{{ r.last ? 'used last' : r.sort }}</small><IconCheck v-if="r.id === value" :size="14" /></span>
          <span class="sample" dir="auto" :style="{ fontFamily: faces.css(r.id) }">{{ sample || r.name }}</span>
        </button>
        <p v-if="!rows.length" class="quiet">No face is called that.</p>
      </div>
      <NButton v-if="brings" size="small" :loading="coming" data-test="bring-font" title="A TTF, OTF, WOFF or WOFF2 file; it goes into the store, for all templates" @click="bring"><template #icon><IconFileTypography :size="15" /></template>Bring in a font file</NButton>
    </div>
  </NPopover>
</template>

<style scoped>
.face { width: 100%; min-height: 30px; border: 1px solid var(--rule-strong); border-radius: 7px; background: var(--linen-raised); color: var(--ink); text-align: left; padding: 2px 9px; cursor: pointer; font-size: 15px; line-height: 1.2; overflow: hidden; }
.face span { display: block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.face:hover:not(:disabled) { border-color: var(--words); }
.face:disabled { opacity: 0.6; cursor: default; }
.drawer { background: var(--linen-raised); border: 1px solid var(--rule-strong); border-radius: 10px; padding: 8px; display: grid; gap: 8px; box-shadow: 0 8px 26px rgba(34, 48, 42, 0.22); color: var(--ink); }
.list { overflow: auto; display: grid; gap: 2px; }
.list button { border: 0; background: none; border-radius: 7px; padding: 5px 8px 6px; text-align: left; cursor: pointer; display: grid; gap: 1px; color: inherit; min-width: 0; border-left: 3px solid transparent; }
.list button.at { background: var(--linen-deep); }
.list button.on { border-left-color: var(--words); }
.name { display: flex; align-items: baseline; gap: 7px; font-size: 11.5px; }
.name b { font-weight: 600; }
.name svg { margin-left: auto; color: var(--words); align-self: center; }
.sample { font-size: 22px; line-height: 1.25; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
</style>
