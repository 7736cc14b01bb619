import { api, ask, heldAt, type Act, type Cue, type Draft, type Format, type Frames, type LayerLine, type Medium, type Op, type Part, type Piece, type Pocket, type Seen, type Stand } from '../api/client'
import type { components } from '../api/schema'

type PieceOp = components['schemas']['OpBody']

/** The documents that a stage can show. */
export type Kind = 'piece' | 'draft'

/** A document that a change belongs to, whichever is open. */
export interface Home {
  kind: Kind
  id: string
}

/** What any document has, whatever else it has besides. */
export interface Face extends Home {
  revision: number
  name: string
  frames: number
  rate: string
  rateN: number
  rateD: number
  dropFrame: boolean
  /** How long an editor may make it, where the sheet asks for that; how long a draft may be tried. */
  stretch: { shortest: number; longest: number; own: number } | null
  /** Its time, held and elastic, and where that lies in what is seen. */
  time: Part[]
  formats: Format[]
  cues: Cue[]
  layers: LayerLine[]
  pockets: Pocket[]
  media: Record<string, Medium>
  /** Where pockets stand at rest, by format. */
  stands: Record<string, Stand[]>
  /** Why it can't be drawn as it is. */
  faults: string[]
  /** What would be undone and redone. */
  undo: string
  redo: string
}

export interface Size {
  w: number
  h: number
}

/** How documents of a kind are asked for and changed. */
interface Subject<View> {
  load: (id: string) => Promise<View>
  /** Makes a change; `joined` tells what others changed of the same thing meanwhile, `chosen` what is selected after it. */
  change: (id: string, body: { id: string; base: number; op: Op }) => Promise<{ view: View; joined: string; chosen?: string[] }>
  /** A change as the server takes it. */
  wire: (op: Op) => object
  back: (id: string, verb: 'undo' | 'redo', body: { id: string }) => Promise<{ view: View; title: string }>
  frames: (id: string, format: string, size: Size, from: number, count: number, alone?: string, past?: number) => Promise<Frames>
  /** Where layers are seen on a frame that mattes cut. */
  seen: (id: string, format: string, frame: number) => Promise<Seen[]>
  /** Where pictures of it are asked for. */
  base: (id: string) => string
  face: (view: View) => Face
}

/** How long a piece may be made, where its sheet asks for that. */
function lasts(p: Piece): Face['stretch'] {
  const e = p.sheet.flatMap((g) => g.entries).find((x) => x.kind === 'duration')
  return e ? { shortest: e.min, longest: e.max, own: p.own } : null
}

/** What is small enough to be sent on while its page is being left is; a browser keeps 64 KiB of it in all (Fetch, 4.6). */
const outlives = (body: object) => ({ keepalive: JSON.stringify(body).length < 8000 })

const piece: Subject<Piece> = {
  wire: (op) => op,
  load: (id) => ask(api.GET('/api/pieces/{id}', { params: { path: { id } } })),
  change: async (id, body) => {
    const d = await ask(api.POST('/api/pieces/{id}/operations', { params: { path: { id } }, body: body as { id: string; base: number; op: PieceOp }, ...outlives(body) }))
    return { view: d.piece, joined: d.joined }
  },
  back: async (id, verb, body) => {
    const params = { path: { id } }
    const d = await ask(verb === 'undo' ? api.POST('/api/pieces/{id}/undo', { params, body }) : api.POST('/api/pieces/{id}/redo', { params, body }))
    return { view: d.piece, title: d.title }
  },
  frames: (id, format, size, from, count) => ask(api.GET('/api/pieces/{id}/frames', { params: { path: { id }, query: { format, width: size.w, height: size.h, from, count } } })),
  seen: (id, format, frame) => ask(api.GET('/api/pieces/{id}/seen', { params: { path: { id }, query: { format, frame } } })),
  base: (id) => `/api/pieces/${id}`,
  face: (p) => ({
    kind: 'piece', id: p.id, revision: p.revision, name: p.name, frames: p.frames, rate: p.template.rate, rateN: p.rateN, rateD: p.rateD, dropFrame: p.dropFrame,
    stretch: lasts(p), time: p.time, formats: p.template.formats, cues: p.cues, layers: p.layers, pockets: p.pockets, media: p.media, stands: p.stands, faults: p.faults, undo: p.undo, redo: p.redo,
  }),
}

/** What is said of pieces and of drafts in the same words: a format that is named there is the only one that is meant, unless a designer's act says so itself. */
const shared = new Set(['fill', 'frame', 'play', 'rest'])

const draft: Subject<Draft> = {
  wire: (op) => (shared.has(op.kind) && !('apart' in op) ? { ...op, apart: !!op.format, pin: heldAt() } : op),
  load: (id) => ask(api.GET('/api/drafts/{id}', { params: { path: { id } } })),
  change: async (id, body) => {
    const d = await ask(api.POST('/api/drafts/{id}/operations', { params: { path: { id } }, body: { ...body, op: draft.wire(body.op) as Act }, ...outlives(body) }))
    return { view: d.draft, joined: d.joined, chosen: d.chosen }
  },
  back: async (id, verb, body) => {
    const params = { path: { id } }
    const d = await ask(verb === 'undo' ? api.POST('/api/drafts/{id}/undo', { params, body }) : api.POST('/api/drafts/{id}/redo', { params, body }))
    return { view: d.draft, title: d.title }
  },
  frames: (id, format, size, from, count, alone, past) => ask(api.GET('/api/drafts/{id}/frames', { params: { path: { id }, query: { format, width: size.w, height: size.h, from, count, alone, past } } })),
  seen: (id, format, frame) => ask(api.GET('/api/drafts/{id}/seen', { params: { path: { id }, query: { format, frame } } })),
  base: (id) => `/api/drafts/${id}`,
  face: (d) => ({
    kind: 'draft', id: d.id, revision: d.revision, name: d.name, frames: d.tried || d.frames, rate: d.rate, rateN: d.rateN, rateD: d.rateD, dropFrame: d.dropFrame,
    stretch: { shortest: d.shortest, longest: d.longest, own: d.frames }, time: d.time, formats: d.formats, cues: d.cues, layers: d.layers, pockets: d.pockets, media: d.media, stands: d.stands, faults: d.faults, undo: d.undo, redo: d.redo,
  }),
}

/** The kinds of documents. Stage, frames, layers, time and the keys know no others' names. */
export const subjects: { piece: Subject<Piece>; draft: Subject<Draft> } = { piece, draft }

/** The row of a kind, whichever it is: what it is asked with came from it. */
export const subject = (kind: Kind) => subjects[kind] as Subject<View>

/** What is shown of a document of any kind. */
export type View = Piece | Draft
