<script setup lang="ts">
import { IconChevronLeft, IconChevronRight, IconX } from '@tabler/icons-vue'
import { useElementSize } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, toRef, watch } from 'vue'

import { api, ask, type Past } from '../api/client'
import { useDocument } from '../common/document'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import { useFrames } from '../common/stage/frames'
import { picture } from '../common/stage/picture'
import { useTransport } from '../common/transport'
import { useTool } from './tool'

/** The draft as it stood after one of its steps, beside how it is: it stops, scrubs and plays along, frame for frame. */
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const pockets = usePockets()
const tool = useTool()

const steps = shallowRef<Past[]>([])
watch(
  () => [doc.draft?.id, doc.draft?.revision],
  async () => {
    if (doc.draft) steps.value = await ask(api.GET('/api/drafts/{id}/history', { params: { path: { id: doc.draft.id }, query: { below: 0 } } })).catch(() => [])
  },
  { immediate: true },
)
const older = computed(() => steps.value.find((p) => p.revision < tool.version)?.revision ?? (tool.version > 0 ? 0 : -1))
const newer = computed(() => [...steps.value].reverse().find((p) => p.revision > tool.version && p.revision < doc.draft!.revision)?.revision ?? -1)
const title = computed(() => (tool.version ? `After “${steps.value.find((p) => p.revision === tool.version)?.title ?? 'an earlier step'}”` : 'As it was begun'))

const room = ref<HTMLElement>()
const { width, height } = useElementSize(room)
const canvasOf = computed(() => selection.formatView!)
const k = computed(() => Math.min(1, Math.max(0, width.value - 40) / canvasOf.value.width, Math.max(0, height.value - 24) / canvasOf.value.height))
const box = computed(() => ({ w: Math.round(canvasOf.value.width * k.value), h: Math.round(canvasOf.value.height * k.value) }))
const none = ref('')
const frames = useFrames({ of: toRef(() => doc.face), format: toRef(() => selection.format), box, epoch: toRef(() => pockets.epoch), ground: none, playhead: toRef(() => transport.frame), alone: none, past: toRef(() => tool.version) })
const canvas = ref<HTMLCanvasElement>()
/** The frame that is drawn: while it plays the latest that is at hand. */
const drawn = ref(-1)
function put(b: ImageBitmap, n: number) {
  if (!canvas.value) return
  picture(canvas.value, b)
  drawn.value = n
}
let wish: AbortController | undefined
async function show() {
  const n = Math.min(transport.frame, Math.max(0, frames.count.value - 1))
  const have = frames.atHand(n)
  if (have) put(have, n)
  if (transport.playing) {
    const r = transport.range
    const [lo, hi] = [Math.max(0, r?.from ?? 0), Math.min(frames.count.value, r?.to ?? frames.count.value)]
    return frames.ahead({ from: Math.min(hi - 1, Math.max(lo, n)), step: transport.state.stride * (transport.speed < 0 ? -1 : 1), lo, hi })
  }
  wish?.abort()
  const mine = (wish = new AbortController())
  if (have) return
  const b = await frames.fetchFrame(n, 'jpg', mine.signal).catch(() => null)
  if (b && !mine.signal.aborted) put(b, n)
}
const here = computed(() => (void frames.version.value, frames.address(Math.min(transport.frame, Math.max(0, frames.count.value - 1)))))
watch([() => transport.frame, here, frames.state, canvas], () => void show(), { flush: 'post' })
watch(() => selection.format, () => (drawn.value = -1))
onScopeDispose(() => wish?.abort())
</script>

<template>
  <section class="version" aria-label="Another version" data-test="version">
    <header>
      <button class="step" :disabled="older < 0" aria-label="An earlier step" title="An earlier step" data-test="version-older" @click="tool.version = older"><IconChevronLeft :size="16" /></button>
      <strong :title="title">{{ title }}</strong>
      <button class="step" :disabled="newer < 0" aria-label="A later step" title="A later step" data-test="version-newer" @click="tool.version = newer"><IconChevronRight :size="16" /></button>
      <button class="step" aria-label="Close this version" title="Close it" data-test="version-close" @click="tool.version = -1"><IconX :size="16" /></button>
    </header>
    <div ref="room" class="room"><canvas ref="canvas" width="1" height="1" :style="{ width: `${box.w}px`, height: `${box.h}px` }" data-test="version-picture" :data-frame="drawn" /></div>
    <p class="num" role="status">{{ frames.failure.value ? frames.failure.value : `frame ${drawn < 0 ? '…' : drawn}` }}</p>
  </section>
</template>

<style scoped>
.version { container: version / inline-size; display: grid; grid-template-rows: minmax(44px, auto) minmax(0, 1fr) 28px; min-width: 0; min-height: 0; color: #e9e8e2; border-right: 1px dashed rgba(233, 232, 226, 0.3); }
header { display: flex; align-items: center; gap: 2px; padding: 8px 8px 4px; min-width: 0; }
/* Where the stage beside it has two lines of tools, so that both pictures stand at one height. */
@container version (max-width: 480px) { header { min-height: 61px; align-items: flex-start; } }
strong { flex: 1; line-height: 26px; min-width: 0; font-size: 12px; font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.step { display: grid; place-items: center; width: 26px; height: 26px; flex: none; border: 0; border-radius: 6px; background: none; color: inherit; cursor: pointer; }
.step:hover:not(:disabled) { background: rgba(0, 0, 0, 0.22); }
.step:disabled { opacity: 0.35; cursor: default; }
.step:focus-visible { outline-color: #fff; }
.room { display: grid; place-items: center; min-height: 0; min-width: 0; overflow: hidden; }
canvas { box-shadow: 0 1px 8px rgba(0, 0, 0, 0.25); }
p { margin: 0; padding: 5px 12px; font-size: 12px; }
</style>
