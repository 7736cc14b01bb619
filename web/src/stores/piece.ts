import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { api, ask, Failure, upload, windowId, type Done, type Framing, type Medium, type Op, type Piece, type Pocket, type Stand } from '../api/client'
import { useNews } from './news'

/** A file on its way into a pocket. */
export interface Arrival {
  key: number
  name: string
  pocket: string
  share: number
  state: 'coming' | 'refused'
  reason: string
}

/** The piece on the bench. Every change goes through `change`. */
export const usePiece = defineStore('piece', () => {
  const piece = shallowRef<Piece | null>(null)
  const failure = ref('')
  const saving = ref(0)
  const notice = ref<{ kind: 'error' | 'info'; text: string } | null>(null)
  const arrivals = ref<Arrival[]>([])
  const format = ref('')
  const selected = ref('')
  const framing = ref(false)
  /** An operation that is shown and not carried out yet, while something is dragged. */
  const draft = shallowRef<Op | null>(null)
  let keys = 0
  let chain: Promise<unknown> = Promise.resolve()

  const formatView = computed(() => piece.value?.template.formats.find((f) => f.id === format.value))
  const stands = computed<Stand[]>(() => piece.value?.stands[format.value] ?? [])
  const pocket = computed<Pocket | undefined>(() => piece.value?.pockets.find((p) => p.id === selected.value))
  const stand = computed<Stand | undefined>(() => stands.value.find((s) => s.pocket === selected.value))

  function medium(p: Pocket): Medium | undefined {
    return piece.value?.media[p.media]
  }

  function take(p: Piece) {
    if (piece.value?.id === p.id && piece.value.revision > p.revision) return
    const other = piece.value?.id !== p.id
    piece.value = p
    if (other) {
      format.value = p.template.formats[0]?.id ?? ''
      selected.value = ''
      framing.value = false
      draft.value = null
      arrivals.value = []
    }
  }

  async function load(id: string) {
    failure.value = ''
    if (piece.value?.id !== id) piece.value = null
    try {
      take(await ask(api.GET('/api/pieces/{id}', { params: { path: { id } } })))
    } catch (e) {
      failure.value = (e as Failure).message
    }
  }

  function say(kind: 'error' | 'info', text: string) {
    notice.value = { kind, text }
  }

  /** Runs changes one after another, so that each starts from what the one before left. */
  function queue(step: (p: Piece) => Promise<Done>): Promise<boolean> {
    const run = async () => {
      if (!piece.value) return false
      const id = piece.value.id
      saving.value++
      try {
        const done = await step(piece.value)
        if (piece.value?.id === id) take(done.piece)
        return true
      } catch (e) {
        say('error', (e as Failure).message)
        if ((e as Failure).status === 409) await load(id)
        return false
      } finally {
        saving.value--
      }
    }
    const next = chain.then(run, run)
    chain = next
    return next
  }

  function change(op: Op): Promise<boolean> {
    const id = crypto.randomUUID()
    return queue((p) => ask(api.POST('/api/pieces/{id}/operations', { params: { path: { id: p.id } }, body: { id, base: p.revision, op } })))
  }

  function step(verb: 'undo' | 'redo'): Promise<boolean> {
    const id = crypto.randomUUID()
    return queue((p) =>
      verb === 'undo'
        ? ask(api.POST('/api/pieces/{id}/undo', { params: { path: { id: p.id } }, body: { id } }))
        : ask(api.POST('/api/pieces/{id}/redo', { params: { path: { id: p.id } }, body: { id } })),
    )
  }

  function frame(pocket: string, f: Framing | undefined, thisFormatOnly: boolean): Promise<boolean> {
    return change({ kind: 'frame', pocket, framing: f, format: thisFormatOnly ? format.value : undefined })
  }

  /** Whether a pocket takes a file, as far as its kind can tell before it is looked at. */
  function takesKind(p: Pocket, kind: string): boolean {
    return p.kinds.includes(kind) || (kind === 'picture' && p.kinds.includes('logo'))
  }

  /**
   * Puts files into pockets: the first into the pocket they were dropped on,
   * further ones into those after it. What is refused says why; the rest goes on.
   */
  async function fill(first: string, files: File[]) {
    const pockets = piece.value?.pockets ?? []
    let at = pockets.findIndex((p) => p.id === first)
    const coming = files.map((file) => {
      const a: Arrival = { key: ++keys, name: file.name, pocket: first, share: 0, state: 'coming', reason: '' }
      arrivals.value.push(a)
      const live = () => arrivals.value.find((x) => x.key === a.key)
      const media = upload(file, (share) => {
        const l = live()
        if (l) l.share = share
      })
      media.catch(() => {}) // it is heard below, in its turn
      return { key: a.key, live, media }
    })
    for (const c of coming) {
      try {
        const m = await c.media
        while (files.length > 1 && pockets[at] && !takesKind(pockets[at], m.kind)) at++
        const target = pockets[at]
        if (!target) throw new Failure(422, 'There is no further pocket that takes it.')
        if (!takesKind(target, m.kind)) throw new Failure(422, `The pocket ${target.name} takes no ${m.kind === 'footage' ? 'clips' : 'pictures'}.`)
        at++
        await change({ kind: 'fill', pocket: target.id, media: m.hash })
        dismiss(c.key)
      } catch (e) {
        const l = c.live()
        if (l) {
          l.state = 'refused'
          l.reason = (e as Failure).message
        }
      }
    }
  }

  function dismiss(key: number) {
    arrivals.value = arrivals.value.filter((a) => a.key !== key)
  }

  let growing: ReturnType<typeof setTimeout> | undefined
  useNews().listen((n) => {
    const p = piece.value
    if (!p) return
    if (n.type === 'lost' || (n.type === 'piece' && n.id === p.id && n.window !== windowId)) void load(p.id)
    if (n.type === 'media' && n.id && p.media[n.id]) {
      const m = p.media[n.id]!
      if (n.state) {
        clearTimeout(growing)
        growing = setTimeout(() => void load(p.id), 50)
      } else {
        piece.value = { ...p, media: { ...p.media, [n.id]: { ...m, proxyDone: Math.min(n.done ?? 0, m.frames - 1) } } }
      }
    }
  })

  return {
    piece, failure, saving, notice, arrivals, format, selected, framing, draft,
    formatView, stands, pocket, stand,
    medium, load, take, change, step, frame, fill, dismiss, say,
  }
})
