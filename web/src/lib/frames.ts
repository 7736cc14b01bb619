import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'

import { api, ask, Failure, fetchPicture, type Outline, type Piece } from '../api/client'

/** Compressed pictures kept, in bytes. */
const KEPT_BYTES = 256 << 20
/** Decoded pictures kept: at 960×540 each takes 2 MB. */
const DECODED = 40
/** Requests at one time, below HTTP/1.1's six connections. */
const AT_ONCE = 4
/** How far ahead of the playhead pictures are decoded. */
const READY = 14

/** A walk over frames: from one on, by a step (below 0 backwards), round and round within lo to hi (excluded). */
export interface Walk {
  from: number
  step: number
  lo: number
  hi: number
}

/**
 * The frames of a piece in one format at one size: where to get each, the
 * compressed and decoded pictures at hand, and where the pockets stand.
 */
export function useFrames(piece: Ref<Piece | null>, format: Ref<string>, box: Ref<{ w: number; h: number }>, epoch: Ref<number>, ground: Ref<string>) {
  const addresses = shallowRef<string[]>([])
  const outlines = shallowRef<Outline[][]>([])
  const size = ref({ w: 0, h: 0 })
  const failure = ref('')
  const loading = ref(true)
  /** Rises whenever a compressed picture comes or goes. */
  const version = ref(0)

  const blobs = new Map<string, Blob>()
  let bytes = 0
  const bitmaps = new Map<string, ImageBitmap>()
  const decoding = new Set<string>()
  const coming = new Map<string, Promise<Blob | null>>()
  /** When the last pictures came, to tell how many come in a second. */
  let arrivals: number[] = []
  let asked = 0

  async function load() {
    const p = piece.value
    if (!p || !format.value || box.value.w < 32 || box.value.h < 32) return
    const mine = ++asked
    try {
      const f = await ask(
        api.GET('/api/pieces/{id}/frames', {
          params: { path: { id: p.id }, query: { format: format.value, width: Math.floor(box.value.w), height: Math.floor(box.value.h) } },
        }),
      )
      if (mine !== asked) return
      const a: string[] = []
      for (const run of f.addresses) for (let i = 0; i < run.frames; i++) a.push(run.address)
      const o: Outline[][] = []
      for (const run of f.outlines) for (let i = 0; i < run.frames; i++) o.push(run.outlines)
      size.value = { w: f.width, h: f.height }
      outlines.value = o
      addresses.value = a
      failure.value = ''
      version.value++
    } catch (e) {
      if (mine === asked) failure.value = (e as Failure).message
    } finally {
      if (mine === asked) loading.value = false
    }
  }
  const key = computed(() => `${piece.value?.id} ${piece.value?.revision} ${format.value} ${Math.floor(box.value.w)} ${Math.floor(box.value.h)} ${epoch.value}`)
  watch(key, () => void load(), { immediate: true })
  watch([() => piece.value?.id, format], () => {
    loading.value = true
    addresses.value = []
  })
  watch(epoch, () => forget())
  watch(ground, () => version.value++)

  function forget() {
    blobs.clear()
    bytes = 0
    bitmaps.forEach((b) => b.close())
    bitmaps.clear()
    version.value++
  }

  const name = (n: number, kind: 'jpg' | 'png') => {
    const a = addresses.value[n]
    return a && `${a}.${kind}${ground.value ? `?ground=${encodeURIComponent(ground.value)}` : ''}`
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

  async function get(k: string, signal?: AbortSignal, idle = false): Promise<Blob | null> {
    const r = await fetchPicture(`/frames/${k}`, { signal, headers: idle ? { 'Ivy-Wait': 'idle' } : {} })
    if (r.status === 410) {
      void load()
      return null
    }
    if (!r.ok) {
      const body = (await r.json().catch(() => null)) as { detail?: string } | null
      throw new Failure(r.status, body?.detail ?? `The frame could not be drawn (${r.status}).`)
    }
    const b = await r.blob()
    if (r.headers.get('Cache-Control') !== 'no-store') keep(k, b)
    const now = performance.now()
    arrivals.push(now)
    if (arrivals.length > 30) arrivals.shift()
    return b
  }

  /** Pictures that came in a second, lately; Infinity while nothing is known. */
  function pace(): number {
    const now = performance.now()
    arrivals = arrivals.filter((t) => now - t < 1500)
    if (arrivals.length < 4) return Infinity
    return ((arrivals.length - 1) / Math.max(1, now - arrivals[0]!)) * 1000
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
    const blob = blobs.get(k) ?? (await get(k, signal))
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

  /** Fetches what a walk meets, in order, a few at a time, and decodes what it meets first. */
  function ahead(w: Walk, idle = false) {
    const steps = Math.max(1, Math.ceil((w.hi - w.lo) / Math.max(1, Math.abs(w.step))))
    for (let i = 0; i < Math.min(READY, steps); i++) decode(at(w, i))
    for (let i = 0; i < steps && coming.size < (idle ? 2 : AT_ONCE); i++) {
      const n = at(w, i)
      const k = name(n, 'jpg')
      if (!k || blobs.has(k) || coming.has(k)) continue
      if (bytes > KEPT_BYTES * 0.95 && i > steps / 2) break // what comes now would push out what is needed sooner
      const p = get(k, undefined, idle)
        .catch((e: Failure) => {
          failure.value = e.message
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
    for (let n = 0; n < addresses.value.length; n++) {
      if (!has(n)) continue
      const last = out.at(-1)
      if (last && last.to === n) last.to++
      else out.push({ from: n, to: n + 1 })
    }
    return out
  }

  onScopeDispose(() => {
    asked++
    forget()
  })
  return { addresses, outlines, size, failure, loading, version, atHand, has, whole, runs, pace, fetchFrame, ahead, reload: load }
}
export type Frames = ReturnType<typeof useFrames>
