import { computed, shallowRef, watch } from 'vue'

import { api, ask, type Act, type Failure, type LayerLine } from '../api/client'
import { called, useCommands, pass } from '../common/commands'
import { useDocument } from '../common/document'
import { useGuides } from '../common/guides'
import { useHeld } from '../common/held'
import { useNotices } from '../common/notices'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'
import { useLayer } from './layer'
import { keyPath, useMotion } from './time/motion'
import { useSheet } from './sheet'
import { tray, useTool, type Swatch } from './tool'

/** An act without what every act says of itself. */
export type Deed = Omit<Act, 'format' | 'frame' | 'apart' | 'own' | 'record' | 'layers'> & { layers?: string[] }

/** Acts that leave other layers selected than before. */
const selects = new Set<Act['kind']>(['insert', 'sew', 'paste', 'duplicate', 'group', 'ungroup', 'motif', 'unmotif', 'recipe', 'back', 'merge', 'part', 'split', 'discard'])

/** What a designer does with the selection, by keys, buttons and the pointer alike. */
export function useActs() {
  const doc = useDocument()
  const selection = useSelection()
  const transient = useTransient()
  const transport = useTransport()
  const tool = useTool()
  const sheet = useSheet()
  const guides = useGuides()
  const motion = useMotion()
  const held = useHeld()

  const lines = computed(() => new Map((doc.draft?.layers ?? []).map((y) => [y.id, y])))
  /** What a command is about that was asked for before the layers it is about were there. */
  const instead = shallowRef<string[] | null>(null)
  const about = computed(() => instead.value ?? selection.layers)
  const chosen = computed<LayerLine[]>(() => about.value.map((id) => lines.value.get(id)).filter((y): y is LayerLine => !!y))
  /** The groups around a layer, the innermost first. */
  function around(id: string): string[] {
    const all = doc.draft?.layers ?? []
    const at = all.findIndex((y) => y.id === id)
    const out: string[] = []
    let depth = all[at]?.depth ?? 0
    for (let i = at - 1; i >= 0 && depth > 0; i--) {
      if (all[i]!.depth < depth) {
        out.push(all[i]!.id)
        depth = all[i]!.depth
      }
    }
    return out
  }
  /** What a press on a layer means: itself inside the group that is entered, else the outermost group around it. */
  function meant(id: string): string {
    const up = around(id)
    if (!tool.inside) return up.at(-1) ?? id
    const i = up.indexOf(tool.inside)
    return i < 0 ? '' : i === 0 ? id : up[i - 1]!
  }
  const locked = (id: string) => !!lines.value.get(id)?.locked || around(id).some((g) => lines.value.get(g)?.locked)

  /** The motif whose inside is worked on, through one of its uses. */
  const motif = computed(() => {
    const use = [tool.inside, ...around(tool.inside)].find((id) => lines.value.get(id)?.motif)
    return doc.draft?.motifs.find((m) => m.id === lines.value.get(use ?? '')?.motif)
  })
  /** An act as it goes to the server, on the selection unless it names others. */
  function act(deed: Deed): Act {
    return { layers: about.value, ...deed, format: selection.format, frame: transport.frame, apart: selection.apart, own: motif.value ? tool.own : undefined, record: (motion.recording && !sheet.pin) || undefined, ...(sheet.pin ? { pin: sheet.pin } : {}), ...(deed.snap && selection.formatView ? { lines: guides.lines(selection.formatView) } : {}) }
  }
  function does(deed: Deed): Promise<boolean> {
    const done = doc.change(act(deed))
    if (selects.has(deed.kind)) selection.awaits(done)
    return done
  }
  /** Does something with the selection: with the one that is to come, where a change on its way leaves another. */
  function withChosen(f: (e: KeyboardEvent) => unknown): (e: KeyboardEvent) => unknown {
    return (e) => {
      const coming = selection.coming
      if (!coming) return about.value.length ? f(e) : pass
      void coming.then((ids) => {
        if (!ids.length) return
        const same = ids.join() === selection.layers.join()
        instead.value = same ? null : ids
        f(e)
        instead.value = null
      })
    }
  }

  /** Takes what is pointed at: the first of the layers, or of the groups around them, that may be meant. */
  function point(ids: string[]) {
    const p = tool.pointing
    if (!p) return
    const bare = (id: string) => id.slice(id.lastIndexOf(':') + 1)
    const met = ids.flatMap((id) => [id, ...around(id)]).map(bare).find((id) => p.options.includes(id))
    if (!met) return useNotices().say('info', ids.length ? `${lines.value.get(ids[0]!)?.name ?? 'That'} can’t be that: it has no box, or it hangs on this layer itself.` : 'Nothing is seen there. Point at a layer, or press Escape.')
    tool.pointing = null
    p.done(met)
  }
  /** What is done to the points of the path that is worked on. */
  const points = (way: string, more: Partial<Deed> = {}) => act({ kind: 'points', path: tool.path, way, picks: tool.picks, layers: [], ...more })
  function nudge(x: number, y: number, far: boolean) {
    const by = far ? 10 : 1
    const like = tool.path ? points('move', { from: [0, 0] }) : act({ kind: 'nudge' })
    if (tool.path && !tool.picks.length) return
    const before = (transient.wished(like) as Act | null)?.to ?? [0, 0]
    transient.soon({ ...like, to: [before[0]! + x * by, before[1]! + y * by] })
  }
  function mark(path: 'hidden' | 'locked', ids = about.value) {
    const on = !ids.every((id) => lines.value.get(id)?.[path])
    return does({ kind: 'mark', path, value: on, layers: ids })
  }
  /** Takes a swatch in hand, or puts on the table what has no box to be drawn. */
  function take(s: Swatch) {
    tool.pointing = null
    if (s.id === 'split') tool.splitting = true
    else if (s.id === 'recipe') return // it opens a list
    else if (s.id === 'picture') tool.picking = true
    else if (s.id === 'path') draw()
    else if (s.box) tool.swatch = tool.swatch?.id === s.id ? null : s
    else void put(s)
  }
  /** Takes the pen in hand, or lays it down: for a shape, or for what a path names. */
  function draw(of?: string) {
    const on = tool.pen && tool.pen.of === of
    tool.swatch = tool.masking = null
    tool.path = ''
    tool.pen = on ? null : { of }
  }
  /** Puts one on the table in a size that suits it. */
  function put(s: Swatch, box?: Pick<Act, 'from' | 'to' | 'snap' | 'keep' | 'middle'>) {
    tool.swatch = null
    const into = tool.inside ? { into: `layers/${tool.inside}/layers`, at: -1 } : {}
    const made = does({ ...s.act!, ...into, ...box, layers: s.act!.kind === 'sew' || tool.inside ? [] : selection.layers })
    if (s.act!.way === 'words') write(made)
    return made
  }

  /** New words are typed at once: also before they are there. */
  function write(made: Promise<boolean>) {
    const hand = held.until(made)
    void made.then((ok) => {
      const id = doc.chosen.ids[0]
      if (!ok || !id) return
      if (hand.live() && selection.layer === id) selection.writing = id
      void hand.left.then((typed) => {
        if (typed) void doc.change(act({ kind: 'rest', path: `layers/${id}/text`, value: typed, layers: [] }))
      })
    })
  }

  /** The points of the selected layer, where it is a drawn path, or of the mask that is worked on. */
  const layer = useLayer()
  function editPath(): unknown {
    if (selection.line?.kind === 'words' && !locked(selection.layer)) return void (selection.writing = selection.layer)
    const forms = (layer.view?.forms ?? []).filter((f) => f.kind === 'path' && !f.way)
    const f = forms.find((f) => f.path === (tool.mask || `layers/${selection.layer}`)) ?? forms[0]
    if (!f || locked(selection.layer)) return pass
    tool.pen = tool.masking = null
    tool.path = f.path
  }

  /** Makes a mask, which is worked on at once. */
  async function masked(what: Act): Promise<void> {
    const id = what.path!.split('/')[1]!
    const before = new Set(layer.view?.forms.map((f) => f.path))
    if (!(await doc.change(what))) return
    const stop = watch(
      () => layer.view,
      (v) => {
        const one = v?.id === id ? v.forms.find((f) => f.mask && !f.way && !before.has(f.path)) : undefined
        if (one) tool.mask = one.path
        if (v) stop()
      },
    )
  }

  /** What was copied last, in any window. */
  const CLIP = 'ivy-clip'
  async function copy(): Promise<boolean> {
    try {
      if (motion.picked.length) {
        const keys = await ask(api.GET('/api/drafts/{id}/keys', { params: { path: { id: doc.draft!.id }, query: { keys: motion.picked } } }))
        localStorage.setItem(CLIP, JSON.stringify(keys))
        useNotices().say('info', motion.picked.length === 1 ? 'Copied a key.' : `Copied ${motion.picked.length} keys.`)
        return true
      }
      const clip = await ask(api.GET('/api/drafts/{id}/clip', { params: { path: { id: doc.draft!.id }, query: { layers: selection.layers } } }))
      localStorage.setItem(CLIP, JSON.stringify(clip))
      useNotices().say('info', selection.layers.length === 1 ? `Copied ${chosen.value[0]?.name}.` : `Copied ${selection.layers.length} layers.`)
      return true
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
      return false
    }
  }
  const copied = (): unknown => JSON.parse(localStorage.getItem(CLIP) ?? 'null')
  async function cut() {
    if (await copy()) await discard()
  }
  /** Takes away what is picked: keys, points of the path that is worked on, else layers. */
  function discard(): unknown {
    // While points are worked on the layer that has them is not what goes.
    if (tool.path) return tool.picks.length ? doc.change(points('remove')) : undefined
    if (motion.picked.length) return does({ kind: 'unkey', keys: motion.picked, layers: [] })
    return does({ kind: 'discard' })
  }
  function paste() {
    const clip = copied()
    if (!clip) return useNotices().say('info', 'Nothing was copied yet.')
    if ((clip as { ivypocket?: string }).ivypocket === 'keys') return pasteKeys(clip)
    return does({ kind: 'paste', clip, ...(tool.inside ? { into: `layers/${tool.inside}/layers`, at: -1 } : {}) })
  }
  function dress(way: 'look' | 'masks' | 'motion') {
    const clip = copied()
    if (!clip) return useNotices().say('info', 'Nothing was copied yet.')
    return does({ kind: 'dress', clip, way })
  }
  /** Keys that were copied, from the playhead on; they are picked then. */
  async function pasteKeys(clip: unknown) {
    const before = new Set(motion.all.keys())
    if (await does({ kind: 'paste-keys', clip })) {
      const come = [...motion.all.keys()].filter((k) => !before.has(k))
      if (come.length) motion.pick(come)
    }
  }
  /** What has keys of the selection, or of all layers where nothing is selected. */
  const tracks = () => (selection.layers.length ? chosen.value : (doc.draft?.layers ?? [])).flatMap((y) => y.tracks)
  /** Those of layers' own keys; those of saved moves are everybody's. */
  const own = () => tracks().filter((t) => !t.by)
  /** To the next key, or the one before; those there are picked. */
  function toKey(way: 1 | -1) {
    const on = Math.round(transport.shows)
    const at = tracks().flatMap((t) => t.keys.map((k) => Math.max(0, Math.min(doc.draft!.frames - 1, Math.round(k.at))))).filter((n) => (n - on) * way > 0)
    if (!at.length) return
    const to = way > 0 ? Math.min(...at) : Math.max(...at)
    transport.seekTo(to)
    if (selection.layers.length) motion.picked = own().flatMap((t) => t.keys.filter((k) => Math.round(k.at) === to).map((k) => keyPath(t.path, k.id)))
  }
  /** A key at the playhead on all that moves of the selection, or else on its places. */
  function keyHere() {
    const paths = own().map((t) => t.path)
    return does(paths.length ? { kind: 'key', paths, layers: [] } : { kind: 'key', path: 'place' })
  }
  /** Picked keys go on or back; a burst of keys is one change. */
  function moveKeys(by: number) {
    const like = act({ kind: 'retime', keys: motion.picked, layers: [] })
    const before = (transient.wished(like) as Act | null)?.frames ?? 0
    transient.soon({ ...like, frames: before + by })
  }
  /** The time of what is selected: of keys, or of layers. */
  function lookTime() {
    const s = motion.span ?? (chosen.value.length ? { from: Math.min(...chosen.value.map((y) => y.from)), to: Math.max(...chosen.value.map((y) => y.until)) } : null)
    if (transport.window || !s) return void (transport.window = null)
    const room = Math.max(2, (s.to - s.from) * 0.1)
    const [from, to] = [Math.max(0, s.from - room), Math.min(doc.draft!.frames, s.to + 1 + room)]
    if (to - from < doc.draft!.frames) transport.window = { from, to: Math.max(to, from + 6) }
  }

  /** The layer that cuts the selected one, alone, as what it cuts by: its alpha or its luma; or the picture again. */
  function lookAtMatte() {
    const y = lines.value.get(selection.layer)
    const of = layer.view?.properties.find((p) => p.name === 'matte.of')?.text
    if (selection.ground && selection.alone.length) {
      selection.ground = ''
      selection.alone = []
      return transient.hide()
    }
    if (!y?.matte) return
    selection.alone = [y.matte]
    selection.ground = of === 'luma' ? 'luma' : 'alpha'
    if (lines.value.get(y.matte)?.hidden) transient.show(act({ kind: 'rest', path: `layers/${y.matte}/hidden`, value: false, layers: [] }))
  }
  function alone() {
    selection.alone = selection.alone.length ? [] : [...selection.layers]
  }

  /** The same by keys. */
  function useKeys() {
    const some = withChosen
    // Arrows are for picked keys, where there are any, and for the time after a press on its controls.
    const way = (x: number, y: number) => {
      const go = withChosen((e) => nudge(x, y, e.shiftKey))
      return (e: KeyboardEvent) => (x && (motion.picked.length || (e.target instanceof Element && e.target.closest('[data-time]'))) ? pass : go(e))
    }
    const ownKeys = () => motion.pick(own().flatMap((t) => t.keys.map((k) => keyPath(t.path, k.id))))
    const swatch = (id: string) => () => take(tray.find((s) => s.id === id)!)
    useCommands(
      {
        'nudge-left': way(-1, 0),
        'nudge-right': way(1, 0),
        'nudge-up': way(0, -1),
        'nudge-down': way(0, 1),
        'all-layers': () => (motion.picked.length ? ownKeys() : (selection.layers = (doc.draft?.layers ?? []).filter((y) => meant(y.id) === y.id && !locked(y.id)).map((y) => y.id))),
        discard: some(discard),
        duplicate: some(() => does({ kind: 'duplicate' })),
        group: some(() => does({ kind: 'group' })),
        ungroup: some(() => does({ kind: 'ungroup' })),
        'make-motif': some(() => does({ kind: chosen.value.every((y) => y.motif) ? 'unmotif' : 'motif' })),
        raise: some(() => does({ kind: 'stack', way: 'up' })),
        lower: some(() => does({ kind: 'stack', way: 'down' })),
        'to-top': some(() => does({ kind: 'stack', way: 'top' })),
        'to-bottom': some(() => does({ kind: 'stack', way: 'bottom' })),
        hide: some(() => mark('hidden')),
        lock: some(() => mark('locked')),
        alone: () => (selection.alone.length || selection.layers.length ? alone() : pass),
        copy: some(copy),
        cut: some(cut),
        paste: () => paste(),
        'paste-look': some(() => dress('look')),
        'paste-masks': some(() => dress('masks')),
        'paste-motion': some(() => dress('motion')),
        rename: some(() => (tool.naming = selection.layer)),
        sew: swatch('pocket'),
        panel: swatch('rectangle'),
        round: swatch('ellipse'),
        words: swatch('words'),
        'back-words': () => does({ kind: 'back' }),
        'tidy-words': () => does({ kind: 'tidy' }),
        pen: () => draw(),
        'edit-path': () => (tool.path ? void (tool.path = '') : editPath()),
        'make-pocket': some(() => does({ kind: chosen.value.every((y) => y.kind === 'view') ? 'unpick' : 'sew' })),
        ...Object.fromEntries(called('align-').map((way) => [`align-${way}`, some(() => does({ kind: 'align', way }))])),
        'spread-across': some(() => does({ kind: 'spread', way: 'across' })),
        'spread-down': some(() => does({ kind: 'spread', way: 'down' })),
        'merge-cells': some(() => does({ kind: 'merge' })),
        uncell: some(() => does({ kind: 'uncell' })),
        'in-shares': some(() => does({ kind: 'unit', way: 'share' })),
        'in-px': some(() => does({ kind: 'unit', way: 'px' })),
        'empty-pockets': () => does({ kind: 'empty' }),
        'put-back': () => does({ kind: 'unempty' }),
        'trim-in': some(() => does({ kind: 'trim', way: 'in' })),
        'trim-out': some(() => does({ kind: 'trim', way: 'out' })),
        'slide-in': some(() => does({ kind: 'slide', way: 'in' })),
        'slide-out': some(() => does({ kind: 'slide', way: 'out' })),
        part: some(() => does({ kind: 'part' })),
        'record-keys': () => (motion.recording = !motion.recording),
        'key-here': some(keyHere),
        'open-tracks': some(() => {
          const on = !chosen.value.every((y) => motion.isOpen(y.id))
          for (const y of chosen.value) motion.open(y.id, on)
        }),
        curves: () => (motion.curves = !motion.curves),
        'next-key': () => toKey(1),
        'last-key': () => toKey(-1),
        'keys-back': (e: KeyboardEvent) => (motion.picked.length ? moveKeys(e.shiftKey ? -10 : -1) : pass),
        'keys-on': (e: KeyboardEvent) => (motion.picked.length ? moveKeys(e.shiftKey ? 10 : 1) : pass),
        'all-keys': ownKeys,
        'reverse-keys': () => (motion.picked.length > 1 ? does({ kind: 'reverse', keys: motion.picked, layers: [] }) : pass),
        'hold-keys': () => (motion.picked.length ? does({ kind: 'ease', way: motion.chosen.every((k) => k.key.hold) ? 'linear' : 'hold', keys: motion.picked, layers: [] }) : pass),
        'look-time': lookTime,
        'add-cue': () => does({ kind: 'cue' }),
        'copy-format': () => does({ kind: 'format-copy', id: selection.format }),
        'join-format': () => does({ kind: 'join' }),
        ...Object.fromEntries(called('tray-').map((id) => [`tray-${id}`, swatch(id)])),
        ...Object.fromEntries(called('recipe-').map((way) => [`recipe-${way}`, () => does({ kind: 'recipe', way })])),
        beside: () => (tool.beside = !tool.beside),
        apart: () => (selection.apart = !selection.apart),
      },
      () => !!doc.draft && !selection.framing,
    )
    // Escape gives up what is in hand, then leaves a group, then the selection, then lets go of the picture.
    useCommands(
      {
        leave: () => {
          if (tool.swatch) tool.swatch = null
          else if (tool.pen) tool.pen = null
          else if (tool.masking) tool.masking = null
          else if (tool.path) tool.path = ''
          else if (tool.mask) tool.mask = ''
          else if (tool.pointing) tool.pointing = null
          else if (selection.framing || transient.op) return pass
          else if (motion.picked.length) motion.picked = []
          else if (tool.inside) {
            const was = tool.inside
            tool.inside = around(was)[0] ?? ''
            selection.layers = [was]
          } else if (selection.layers.length) selection.layers = []
          else if (sheet.pin) sheet.letGo()
          else return pass
        },
      },
      () => !!doc.draft,
    )
  }
  return { copy, cut, paste, dress, alone, lookAtMatte, lines, chosen, motif, around, meant, locked, act, does, point, nudge, points, masked, mark, take, put, draw, useKeys }
}
