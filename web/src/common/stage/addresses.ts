import { computed, ref, shallowRef, type Ref } from 'vue'

import { type Failure, type Outline } from '../../api/client'
import { subject, type Home } from '../subjects'

/** Frames of one window: the most that the server tells at one time is twice as many. */
const WINDOW = 256
/** Windows asked for at one time, and kept; those that were needed longest ago go first. */
const AT_ONCE = 2
const KEPT = 128

/** What a draw list looks like at a size: which document, at which revision, in which format. */
export interface Wanted extends Home {
  revision: number
  format: string
  frames: number
  w: number
  h: number
  epoch: number
  /** The layers that alone are shown, with commas between. */
  alone?: string
  /** As it stood at a revision. */
  past?: number
}

interface Told {
  addresses: string[]
  outlines: Outline[][]
  used: number
}

/**
 * Where to get each frame, and what stands where on it: a sparse table that is filled by windows, as frames are asked
 * about. Nothing here grows with the length of a document.
 */
export function useAddresses(wanted: Ref<Wanted | null>) {
  const table = new Map<number, Told>()
  /** Outlines of single frames, where a window has too many of them to tell all. */
  const single = new Map<number, Outline[]>()
  let asking = -1
  const coming = new Set<number>()
  let queue: number[] = []
  let generation = 0
  let clock = 0
  /** Rises whenever a window comes or goes. */
  const version = ref(0)
  /** Rises when the first window of another state of things is there. */
  const state = ref(0)
  let told = -1
  /** Whether what is known is of things as they were. */
  const stale = ref(true)
  const size = shallowRef({ w: 0, h: 0 })
  const failure = ref('')
  const count = computed(() => wanted.value?.frames ?? 0)

  /** Begins anew: frames may look otherwise. The old ones are known until the first of the new ones are. */
  function renew(at: number) {
    generation++
    stale.value = true
    coming.clear()
    queue = []
    if (wanted.value) want(Math.floor(at / WINDOW))
  }
  function forget() {
    table.clear()
    single.clear()
    told = -1
    stale.value = true
    version.value++
  }

  function want(i: number) {
    if (i < 0 || i * WINDOW >= count.value || coming.has(i)) return
    queue = [i, ...queue.filter((k) => k !== i)].slice(0, 16)
    work()
  }
  function work() {
    while (coming.size < AT_ONCE && queue.length) void fetchWindow(queue.shift()!)
  }

  async function fetchWindow(i: number) {
    const q = wanted.value
    if (!q) return
    const mine = generation
    coming.add(i)
    try {
      const f = await subject(q.kind).frames(q.id, q.format, q, i * WINDOW, WINDOW, q.alone || undefined, q.past)
      if (mine !== generation) return
      if (told !== mine) {
        table.clear()
        single.clear()
        told = mine
        stale.value = false
        size.value = { w: f.width, h: f.height }
        state.value++
      }
      const t: Told = { addresses: [], outlines: [], used: ++clock }
      for (const run of f.addresses) for (let k = 0; k < run.frames; k++) t.addresses.push(run.address)
      for (const run of f.outlines) for (let k = 0; k < run.frames; k++) t.outlines.push(run.outlines)
      table.set(i, t)
      if (table.size > KEPT) table.delete([...table].sort((a, b) => a[1].used - b[1].used)[0]![0])
      failure.value = ''
      version.value++
    } catch (e) {
      if (mine === generation) failure.value = (e as Failure).message
    } finally {
      if (mine === generation) {
        coming.delete(i)
        work()
      }
    }
  }

  function window(n: number): Told | undefined {
    const i = Math.floor(n / WINDOW)
    const t = table.get(i)
    if (t) t.used = ++clock
    if (!t || told !== generation) want(i)
    return t
  }
  /** The address of a frame; undefined while it is not known, and then it is asked for. */
  function address(n: number): string | undefined {
    return n >= 0 && n < count.value ? window(n)?.addresses[n % WINDOW] : undefined
  }
  function outlines(n: number): Outline[] | undefined {
    if (n < 0 || n >= count.value) return undefined
    const t = window(n)
    if (!t || t.outlines[n % WINDOW]) return t?.outlines[n % WINDOW]
    if (!single.has(n)) void one(n)
    return single.get(n) ?? single.get(last)
  }
  /** The last single frame whose outlines came: they stand in until those of another do. */
  let last = -1
  /** Asks for the outlines of one frame, the latest that was wanted. */
  async function one(n: number) {
    const q = wanted.value
    const before = asking
    asking = n
    if (!q || before >= 0) return
    const mine = generation
    try {
      for (let at = -1; at !== asking && mine === generation; ) {
        at = asking
        const f = await subject(q.kind).frames(q.id, q.format, q, at, 1, q.alone || undefined, q.past)
        if (mine !== generation) break
        if (single.size > 60) single.clear()
        single.set(at, f.outlines[0]?.outlines ?? [])
        last = at
        version.value++
      }
    } catch (e) {
      if (mine === generation) failure.value = (e as Failure).message
    } finally {
      asking = -1
    }
  }
  /** The windows that are known, in order: the first frame of each, and its addresses. */
  function known(): [number, string[]][] {
    return [...table].sort((a, b) => a[0] - b[0]).map(([i, t]) => [i * WINDOW, t.addresses])
  }
  /** The server has forgotten what an address stands for. */
  function again(n: number) {
    table.delete(Math.floor(n / WINDOW))
    want(Math.floor(n / WINDOW))
  }
  return { version, state, stale, size, failure, count, address, outlines, known, again, renew, forget }
}
