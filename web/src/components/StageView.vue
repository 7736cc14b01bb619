<script setup lang="ts">
import { IconFlipHorizontal, IconFlipVertical, IconFocusCentered, IconRefresh } from '@tabler/icons-vue'
import { useElementSize } from '@vueuse/core'
import { NButton } from 'naive-ui'
import { computed, onMounted, onScopeDispose, ref, shallowRef, toRef, watch } from 'vue'

import { author, detail, type Framing, type Op, type Outline, type Stand } from '../api/client'
import { chooseMedia } from '../lib/choose'
import { useFrames } from '../lib/frames'
import { plain } from '../lib/format'
import { usePiece } from '../stores/piece'
import { useTransport } from '../stores/transport'

defineEmits<{ format: [string] }>()
const store = usePiece()
const transport = useTransport()
const surround = ref<HTMLElement>()
const { width, height } = useElementSize(surround)
const box = computed(() => ({ w: Math.max(0, width.value - 48), h: Math.max(0, height.value - 84) }))
const frames = useFrames(toRef(store, 'piece'), toRef(store, 'format'), box)
const { size, outlines, addresses, failure, loading } = frames

const canvas = ref<HTMLCanvasElement>()
/** What the picture on the canvas is: quick (JPEG) or without loss. */
const quality = ref<'' | 'quick' | 'exact'>('')
const drawFailure = ref('')
const formatView = computed(() => store.formatView!)
const k = computed(() => (size.value.w ? size.value.w / formatView.value.width : 1))

function put(b: ImageBitmap, what: 'quick' | 'exact') {
  const c = canvas.value
  if (!c) return
  if (c.width !== b.width || c.height !== b.height) {
    c.width = b.width
    c.height = b.height
  }
  const ctx = c.getContext('2d')!
  ctx.clearRect(0, 0, c.width, c.height)
  ctx.drawImage(b, 0, 0)
  quality.value = what
}

// A stopped frame: a quick picture at once, then the one without loss, from
// the originals. A newer wish ends an older one.
let wish: AbortController | undefined
let settle: ReturnType<typeof setTimeout> | undefined
async function show() {
  wish?.abort()
  clearTimeout(settle)
  if (transport.playing || store.draft || !addresses.value.length) return
  const mine = (wish = new AbortController())
  const n = Math.min(transport.frame, addresses.value.length - 1)
  const current = () => wish === mine && !mine.signal.aborted
  try {
    const have = frames.atHand(n)
    if (have) put(have, 'quick')
    else {
      const b = await frames.fetchFrame(n, 'jpg', mine.signal)
      if (b && current()) put(b, 'quick')
    }
    if (transport.scrubbing || !current()) return
    settle = setTimeout(async () => {
      try {
        const b = await frames.fetchFrame(n, 'png', mine.signal)
        if (b && current() && !store.draft) put(b, 'exact')
        drawFailure.value = ''
      } catch (e) {
        if (current()) drawFailure.value = (e as Error).message
      }
    }, 60)
    drawFailure.value = ''
  } catch (e) {
    if (current()) drawFailure.value = (e as Error).message
  }
}
watch([() => transport.frame, addresses, () => transport.scrubbing, canvas], () => void show(), { flush: 'post' })

// Playing: the frame that the clock asks for, when it is at hand.
let raf = 0
function play() {
  const p = store.piece!
  const rate = p.rateN / p.rateD
  let start = performance.now()
  let from = transport.frame >= p.frames - 1 ? 0 : transport.frame
  let drawn = -1
  const tick = (now: number) => {
    if (!transport.playing) return
    let n = from + Math.floor(((now - start) * rate) / 1000)
    if (n >= p.frames) {
      start = now
      from = 0
      n = 0
    }
    if (n !== drawn) {
      const b = frames.atHand(n)
      if (b) {
        put(b, 'quick')
        drawn = n
      }
      transport.frame = n
    }
    frames.ahead(n + 1, p.frames, 0)
    raf = requestAnimationFrame(tick)
  }
  raf = requestAnimationFrame(tick)
}
watch(
  () => transport.playing,
  (on) => {
    cancelAnimationFrame(raf)
    if (on) {
      wish?.abort()
      store.framing = false
      play()
    } else void show()
  },
)
onScopeDispose(() => {
  cancelAnimationFrame(raf)
  wish?.abort()
  clearTimeout(settle)
})

// A draft: how it would look. The latest wins; one request is out at a time.
const facts = shallowRef<{ stands: Stand[]; outlines: Outline[] } | null>(null)
let asking = false
let waiting: Op | null = null
async function preview(op: Op) {
  waiting = op
  if (asking) return
  asking = true
  while (waiting) {
    const next: Op = waiting
    waiting = null
    try {
      const r = await fetch(`/api/pieces/${store.piece!.id}/preview`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'Ivy-Author': author },
        body: JSON.stringify({ op: next, format: store.format, frame: transport.frame, width: Math.floor(box.value.w), height: Math.floor(box.value.h) }),
      })
      if (!r.ok) {
        drawFailure.value = detail(await r.json().catch(() => undefined), r.status)
        continue
      }
      const f = JSON.parse(r.headers.get('Ivy-Facts') ?? 'null')
      const b = await createImageBitmap(await r.blob())
      if (store.draft) {
        facts.value = f
        put(b, 'quick')
      }
      b.close()
    } catch {
      drawFailure.value = 'The server does not answer; what you did before is safe.'
    }
  }
  asking = false
}
watch(
  () => store.draft,
  (op) => {
    if (op) void preview(op)
    else waiting = null
  },
)
// The picture of a draft stays until the piece that came of it is there.
watch(addresses, () => {
  facts.value = null
})

const shownOutlines = computed<Outline[]>(() => facts.value?.outlines ?? outlines.value[Math.min(transport.frame, outlines.value.length - 1)] ?? [])
const shownStand = computed<Stand | undefined>(() => (facts.value?.stands ?? store.stands).find((s) => s.pocket === store.selected))
/** Pockets alone; shapes only hide what lies below them. */
const pockets = computed(() => shownOutlines.value.map((o, i) => ({ o, i })).filter(({ o }) => o.pocket))
const hiders = (i: number) => {
  const o = shownOutlines.value[i]!.box
  return shownOutlines.value.slice(i + 1).filter((u) => u.opacity > 0.5 && u.box.x < o.x + o.w && u.box.x + u.box.w > o.x && u.box.y < o.y + o.h && u.box.y + u.box.h > o.y)
}
const outlineOf = (pocket: string) => shownOutlines.value.find((o) => o.pocket === pocket)
const pocketName = (id: string) => store.piece!.pockets.find((p) => p.id === id)?.name ?? id

/** The size of a sewn label, nearly. */
const TAG = { w: 96, h: 20 }
/** Where a pocket's label goes: the first corner that no pocket above covers; small pockets wear it outside. */
function label(o: Outline, i: number) {
  const z = k.value
  const b = { x: o.box.x * z, y: o.box.y * z, w: o.box.w * z, h: o.box.h * z }
  if (b.h < 120 || b.w < TAG.w + 20) return { left: `${b.x + b.w / 2}px`, top: `${b.y + b.h + 4}px`, transform: 'translateX(-50%)' }
  const x0 = Math.max(0, b.x) + 12
  const y0 = Math.max(0, b.y) + 12
  const x1 = Math.min(size.value.w, b.x + b.w) - 12 - TAG.w
  const y1 = Math.min(size.value.h, b.y + b.h) - 12 - TAG.h
  const above = shownOutlines.value.slice(i + 1)
  const free = ([x, y]: [number, number]) =>
    above.every((u) => u.box.x * z - 24 > x + TAG.w || (u.box.x + u.box.w) * z + 24 < x || u.box.y * z - 24 > y + TAG.h || (u.box.y + u.box.h) * z + 24 < y)
  const corners: [number, number][] = [[x0, y0], [x1, y0], [x0, y1], [x1, y1]]
  const [x, y] = corners.find(free) ?? corners[0]!
  return x === x1 ? { right: `${size.value.w - x1 - TAG.w}px`, top: `${y}px` } : { left: `${x}px`, top: `${y}px` }
}
/** The seam runs a little inside the pocket's edge. */
function seam(o: Outline) {
  const d = Math.min(5 / k.value, o.box.w / 4, o.box.h / 4)
  return { x: o.box.x + d, y: o.box.y + d, width: o.box.w - 2 * d, height: o.box.h - 2 * d, rx: Math.max(2 / k.value, o.radius - d) }
}

// Dropping media.
const over = ref('')
function drop(e: DragEvent, pocket: string) {
  over.value = ''
  const files = [...(e.dataTransfer?.files ?? [])]
  if (files.length) void store.fill(pocket, files)
}

// Framing: how media lies in its pocket, apart from the pocket's own place.
const frameHere = ref(false)
/** Whether dragging sets the focus rather than pans. */
const pinning = ref(false)
const current = computed<Framing | undefined>(() => shownStand.value && { ...shownStand.value.framing, pan: shownStand.value.pan, zoom: shownStand.value.zoom })
watch(
  () => [store.selected, store.format],
  () => (frameHere.value = !!store.pocket?.framed.includes(store.format)),
)
watch(
  () => store.selected,
  () => (store.framing = false),
)
function draftFrame(f: Framing) {
  store.draft = { kind: 'frame', pocket: store.selected, framing: f, format: frameHere.value ? store.format : undefined }
}
async function keepFrame(f: Framing) {
  await store.frame(store.selected, f, frameHere.value)
  store.draft = null
}
/** Waits for the preview of the last draft, whose numbers stop at the edges. */
async function release(f: Framing) {
  while (asking) await new Promise((r) => setTimeout(r, 8))
  const seen = facts.value?.stands.find((s) => s.pocket === store.selected)
  await keepFrame(seen ? { ...f, pan: seen.pan, zoom: seen.zoom } : f)
}

function dragging(e: PointerEvent, make: (dx: number, dy: number, at: { x: number; y: number }) => Framing) {
  if (e.button !== 0) return
  e.preventDefault()
  e.stopPropagation()
  const el = e.currentTarget as HTMLElement
  const rect = canvas.value!.getBoundingClientRect()
  const x0 = e.clientX
  const y0 = e.clientY
  let last: Framing | null = null
  el.setPointerCapture(e.pointerId)
  const move = (m: PointerEvent) => {
    let dx = (m.clientX - x0) / k.value
    let dy = (m.clientY - y0) / k.value
    if (m.shiftKey) Math.abs(dx) > Math.abs(dy) ? (dy = 0) : (dx = 0)
    last = make(dx, dy, { x: (m.clientX - rect.left) / k.value, y: (m.clientY - rect.top) / k.value })
    draftFrame(last)
  }
  const up = () => {
    el.removeEventListener('pointermove', move)
    el.removeEventListener('pointerup', up)
    el.removeEventListener('pointercancel', up)
    if (last) void release(last)
  }
  el.addEventListener('pointermove', move)
  el.addEventListener('pointerup', up)
  el.addEventListener('pointercancel', up)
}
const bound = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v))
function slide(e: PointerEvent) {
  const f = current.value
  const s = shownStand.value
  if (!f || !s) return
  dragging(e, (dx, dy) => ({ ...f, pan: [bound(f.pan![0]! + dx / s.size.w, -4, 4), bound(f.pan![1]! + dy / s.size.h, -4, 4)] }))
}
function turn(e: PointerEvent) {
  const f = current.value
  const o = outlineOf(store.selected)
  if (!f || !o) return
  const c = { x: o.box.x + o.box.w / 2, y: o.box.y + o.box.h / 2 }
  dragging(e, (_dx, _dy, at) => {
    const a = (Math.atan2(at.x - c.x, c.y - at.y) * 180) / Math.PI
    return { ...f, turn: Math.round(a * 2) / 2 }
  })
}
function focusAt(e: PointerEvent) {
  const f = current.value
  const s = shownStand.value
  const o = outlineOf(store.selected)
  if (!f || !s || !o) return
  const m = s.map
  const det = m.a * m.d - m.b * m.c
  dragging(e, (_dx, _dy, at) => {
    const x = at.x - o.box.x - m.e
    const y = at.y - o.box.y - m.f
    const u = (m.d * x - m.c * y) / det / s.media.w
    const v = (-m.b * x + m.a * y) / det / s.media.h
    return { ...f, pan: [0, 0], focus: [Number(bound(u, 0, 1).toFixed(3)), Number(bound(v, 0, 1).toFixed(3))] }
  })
}
watch(
  () => store.framing,
  () => (pinning.value = false),
)
const focusPin = computed(() => {
  const s = shownStand.value
  const o = outlineOf(store.selected)
  if (!s || !o || !s.media.w) return null
  const x = s.framing.focus![0]! * s.media.w
  const y = s.framing.focus![1]! * s.media.h
  return { left: `${(o.box.x + s.map.a * x + s.map.c * y + s.map.e) * k.value}px`, top: `${(o.box.y + s.map.b * x + s.map.d * y + s.map.f) * k.value}px` }
})
const ghost = computed(() => {
  const s = shownStand.value
  const o = outlineOf(store.selected)
  if (!s || !o || !s.media.w) return null
  const m = s.map
  const z = k.value
  return {
    width: `${s.media.w}px`,
    height: `${s.media.h}px`,
    transform: `translate(${o.box.x * z}px, ${o.box.y * z}px) scale(${z}) matrix(${m.a}, ${m.b}, ${m.c}, ${m.d}, ${m.e}, ${m.f})`,
  }
})
const frameBox = computed(() => {
  const o = outlineOf(store.selected)
  return o && { left: `${o.box.x * k.value}px`, top: `${o.box.y * k.value}px`, width: `${o.box.w * k.value}px`, height: `${o.box.h * k.value}px`, borderRadius: `${o.radius * k.value}px` }
})

let wheeled: ReturnType<typeof setTimeout> | undefined
let wheelFrom: Framing | null = null
function wheel(e: WheelEvent) {
  if (!store.framing || !current.value) return
  e.preventDefault()
  wheelFrom = { ...(wheelFrom ?? current.value), zoom: bound((wheelFrom ?? current.value).zoom * Math.exp(-e.deltaY * 0.0015), 0.05, 20) }
  if (wheelFrom.fit === 'cover') wheelFrom.zoom = Math.max(1, wheelFrom.zoom)
  wheelFrom.zoom = Number(wheelFrom.zoom.toFixed(4))
  draftFrame(wheelFrom)
  clearTimeout(wheeled)
  wheeled = setTimeout(() => {
    const f = wheelFrom!
    wheelFrom = null
    void release(f)
  }, 300)
}
function set(part: Partial<Framing>) {
  if (current.value) void keepFrame({ ...current.value, ...part })
}
function reset() {
  void store.frame(store.selected, undefined, frameHere.value)
}
function enter(pocket: string) {
  store.selected = pocket
  transport.playing = false
  if (store.pocket?.media) setTimeout(() => (store.framing = true))
}

function key(e: KeyboardEvent) {
  const t = e.target as HTMLElement
  if (e.ctrlKey || e.metaKey || t.closest('input, textarea, [role=spinbutton], [role=slider], .n-modal')) return
  if (e.key === 'Escape') {
    if (store.framing) store.framing = false
    else store.selected = ''
    return
  }
  if (!store.selected) return
  if (e.key === 'o') {
    void chooseMedia().then((f) => void (f.length && store.fill(store.selected, f)))
    return
  }
  if (!store.framing) {
    if (e.key === 'Enter' && !t.closest('button, a')) enter(store.selected)
    return
  }
  const f = current.value
  const s = shownStand.value
  if (!f || !s) return
  const by = e.shiftKey ? 20 : 2
  const p = f.pan!
  switch (e.key) {
    case 'ArrowLeft': set({ pan: [p[0]! - by / s.size.w, p[1]!] }); break
    case 'ArrowRight': set({ pan: [p[0]! + by / s.size.w, p[1]!] }); break
    case 'ArrowUp': set({ pan: [p[0]!, p[1]! - by / s.size.h] }); break
    case 'ArrowDown': set({ pan: [p[0]!, p[1]! + by / s.size.h] }); break
    case '+': case '=': set({ zoom: bound(f.zoom * 1.05, 0.05, 20) }); break
    case '-': set({ zoom: bound(f.zoom / 1.05, f.fit === 'cover' ? 1 : 0.05, 20) }); break
    case '[': case '{': set({ turn: f.turn - (e.shiftKey ? 15 : 1) }); break
    case ']': case '}': set({ turn: f.turn + (e.shiftKey ? 15 : 1) }); break
    case 'x': set({ flipX: !f.flipX }); break
    case 'y': set({ flipY: !f.flipY }); break
    case 'f': pinning.value = !pinning.value; break
    case '0': reset(); break
    case 'Enter': store.framing = false; break
    default: return
  }
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', key))
onScopeDispose(() => window.removeEventListener('keydown', key))

const faults = computed(() => [...(store.piece?.faults ?? []), failure.value, drawFailure.value].filter(Boolean))
</script>

<template>
  <section ref="surround" class="surround" aria-label="Stage" @wheel="wheel" @pointerdown.self="store.selected = ''">
    <div class="above">
      <div class="formats" role="radiogroup" aria-label="Format">
        <button v-for="f in store.piece!.template.formats" :key="f.id" role="radio" :aria-checked="store.format === f.id" :class="{ on: store.format === f.id }" :data-format="f.id" @click="$emit('format', f.id)">
          <span class="shape" :style="{ aspectRatio: `${f.width} / ${f.height}` }" />{{ f.name }}
        </button>
      </div>
      <div v-if="store.framing && current" class="framing" role="toolbar" aria-label="Framing">
        <strong>Framing {{ pocketName(store.selected) }}</strong>
        <span class="tip">{{ pinning ? 'put the pin on what matters' : 'drag to pan, wheel to zoom' }}</span>
        <button class="icon-button" :class="{ on: current.flipX }" title="Flip left to right (X)" aria-label="Flip left to right" @click="set({ flipX: !current.flipX })"><IconFlipHorizontal :size="17" /></button>
        <button class="icon-button" :class="{ on: current.flipY }" title="Flip top to bottom (Y)" aria-label="Flip top to bottom" @click="set({ flipY: !current.flipY })"><IconFlipVertical :size="17" /></button>
        <button class="icon-button" :class="{ on: pinning }" :aria-pressed="pinning" title="Set the focus, the point that is kept in view (F)" aria-label="Set the focus" data-test="focus" @click="pinning = !pinning"><IconFocusCentered :size="17" /></button>
        <button class="icon-button" title="Reset framing (0)" aria-label="Reset framing" @click="reset"><IconRefresh :size="17" /></button>
        <NButton size="tiny" type="primary" data-test="framing-done" @click="store.framing = false">Done</NButton>
      </div>
    </div>
    <div class="picture" :style="{ width: `${size.w}px`, height: `${size.h}px` }" :data-quality="quality">
      <canvas ref="canvas" :width="size.w || 1" :height="size.h || 1" :aria-label="`Frame ${transport.frame}`" role="img" />
      <template v-if="!transport.playing && size.w">
        <div v-if="store.framing && ghost" class="ghosts"><img class="ghost" :src="`/api/media/${store.pocket?.media}/thumb?side=1200`" :style="ghost" alt="" draggable="false" /></div>
        <svg class="outlines" :viewBox="`0 0 ${formatView.width} ${formatView.height}`" :class="{ quietly: store.framing }">
          <g v-for="{ o, i } in pockets" :key="o.layer">
            <mask v-if="hiders(i).length" :id="`hidden-${i}`" maskUnits="userSpaceOnUse" x="-10%" y="-10%" width="120%" height="120%">
              <rect x="-10%" y="-10%" width="120%" height="120%" fill="#fff" />
              <rect v-for="u in hiders(i)" :key="u.layer" :x="u.box.x" :y="u.box.y" :width="u.box.w" :height="u.box.h" :rx="u.radius" fill="#000" />
            </mask>
            <rect v-if="o.box.w > 2 && o.box.h > 2" class="hit" :x="o.box.x" :y="o.box.y" :width="o.box.w" :height="o.box.h" :rx="o.radius" :data-pocket="o.pocket"
              role="button" tabindex="0" :aria-label="`Pocket ${pocketName(o.pocket)}`" :aria-pressed="store.selected === o.pocket"
              @pointerdown="store.selected = o.pocket" @focus="store.selected = o.pocket" @dblclick="enter(o.pocket)" @keydown.enter.stop.prevent="store.framing ? (store.framing = false) : enter(o.pocket)"
              @dragenter.prevent="over = o.pocket" @dragover.prevent.stop="over = o.pocket" @dragleave="over = ''" @drop.prevent.stop="drop($event, o.pocket)" />
            <rect class="under" v-bind="seam(o)" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined" :class="{ on: store.selected === o.pocket }" />
            <rect class="sewn" v-bind="seam(o)" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined" :class="{ on: store.selected === o.pocket, over: over === o.pocket }" />
            <g v-if="store.selected === o.pocket" class="tacks" :mask="hiders(i).length ? `url(#hidden-${i})` : undefined">
              <path v-for="(c, i) in [[0, 0], [1, 0], [1, 1], [0, 1]]" :key="i" :transform="`translate(${o.box.x + c[0]! * o.box.w} ${o.box.y + c[1]! * o.box.h}) scale(${1 / k})`" d="M-5-5 5 5M5-5-5 5" />
            </g>
          </g>
        </svg>
        <template v-if="!store.framing">
          <span v-for="{ o, i } in pockets" v-show="o.box.x < formatView.width - 40 && o.box.y < formatView.height - 30 && o.box.x + o.box.w > 60 && o.box.y + o.box.h > 40 && o.opacity > 0.1"
            :key="o.layer" class="tag" :class="{ on: store.selected === o.pocket }" :style="label(o, i)">{{ pocketName(o.pocket) }}</span>
        </template>
        <template v-else-if="frameBox">
          <div class="grab" :style="frameBox" data-test="grab" @pointerdown="pinning ? focusAt($event) : slide($event)" />
          <div class="turner" :style="{ left: `calc(${frameBox.left} + ${frameBox.width} / 2)`, top: frameBox.top }" title="Turn" @pointerdown="turn"><IconRefresh :size="13" /></div>
          <div v-if="focusPin && pinning" class="focus" data-test="pin" :style="focusPin" title="Focus: the point that is kept in view" @pointerdown="focusAt" />
        </template>
      </template>
      <div v-if="loading && !faults.length" class="skeleton" />
    </div>
    <div v-if="faults.length" class="faults" role="alert">
      <strong>The stage can't be drawn as it is.</strong>
      <p v-for="f in faults" :key="f">{{ f }}</p>
      <p>What you made is safe.</p>
      <NButton size="small" @click="((drawFailure = ''), frames.reload())">Try again</NButton>
    </div>
    <footer class="below num">
      <span>{{ formatView.width }} × {{ formatView.height }}</span>
      <span>{{ plain(k * 100, 1) }} %</span>
      <span v-if="!transport.playing" class="how">{{ quality === 'exact' ? 'as rendered, without loss' : quality ? 'quick view' : '' }}</span>
    </footer>
  </section>
</template>

<style scoped>
.surround { position: relative; background: var(--surround); display: grid; grid-template-rows: 44px minmax(0, 1fr) 28px; justify-items: center; align-items: center; overflow: hidden; min-width: 0; color: #e9e8e2; }
.above { width: 100%; display: flex; align-items: center; justify-content: space-between; padding: 0 12px; gap: 12px; min-width: 0; }
.formats { display: flex; gap: 2px; background: rgba(0, 0, 0, 0.2); border-radius: 9px; padding: 3px; }
.formats button { display: flex; align-items: center; gap: 7px; border: 0; background: none; color: #dcdbd3; padding: 4px 11px; border-radius: 7px; cursor: pointer; font-weight: 500; }
.formats button.on { background: var(--linen); color: var(--ink); }
.formats button:focus-visible { outline-color: #fff; }
.shape { height: 12px; border: 1.5px solid currentColor; border-radius: 2px; }
.framing { display: flex; align-items: center; gap: 4px; background: var(--linen); color: var(--ink); border-radius: 9px; padding: 2px 6px 2px 11px; white-space: nowrap; }
.framing .tip { color: var(--ink-quiet); margin: 0 6px; }
.picture { position: relative; box-shadow: 0 1px 10px rgba(0, 0, 0, 0.22); }
canvas { display: block; width: 100%; height: 100%; }
.outlines { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
.hit { fill: transparent; cursor: pointer; outline: none; }
.under, .sewn { fill: none; vector-effect: non-scaling-stroke; pointer-events: none; stroke-linecap: round; }
.under { stroke: rgba(28, 34, 31, 0.4); stroke-width: 3.2; stroke-dasharray: 6 7; }
.sewn { stroke: #fbfaf5; stroke-width: 1.8; stroke-dasharray: 6 7; }
.sewn.on { stroke: #7cc79c; stroke-width: 2.4; }
.under.on { stroke: #173d2b; stroke-width: 4.4; }
.hit:focus-visible ~ .sewn { stroke: #fff; stroke-width: 3; }
.sewn.over { stroke: #ffe9b8; stroke-width: 3; animation: run 0.6s linear infinite; }
@keyframes run { to { stroke-dashoffset: -26; } }
.tacks path { stroke: #7cc79c; stroke-width: 2.4; stroke-linecap: round; fill: none; paint-order: stroke; }
.quietly .sewn:not(.on), .quietly .under:not(.on) { opacity: 0.25; }
.tag { position: absolute; background: var(--linen-raised); color: var(--ink); font-size: 11.5px; font-weight: 600; padding: 1px 8px; border-radius: 3px; pointer-events: none; white-space: nowrap;
  background-image: repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px), repeating-linear-gradient(180deg, #b9b19c 0 3px, transparent 3px 6px);
  background-size: 1px calc(100% - 4px); background-position: 3px 2px, calc(100% - 3px) 2px; background-repeat: no-repeat; }
.tag.on { background-color: var(--ivy-wash); color: var(--ivy-deep); }
.ghosts { position: absolute; inset: -2000px; overflow: visible; pointer-events: none; }
.ghost { position: absolute; left: 2000px; top: 2000px; transform-origin: 0 0; opacity: 0.34; max-width: none; }
.grab { position: absolute; cursor: grab; touch-action: none; }
.grab:active { cursor: grabbing; }
.turner, .focus { position: absolute; touch-action: none; transform: translate(-50%, -50%); }
.turner { width: 24px; height: 24px; margin-top: -2px; border-radius: 50%; background: var(--linen-raised); color: var(--ivy-deep); display: grid; place-items: center; cursor: grab; box-shadow: 0 0 0 2px #173d2b; }
.focus { width: 22px; height: 22px; border-radius: 50%; border: 2px dashed #fff; box-shadow: 0 0 0 1.5px rgba(20, 30, 25, 0.7), inset 0 0 0 1.5px rgba(20, 30, 25, 0.5); cursor: move; }
.focus::after { content: ''; position: absolute; inset: 6px; border-radius: 50%; background: #ffe9b8; box-shadow: 0 0 0 1px rgba(20, 30, 25, 0.7); }
.skeleton { position: absolute; inset: 0; background: linear-gradient(100deg, #565957 40%, #606361 50%, #565957 60%) 0 0 / 300% 100%; animation: sheen 1.4s linear infinite; }
@keyframes sheen { from { background-position: 120% 0; } to { background-position: -60% 0; } }
.faults { position: absolute; inset: auto; top: 35%; max-width: 460px; background: var(--linen-raised); color: var(--ink); border-radius: 12px; padding: 18px 22px; display: grid; gap: 8px; border-left: 5px solid var(--rust); }
.below { width: 100%; display: flex; gap: 18px; padding: 0 16px; color: #d6d5ce; font-size: 11.5px; }
.how { margin-left: auto; }
</style>
