import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'

import { Failure, fetchPicture } from '../../api/client'
import type { Face } from '../subjects'
import { useAddresses, type Wanted } from './addresses'

/** Compressed pictures kept, in bytes. */
const KEPT_BYTES = 256 << 20
/** Decoded pictures kept: at 960×540 each takes 2 MB. */
const DECODED = 40
/** Requests at one time, below HTTP/1.1's six connections. */
const AT_ONCE = 4
/** How far ahead of the playhead pictures are decoded. */
const READY = 14
/** How many pictures that are met next go before all others. */
const NEXT = 28

/** Which frames are shown, of what. */
export interface Shown {
  of: Ref<Pick<Face, 'kind' | 'id' | 'revision' | 'frames'> | null>
  format: Ref<string>
  /** What they fit into, in pixels. */
  box: Ref<{ w: number; h: number }>
  /** Rises when they may look otherwise than before. */
  epoch: Ref<number>
  /** What lies under what is clear. */
  ground: Ref<string>
  playhead: Ref<number>
  /** The layers that alone are shown, with commas between; none is all. */
  alone: Ref<string>
  /** The revision as at which it is shown; none is as it is. */
  past?: Ref<number | undefined>
}

/** A walk over frames: from one on, by a step (below 0 backwards), round and round within lo to hi (excluded). */
export interface Walk {
  from: number
  step: number
  lo: number
  hi: number
}

/**
 * The frames of a document in one format at one size: where to get each, the
 * compressed and decoded pictures at hand, and where the pockets stand.
 */
export function useFrames({ of, format, box, epoch, ground, playhead, alone, past }: Shown) {
  const wanted = computed<Wanted | null>(() => {
    const d = of.value
    if (!d || !format.value || box.value.w < 32 || box.value.h < 32) return null
    return { kind: d.kind, id: d.id, revision: d.revision, format: format.value, frames: d.frames, w: Math.floor(box.value.w), h: Math.floor(box.value.h), epoch: epoch.value, alone: alone.value, past: past?.value }
  })
  const table = useAddresses(wanted)
  const { size, failure, count, state } = table
  const loading = ref(true)
  /** Rises whenever a compressed picture comes or goes. */
  const version = ref(0)

  const blobs = new Map<string, Blob>()
  let bytes = 0
  const bitmaps = new Map<string, ImageBitmap>()
  const decoding = new Set<string>()
  const coming = new Map<string, Promise<Blob | null>>()
  /** Times from one picture to the next, in ms, lately and while as many were asked for as may be. */
  let gaps: number[] = []
  let came = 0

  const load = () => table.renew(Math.min(playhead.value, count.value - 1))
  watch(() => JSON.stringify(wanted.value), load, { immediate: true })
  watch([() => of.value?.id, format, () => past?.value], () => {
    loading.value = true
    table.forget()
  })
  watch([state, failure], () => (loading.value = false))
  watch(epoch, () => forget())
  watch([ground, table.version], () => version.value++)

  function forget() {
    blobs.clear()
    bytes = 0
    bitmaps.forEach((b) => b.close())
    bitmaps.clear()
    gaps = []
    version.value++
  }

  /** What lies beneath may run on while a frame is as the one before it. */
  const runsOn = computed(() => /^(clip|scenes):/.test(ground.value))
  const ending = (kind: 'jpg' | 'png', n: number) => `.${kind}${ground.value ? `?ground=${encodeURIComponent(ground.value)}${runsOn.value ? `&at=${n}` : ''}` : ''}`
  /** What a picture of a frame is of: equal ones are the same picture. */
  const pictureOf = (n: number) => `${table.address(n) ?? ''} ${ground.value}${runsOn.value ? ` ${n}` : ''}`
  const name = (n: number, kind: 'jpg' | 'png') => {
    const a = table.address(n)
    return a && a + ending(kind, n)
  }

  function keep(k: string, b: Blob) {
    blobs.set(k, b)
    bytes += b.size
    for (const [old, ob] of blobs) {
      if (bytes <= KEPT_BYTES) break
      blobs.delete(old)
      bytes -= ob.size
    }
    version.value++
  }
  function keepDecoded(k: string, b: ImageBitmap) {
    bitmaps.get(k)?.close()
    bitmaps.delete(k)
    bitmaps.set(k, b)
    for (const [old, ob] of bitmaps) {
      if (bitmaps.size <= DECODED) break
      bitmaps.delete(old)
      ob.close()
    }
  }

  async function get(n: number, k: string, signal?: AbortSignal, idle = false): Promise<Blob | null> {
    const r = await fetchPicture(`/frames/${k}`, { signal, headers: idle ? { 'Ivy-Wait': 'idle' } : {} })
    if (r.status === 410) {
      table.again(n)
      return null
    }
    if (!r.ok) {
      const body = (await r.json().catch(() => null)) as { detail?: string } | null
      throw new Failure(r.status, body?.detail ?? `The frame could not be drawn (${r.status}).`)
    }
    const b = await r.blob()
    if (r.headers.get('Cache-Control') !== 'no-store') keep(k, b)
    const now = performance.now()
    if (coming.size >= AT_ONCE - 1) gaps = [...gaps.slice(-23), now - came]
    came = now
    return b
  }

  /** How many pictures come in a second when as many are asked for as may be; null while that is not known. */
  function pace(): number | null {
    if (gaps.length < 6) return null
    return (gaps.length / Math.max(1, gaps.reduce((a, b) => a + b))) * 1000
  }

  /** The decoded picture of a frame if it is at hand. */
  function atHand(n: number): ImageBitmap | undefined {
    return bitmaps.get(name(n, 'png') ?? '') ?? bitmaps.get(name(n, 'jpg') ?? '')
  }
  /** Whether a frame's compressed picture is at hand. */
  function has(n: number): boolean {
    return blobs.has(name(n, 'jpg') ?? '')
  }

  /** Fetches and decodes a frame. */
  async function fetchFrame(n: number, kind: 'jpg' | 'png', signal?: AbortSignal): Promise<ImageBitmap | null> {
    const k = name(n, kind)
    if (!k) return null
    const have = bitmaps.get(k)
    if (have) return have
    const blob = blobs.get(k) ?? (await get(n, k, signal))
    if (!blob) return null
    const b = await createImageBitmap(blob)
    keepDecoded(k, b)
    return b
  }

  /** The i-th frame of a walk. */
  function at(w: Walk, i: number): number {
    const len = Math.max(1, w.hi - w.lo)
    const d = (w.from - w.lo + i * w.step) % len
    return w.lo + (d < 0 ? d + len : d)
  }

  /**
   * Fetches what a walk meets next, then all that it passes by, in order and a few at a time, so that what comes is never
   * less than what can; decodes what it meets first.
   */
  function ahead(w: Walk, idle = false) {
    const len = Math.max(1, w.hi - w.lo)
    const steps = Math.max(1, Math.ceil(len / Math.max(1, Math.abs(w.step))))
    for (let i = 0; i < Math.min(READY, steps); i++) decode(at(w, i))
    const most = idle ? 2 : AT_ONCE
    if (!coming.size) came = performance.now() // while nothing was asked for nothing came
    const each = { ...w, step: Math.sign(w.step) }
    const next = Math.min(NEXT, steps)
    for (let i = 0; i < next + len && coming.size < most; i++) {
      const n = i < next ? at(w, i) : at(each, i - next)
      const k = name(n, 'jpg')
      if (!k) break // what comes after it is asked for when this one is known
      if (blobs.has(k) || coming.has(k)) continue
      if (bytes > KEPT_BYTES * 0.95 && i - next > len / 2) break // what comes now would push out what is needed sooner
      const p = get(n, k, undefined, idle)
        .catch((e: Failure) => {
          if (e.status !== 503) failure.value = e.message // a server that is busy is asked again
          return null
        })
        .finally(() => coming.delete(k))
      coming.set(k, p)
    }
  }
  function decode(n: number) {
    const k = name(n, 'jpg')
    const blob = k && blobs.get(k)
    if (!k || !blob || bitmaps.has(k) || decoding.has(k)) return
    decoding.add(k)
    createImageBitmap(blob)
      .then((b) => keepDecoded(k, b))
      .catch(() => {})
      .finally(() => decoding.delete(k))
  }

  /** Whether every frame from lo to hi (excluded) is at hand. */
  function whole(lo: number, hi: number): boolean {
    for (let n = lo; n < hi; n++) if (!has(n)) return false
    return true
  }
  /** Runs of frames at hand. */
  function runs(): { from: number; to: number }[] {
    const out: { from: number; to: number }[] = []
    for (const [first, addresses] of table.known()) {
      addresses.forEach((a, i) => {
        if (!blobs.has(a + ending('jpg', first + i))) return
        const last = out.at(-1)
        if (last && last.to === first + i) last.to++
        else out.push({ from: first + i, to: first + i + 1 })
      })
    }
    return out
  }

  onScopeDispose(forget)
  return { count, state, size, failure, loading, version, stale: table.stale, address: table.address, pictureOf, outlines: table.outlines, atHand, has, whole, runs, pace, fetchFrame, ahead, reload: load }
}
export type Frames = ReturnType<typeof useFrames>
