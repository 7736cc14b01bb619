import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import { api, ask, Failure, windowId, type Done, type Framing, type Layer, type LayerLine, type Medium, type Op, type Piece, type Play, type Pocket, type Property, type Stand } from '../api/client'
import { bundles } from '../lib/choose'
import { coalesced } from '../lib/coalesced'
import { useNews } from './news'
import { useTransport } from './transport'
import { useUploads } from './uploads'

/** The piece on the bench. Every change goes through `change`. */
export const usePiece = defineStore('piece', () => {
  const piece = shallowRef<Piece | null>(null)
  const failure = ref('')
  const saving = ref(0)
  const notice = ref<{ kind: 'error' | 'info'; text: string } | null>(null)
  const uploads = useUploads()
  const transport = useTransport()
  /** Rises when frames of the same piece may look otherwise than before. */
  const epoch = ref(0)
  const format = ref('')
  /** The selected layer; a view's pocket is selected with it. */
  const layer = ref('')
  const loose = ref('') // a selected pocket that no layer shows
  const line = computed<LayerLine | undefined>(() => piece.value?.layers.find((y) => y.id === layer.value))
  const selected = computed<string>({
    get: () => line.value?.pocket || loose.value,
    set: (pocket) => {
      if (pocket && line.value?.pocket === pocket) return
      layer.value = (pocket && piece.value?.layers.find((y) => y.pocket === pocket)?.id) || ''
      loose.value = layer.value ? '' : pocket
    },
  })
  /** Whether what is set on the layer now is set in this format alone. */
  const apart = ref(false)
  watch([layer, format], () => (apart.value = false))
  /** The format in which a property is set: this one alone where it has its own value there, else all. */
  function where(p: Property | undefined): string | undefined {
    return apart.value || p?.here || p?.own ? format.value : undefined
  }
  /** The selected layer's properties, as they stand at the playhead. */
  const layerView = shallowRef<Layer | null>(null)
  const framing = ref(false)
  /** The pocket that media is being chosen for from the store. */
  const picking = ref('')
  /** An operation that is shown and not carried out yet, while something is dragged. */
  const draft = shallowRef<Op | null>(null)
  /** A frame of the selected pocket's clip that is looked at on the stage, whatever the time is. */
  const look = shallowRef<{ pocket: string; frame: number } | null>(null)
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
      layer.value = loose.value = ''
      framing.value = false
      draft.value = null
      look.value = null
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

  function play(pocket: string, p: Play | undefined): Promise<boolean> {
    return change({ kind: 'play', pocket, play: p })
  }

  const kindWords: Record<string, string> = { footage: 'clips', picture: 'pictures', sound: 'sound' }
  /** Whether a pocket takes media of a kind. */
  function takesKind(p: Pocket, kind: string): boolean {
    return p.kinds.includes(kind) || (kind === 'picture' && p.kinds.includes('logo'))
  }

  /** Puts media of the store into a pocket. */
  async function use(pocket: string, m: Medium): Promise<boolean> {
    const p = piece.value?.pockets.find((x) => x.id === pocket)
    if (!p) return false
    if (!takesKind(p, m.kind)) {
      say('error', `The pocket ${p.name} takes no ${kindWords[m.kind] ?? m.kind}.`)
      return false
    }
    return change({ kind: 'fill', pocket, media: m.hash })
  }

  /**
   * Puts files into pockets: the first into the pocket they were dropped on,
   * further ones into those after it. What is refused says why; the rest goes on.
   */
  async function fill(first: string, files: File[], folder = false) {
    const pockets = piece.value?.pockets ?? []
    let at = pockets.findIndex((p) => p.id === first)
    let all
    try {
      all = await bundles(files, folder)
    } catch (e) {
      say('error', (e as Failure).message)
      return
    }
    const coming = all.map((b) => uploads.add(b, first, `${piece.value!.rateN}/${piece.value!.rateD}`))
    for (const c of coming) {
      try {
        const m = await c.medium
        while (all.length > 1 && pockets[at] && !takesKind(pockets[at], m.kind)) at++
        const target = pockets[at]
        if (!target) throw new Failure(422, 'It is in the store now; there is no further pocket that takes it.')
        if (!takesKind(target, m.kind)) throw new Failure(422, `The pocket ${target.name} takes no ${kindWords[m.kind] ?? m.kind}. It is in the store now.`)
        at++
        await change({ kind: 'fill', pocket: target.id, media: m.hash })
        uploads.dismiss(c.arrival.key)
      } catch (e) {
        uploads.refuse(c.arrival.key, (e as Failure).message)
      }
    }
  }

  /** Asks for the selected layer's properties. */
  const loadLayer = coalesced(async () => {
    const p = piece.value
    const id = layer.value
    if (!p || !id) {
      layerView.value = null
      return
    }
    try {
      const got = await ask(api.GET('/api/pieces/{id}/layers/{layer}', { params: { path: { id: p.id, layer: id }, query: { format: format.value, frame: Math.min(transport.frame, p.frames - 1) } } }))
      if (layer.value === id) layerView.value = got
    } catch (e) {
      if (layer.value === id) say('error', (e as Failure).message)
    }
  })
  watch([layer, format, () => piece.value?.revision, () => !transport.playing && transport.frame], () => {
    if (layerView.value?.id !== layer.value) layerView.value = null
    if (!transport.playing) void loadLayer()
  })

  let growing: ReturnType<typeof setTimeout> | undefined
  useNews().listen((n) => {
    const p = piece.value
    if (!p) return
    if (n.type === 'lost' || (n.type === 'piece' && n.id === p.id && n.window !== windowId)) void load(p.id)
    if (n.type === 'media' && n.id && p.media[n.id]) {
      const m = p.media[n.id]!
      if (n.state === 'counted') epoch.value++
      if (n.state) {
        clearTimeout(growing)
        growing = setTimeout(() => void load(p.id), 50)
      } else {
        piece.value = { ...p, media: { ...p.media, [n.id]: { ...m, proxyDone: Math.min(n.done ?? 0, m.frames - 1) } } }
      }
    }
  })

  return {
    piece, failure, saving, notice, format, layer, line, layerView, apart, where, selected, framing, picking, draft, look, epoch,
    formatView, stands, pocket, stand,
    medium, load, take, change, step, frame, play, takesKind, use, fill, say,
  }
})
