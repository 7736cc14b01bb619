<script setup lang="ts">
import { NButton, NCheckbox, NRadioButton, NRadioGroup, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, Failure } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'
import { timecode } from '../common/format'
import NumberField from '../common/NumberField.vue'
import { useSelection } from '../common/selection'
import { useTransport } from '../common/transport'

const show = defineModel<boolean>('show', { required: true })
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const router = useRouter()

const kind = ref<'mp4' | 'webm' | 'png'>('mp4')
const alpha = ref(true)
const film = computed(() => kind.value !== 'png')
const formats = ref<string[]>([])
const scale = ref(1)
const from = ref(0)
const to = ref(0)
const failure = ref('')
const busy = ref(false)
const piece = computed(() => doc.piece!)

watch(show, (s) => {
  if (!s) return
  formats.value = [selection.format]
  from.value = 0
  to.value = piece.value.frames
  failure.value = ''
  scale.value = 1
  chosen = false
  void look()
})

/** Whether the piece can be seen through: then what keeps that comes first. */
const clear = ref(false)
/** Somebody chose a file already; that stays. */
let chosen = false
async function look() {
  const id = piece.value.id
  const found = await ask(api.GET('/api/pieces/{id}/clear', { params: { path: { id }, query: { format: selection.format } } })).catch(() => null)
  if (!found || !show.value || doc.piece?.id !== id) return // the piece may be gone by then
  if (found.clear !== clear.value && !chosen) kind.value = found.clear ? 'webm' : 'mp4'
  clear.value = found.clear
}
const kinds = computed(() => {
  const all = [
    { value: 'mp4', label: 'Film, MP4' },
    { value: 'webm', label: 'Film, WebM' },
    { value: 'png', label: 'This frame, PNG' },
  ] as const
  return clear.value ? [all[1], all[2], all[0]] : all
})

/** What the designer wants filled before the piece is done. */
const unfilled = computed(() => piece.value.pockets.filter((p) => p.required && p.standIn).map((p) => p.name))

const even = (n: number) => 2 * Math.round(n / 2)
const sizes = [
  { label: 'Full size', value: 1 },
  { label: 'Two thirds', value: 2 / 3 },
  { label: 'Half', value: 0.5 },
  { label: 'A quarter', value: 0.25 },
]
function sizeOf(id: string) {
  const f = piece.value.template.formats.find((x) => x.id === id)!
  return { width: even(f.px[0]! * scale.value), height: even(f.px[1]! * scale.value) }
}
const tc = (n: number) => timecode(n, piece.value.rateN, piece.value.rateD, piece.value.dropFrame)

async function start() {
  busy.value = true
  failure.value = ''
  try {
    for (const format of formats.value) {
      const range = film.value ? { from: from.value, to: to.value } : { from: transport.frame }
      await ask(api.POST('/api/renders', { body: { piece: piece.value.id, format, kind: kind.value, alpha: kind.value === 'webm' && alpha.value, ...range, ...sizeOf(format) } }))
    }
    show.value = false
    await router.push('/renders')
  } catch (e) {
    failure.value = (e as Failure).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <CardDialog v-model:show="show" title="Render" :width="440">
    <div class="form">
      <span class="heading">File</span>
      <NRadioGroup v-model:value="kind" size="small" aria-label="File" @update:value="chosen = true">
        <NRadioButton v-for="k in kinds" :key="k.value" :value="k.value" :data-kind="k.value">{{ k.label }}</NRadioButton>
      </NRadioGroup>
      <template v-if="clear && kind === 'mp4'">
        <span />
        <p class="caution" data-test="no-clear">H.264 keeps nothing clear: what can be seen through here will be black. WebM and PNG keep it.</p>
      </template>
      <template v-if="kind === 'webm'">
        <span />
        <NCheckbox v-model:checked="alpha" data-test="alpha">Keep what is clear, for laying over</NCheckbox>
      </template>
      <span class="heading">Formats</span>
      <div class="formats">
        <NCheckbox v-for="f in piece.template.formats" :key="f.id" :checked="formats.includes(f.id)"
          @update:checked="(on: boolean) => (formats = on ? [...formats, f.id] : formats.filter((x) => x !== f.id))">
          {{ f.name }} <span class="num quiet">{{ sizeOf(f.id).width }} × {{ sizeOf(f.id).height }}</span>
        </NCheckbox>
      </div>
      <span class="heading">Size</span>
      <NSelect v-model:value="scale" size="small" :options="sizes" aria-label="Size" />
      <template v-if="film">
        <span class="heading">Frames</span>
        <div class="range">
          <NumberField label="From" :value="from " :min="0" :max="to - 1" :places="0" @change="from = Math.round($event)" />
          <NumberField label="To" :value="to" :min="from + 1" :max="piece.frames" :places="0" @change="to = Math.round($event)" />
        </div>
        <span />
        <span class="quiet"><span class="num">{{ to - from }}</span> frames, <span class="num">{{ tc(to - from) }}</span> at {{ piece.template.rate }} frames a second. The sound of clips is off; films have none.</span>
      </template>
      <template v-else>
        <span class="heading">Frame</span>
        <span class="num">{{ transport.frame }} at {{ tc(transport.frame) }}</span>
      </template>
    </div>
    <p v-if="unfilled.length" class="caution" data-test="unfilled">{{ unfilled.length === 1 ? `${unfilled[0]} is still to be filled` : `${unfilled.slice(0, -1).join(', ')} and ${unfilled.at(-1)} are still to be filled` }}; what the template holds in {{ unfilled.length === 1 ? 'its' : 'their' }} place will be seen.</p>
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <template #acts>
      <NButton @click="show = false">Not now</NButton>
      <NButton type="primary" :loading="busy" :disabled="!formats.length" data-test="start-render" @click="start">Start render</NButton>
    </template>
  </CardDialog>
</template>

<style scoped>
.form { display: grid; grid-template-columns: 70px minmax(0, 1fr); gap: 12px; align-items: center; }
.formats { display: grid; gap: 6px; }
.range { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }

.caution { color: var(--amber); }
.failure { color: var(--rust); margin-top: 12px; }
@media (max-width: 620px) {
  .form { grid-template-columns: minmax(0, 1fr); gap: 8px; }
  .form > span:empty { display: none; }
}
</style>
