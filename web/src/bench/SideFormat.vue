<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { fetchPicture, windowId, type Format, type Outline } from '../api/client'
import { useDocument } from '../common/document'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import { useAddresses } from '../common/stage/addresses'
import { picture as show } from '../common/stage/picture'
import StageGuides from '../common/stage/StageGuides.vue'
import { subject } from '../common/subjects'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'

/** Another format, looked at beside the one that is worked on: its picture follows, a press goes over to it. */
const props = defineProps<{ format: Format }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const transport = useTransport()
const pockets = usePockets()

const room = ref<HTMLElement>()
const { width, height } = useElementSize(room)
const k = computed(() => Math.min(1, width.value / props.format.width, height.value / props.format.height))
const shown = computed(() => ({ w: Math.round(props.format.width * k.value), h: Math.round(props.format.height * k.value) }))
const wanted = computed(() => {
  const f = doc.face
  return f && shown.value.w >= 16 ? { kind: f.kind, id: f.id, revision: f.revision, frames: f.frames, format: props.format.id, ...shown.value, epoch: pockets.epoch, alone: selection.alone.join(',') } : null
})
const addresses = useAddresses(wanted)
const frame = computed(() => Math.min(transport.frame, Math.max(0, addresses.count.value - 1)))
watch(wanted, (now, old) => JSON.stringify(now) !== JSON.stringify(old) && addresses.renew(frame.value), { immediate: true })
const here = computed(() => (void addresses.version.value, addresses.address(frame.value)))

const canvas = ref<HTMLCanvasElement>()
const facts = shallowRef<Outline[] | null>(null)
const outlines = computed(() => facts.value ?? (void addresses.version.value, addresses.outlines(frame.value)) ?? [])
/** Where the selected layers stand here. */
const marks = computed(() =>
  outlines.value
    .filter((o) => selection.layers.includes(o.layer))
    .map((o) => (o.quad ?? [{ x: o.box.x, y: o.box.y }, { x: o.box.x + o.box.w, y: o.box.y }, { x: o.box.x + o.box.w, y: o.box.y + o.box.h }, { x: o.box.x, y: o.box.y + o.box.h }]).map((p) => `${p.x},${p.y}`).join(' ')),
)
async function put(picture: Blob) {
  const b = await createImageBitmap(picture)
  if (canvas.value) show(canvas.value, b)
  b.close()
}
/** It asks as a window of its own, so that it is never in the stage's way; one picture is under way at a time. */
const headers = { 'Ivy-Window': `${windowId} ${props.format.id}`.slice(0, 64) }
let busy = false
let again = false
let gone = false
async function draw() {
  if (busy) return void (again = true)
  busy = true
  do {
    again = false
    try {
      if (transient.op) await preview()
      else if (here.value) {
        const r = await fetchPicture(`/frames/${here.value}.jpg`, { headers })
        if (r.status === 410) addresses.again(frame.value)
        if (r.ok) await put(await r.blob())
        if (!addresses.stale.value) facts.value = null
      }
    } catch {
      // The stage tells what can't be drawn; here it stays as it was.
    }
  } while (again && !gone)
  busy = false
}
async function preview() {
  const f = doc.face!
  const r = await fetchPicture(`${subject(f.kind).base(f.id)}/preview`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...headers },
    body: JSON.stringify({ op: subject(f.kind).wire(transient.op!), look: null, ground: '', alone: selection.alone.join(','), format: props.format.id, frame: frame.value, width: shown.value.w, height: shown.value.h }),
  })
  if (!r.ok) return
  const parts = await r.formData()
  facts.value = JSON.parse(await (parts.get('facts') as File).text()).outlines
  await put(parts.get('picture') as File)
}
let rest: ReturnType<typeof setTimeout> | undefined
watch([here, canvas, addresses.state], () => !transient.op && void draw(), { flush: 'post' })
// What is dragged is shown here when the hand rests.
watch(
  () => transient.op,
  () => {
    clearTimeout(rest)
    rest = setTimeout(() => void draw(), 90)
  },
)
onScopeDispose(() => {
  gone = true
  clearTimeout(rest)
})
</script>

<template>
  <button class="side" :data-side-format="format.id" :title="`Work on ${format.name}`" :aria-label="`${format.name} ${format.width} × ${format.height}: work on it`" @click="selection.format = format.id">
    <span class="name">{{ format.name }} <span class="num">{{ format.width }} × {{ format.height }}</span></span>
    <span ref="room" class="room">
      <span class="picture" :style="{ width: `${shown.w}px`, height: `${shown.h}px` }">
        <canvas ref="canvas" width="1" height="1" />
        <svg :viewBox="`0 0 ${format.width} ${format.height}`" aria-hidden="true"><polygon v-for="(m, i) in marks" :key="i" :points="m" /></svg>
        <StageGuides v-if="shown.w" :canvas="format" :k="k" fixed />
      </span>
    </span>
  </button>
</template>

<style scoped>
.side { display: grid; grid-template-rows: auto minmax(0, 1fr); gap: 5px; border: 0; background: none; color: #e9e8e2; cursor: pointer; padding: 8px; border-radius: 10px; min-height: 0; min-width: 0; text-align: left; }
.side:hover { background: rgba(0, 0, 0, 0.16); }
.side:focus-visible { outline-color: #fff; outline-offset: -2px; }
.name { font-size: 12px; font-weight: 500; }
.name .num { opacity: 0.75; font-size: 11px; }
.room { display: grid; place-items: center; min-height: 0; min-width: 0; overflow: hidden; }
.picture { position: relative; display: block; box-shadow: 0 1px 8px rgba(0, 0, 0, 0.25); }
canvas, .picture > svg { position: absolute; inset: 0; width: 100%; height: 100%; }
.picture > svg > polygon { fill: none; stroke: #e7a13a; stroke-width: 1.6px; stroke-dasharray: 4 4; vector-effect: non-scaling-stroke; }
</style>
