import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'

import { api, ask, Failure, type Outline, type Piece } from '../api/client'

/** Decoded pictures kept: at 960×540 each takes 2 MB. */
const KEPT = 72
/** How far ahead of the playhead pictures are fetched while playing. */
const AHEAD = 20
/** Requests at one time, below HTTP/1.1's six connections. */
const AT_ONCE = 4

/**
 * The frames of a piece in one format at one size: where to get each, the
 * decoded pictures at hand, and where the pockets stand.
 */
export function useFrames(piece: Ref<Piece | null>, format: Ref<string>, box: Ref<{ w: number; h: number }>) {
  const addresses = shallowRef<string[]>([])
  const outlines = shallowRef<Outline[][]>([])
  const size = ref({ w: 0, h: 0 })
  const failure = ref('')
  const loading = ref(true)
  const kept = new Map<string, ImageBitmap>()
  const coming = new Map<string, Promise<ImageBitmap | null>>()
  let version = 0

  async function load() {
    const p = piece.value
    if (!p || !format.value || box.value.w < 32 || box.value.h < 32) return
    const mine = ++version
    try {
      const f = await ask(
        api.GET('/api/pieces/{id}/frames', {
          params: { path: { id: p.id }, query: { format: format.value, width: Math.floor(box.value.w), height: Math.floor(box.value.h) } },
        }),
      )
      if (mine !== version) return
      const a: string[] = []
      for (const run of f.addresses) for (let i = 0; i < run.frames; i++) a.push(run.address)
      const o: Outline[][] = []
      for (const run of f.outlines) for (let i = 0; i < run.frames; i++) o.push(run.outlines)
      size.value = { w: f.width, h: f.height }
      outlines.value = o
      addresses.value = a
      failure.value = ''
    } catch (e) {
      if (mine === version) failure.value = (e as Failure).message
    } finally {
      if (mine === version) loading.value = false
    }
  }
  const key = computed(() => `${piece.value?.id} ${piece.value?.revision} ${format.value} ${Math.floor(box.value.w)} ${Math.floor(box.value.h)}`)
  watch(key, () => void load(), { immediate: true })
  watch([() => piece.value?.id, format], () => {
    loading.value = true
    addresses.value = []
  })

  function keep(name: string, b: ImageBitmap) {
    kept.set(name, b)
    for (const [k, old] of kept) {
      if (kept.size <= KEPT) break
      kept.delete(k)
      old.close()
    }
  }

  async function get(name: string, signal?: AbortSignal): Promise<ImageBitmap | null> {
    const r = await fetch(`/frames/${name}`, { signal })
    if (r.status === 410) {
      void load()
      return null
    }
    if (!r.ok) {
      const body = (await r.json().catch(() => null)) as { detail?: string } | null
      throw new Failure(r.status, body?.detail ?? `The frame could not be drawn (${r.status}).`)
    }
    const b = await createImageBitmap(await r.blob())
    keep(name, b)
    return b
  }

  /** The picture of a frame if it is at hand, without loss when there is one. */
  function atHand(n: number): ImageBitmap | undefined {
    const a = addresses.value[n]
    const b = kept.get(`${a}.png`) ?? kept.get(`${a}.jpg`)
    return b
  }

  /** Fetches a frame unless it is at hand or coming. */
  function fetchFrame(n: number, kind: 'jpg' | 'png', signal?: AbortSignal): Promise<ImageBitmap | null> {
    const a = addresses.value[n]
    if (!a) return Promise.resolve(null)
    const name = `${a}.${kind}`
    const have = kept.get(name)
    if (have) return Promise.resolve(have)
    const known = coming.get(name)
    if (known && !signal) return known
    const p = get(name, signal).finally(() => coming.delete(name))
    coming.set(name, p)
    return p
  }

  /** Fetches what comes next while playing, a few at a time. */
  function ahead(from: number, to: number, loop: number) {
    const n = addresses.value.length
    for (let i = 0; i < AHEAD && coming.size < AT_ONCE; i++) {
      let f = from + i
      if (f >= to) f = loop + (f - to)
      if (f >= n) break
      const a = addresses.value[f]
      if (!a || kept.has(`${a}.jpg`) || coming.has(`${a}.jpg`)) continue
      fetchFrame(f, 'jpg').catch((e: Failure) => (failure.value = e.message))
    }
  }

  onScopeDispose(() => {
    version++
    kept.forEach((b) => b.close())
    kept.clear()
  })
  return { addresses, outlines, size, failure, loading, atHand, fetchFrame, ahead, reload: load }
}
