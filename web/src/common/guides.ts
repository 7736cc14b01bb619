import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, reactive, ref } from 'vue'

import { api, ask, Failure, type GuideMark, type GuideSet } from '../api/client'
import type { Done } from './list'
import { useNews } from './news/news'
import { useNotices } from './notices'

/** A set as it is kept. */
export type Kept = Pick<GuideSet, 'id' | 'name' | 'about' | 'of' | 'shape' | 'colour' | 'fade' | 'longest' | 'marks' | 'still'>

export const isZone = (m: Pick<GuideMark, 'kind'>) => m.kind === 'safe' || m.kind === 'covered'

/** Guides: what is laid over pictures to place things by. They are no part of what is made. */
export const useGuides = defineStore('guides', () => {
  /** Whether they are seen, and which sets are, as this browser remembers. */
  const on = useLocalStorage('ivy-guides-on', false)
  const shown = useLocalStorage<string[]>('ivy-guides', ['r95'])
  /** The set that is adjusted: its lines can be dragged, and a panel has its numbers. */
  const adjusting = ref('')
  const tones = ref(['#fffefa', '#14201a'])
  /** All sets as they lie on canvases, by "1920x1080". */
  const byCanvas = reactive(new Map<string, GuideSet[]>())
  const done = ref<Done | null>(null)
  /** Marks on their way: where they are dragged to, in shares. */
  const way = ref<{ set: string; mark: GuideMark } | null>(null)

  const key = (c: { width: number; height: number }) => `${c.width}x${c.height}`
  async function read(canvas: string) {
    const [width, height] = canvas.split('x').map(Number) as [number, number]
    try {
      const v = await ask(api.GET('/api/guides', { params: { query: { width, height } } }))
      tones.value = v.tones
      byCanvas.set(canvas, v.sets)
    } catch {
      byCanvas.delete(canvas) // asked for again when it is looked at
    }
  }
  const all = () => Promise.all([...byCanvas.keys()].map(read))
  useNews().listen((n) => void ((n.type === 'guides' || n.type === 'lost') && all()))

  /** All sets as they lie on a canvas. */
  function laid(c: { width: number; height: number }): GuideSet[] {
    const k = key(c)
    if (!byCanvas.has(k)) {
      byCanvas.set(k, [])
      void read(k)
    }
    return byCanvas.get(k) ?? []
  }
  /** Those that are seen there, with what is on its way. */
  function seen(c: { width: number; height: number }): GuideSet[] {
    if (!on.value && !adjusting.value) return []
    const list = laid(c).filter((s) => (on.value && shown.value.includes(s.id)) || s.id === adjusting.value)
    const w = way.value
    if (!w) return list
    return list.map((s) => (s.id !== w.set ? s : { ...s, laid: { ...s.laid, marks: s.laid.marks.map((m) => (m.id === w.mark.id ? { id: m.id, at: Math.round((w.mark.at ?? 0) * (w.mark.kind === 'upright' ? c.width : c.height)), box: (w.mark.box ?? []).map((v, i) => Math.round(v * (i % 2 ? c.height : c.width))) } : m)) } }))
  }
  /** The lines that things are drawn to while they are dragged. */
  function lines(c: { width: number; height: number }): { axis: 'x' | 'y'; at: number; what: string }[] {
    return seen(c).flatMap((s) =>
      s.laid.marks.flatMap((m) => {
        const of = s.marks.find((x) => x.id === m.id)!
        const what = `${of.name} of ${s.name}`
        if (!isZone(of)) return [{ axis: of.kind === 'upright' ? ('x' as const) : ('y' as const), at: m.at, what }]
        return m.box.map((at, i) => ({ axis: i % 2 ? ('y' as const) : ('x' as const), at, what: `${['left', 'top', 'right', 'bottom'][i]} edge of ${what}` }))
      }),
    ).slice(0, 300)
  }
  const longest = (c: { width: number; height: number }) => seen(c).filter((s) => s.longest).map((s) => ({ name: s.name, seconds: s.longest! }))

  function toggle() {
    on.value = !on.value
    if (!on.value) adjusting.value = ''
  }
  function show(id: string, is: boolean) {
    shown.value = is ? [...new Set([...shown.value, id])] : shown.value.filter((x) => x !== id)
    if (is) on.value = true
  }
  const bare = (s: GuideSet): Kept => JSON.parse(JSON.stringify({ id: s.id, name: s.name, about: s.about, of: s.of, shape: s.shape, colour: s.colour, fade: s.fade, longest: s.longest, marks: s.marks, still: s.still }))
  const find = (id: string) => [...byCanvas.values()].flat().find((s) => s.id === id)

  async function put(set: Kept, revision: number): Promise<boolean> {
    try {
      await ask(api.PUT('/api/guides/{id}', { params: { path: { id: set.id } }, body: { revision, set } }))
      return true
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
      return false
    } finally {
      await all()
    }
  }
  /** What is done to sets goes one after another: each begins with what the one before it left. */
  let queue: Promise<unknown> = Promise.resolve()
  /** Changes a set; of a ready-made one a copy is made, which is seen in its place. */
  function change(id: string, f: (s: Kept) => void): Promise<boolean> {
    const next = queue.then(async () => {
      const s = find(id)
      if (!s) return false
      const set = bare(s)
      if (!s.revision) {
        set.of = s.id
        set.id = fresh(s.id)
        set.name = unused(`${s.name}, adjusted`)
      }
      f(set)
      const kept = await put(set, s.revision)
      if (kept && set.id !== id) {
        shown.value = [...new Set(shown.value.map((x) => (x === id ? set.id : x)))]
        if (adjusting.value === id) adjusting.value = set.id
      }
      return kept
    })
    queue = next.catch(() => {})
    return next
  }
  const fresh = (of: string) => `${of.slice(0, 30)}-${Math.random().toString(36).slice(2, 8)}`
  function unused(name: string): string {
    const names = new Set([...byCanvas.values()].flat().map((s) => s.name))
    let free = name
    for (let n = 2; names.has(free); n++) free = `${name} ${n}`
    return free
  }
  async function add() {
    const id = fresh('guides')
    if (await put({ id, name: unused('Our guides'), fade: 0.9, marks: [{ id: 'm1', name: 'Line', kind: 'upright', at: 0.5 }] }, 0)) {
      show(id, true)
      adjusting.value = id
    }
  }
  async function remove(s: GuideSet) {
    try {
      await ask(api.DELETE('/api/guides/{id}', { params: { path: { id: s.id }, query: { revision: s.revision } } }))
      const was = shown.value.includes(s.id)
      if (adjusting.value === s.id) adjusting.value = ''
      show(s.id, false)
      done.value = {
        text: `${s.name} was removed.`,
        undo: async () => {
          done.value = null
          if ((await put(bare(s), 0)) && was) show(s.id, true)
        },
      }
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
    } finally {
      await all()
    }
  }
  /** Where the marks of the ready-made set lie that a set was made of. */
  const home = (s: GuideSet, mark: string) => find(s.of ?? '')?.marks.find((m) => m.id === mark)
  const adjusted = computed(() => find(adjusting.value) ?? null)
  return { on, shown, adjusting, adjusted, tones, way, done, laid, seen, lines, longest, toggle, show, change, add, remove, home }
})
