import { api, ask, type Cue, type Format, type Frames, type Layer, type LayerLine, type Op, type Piece, type Seen, type Stand } from '../api/client'

/** What stands in the table below: the documents that a stage can show. */
export type Kind = keyof typeof subjects

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
  /** How long it may be made, where that is not the designer's to say: between two lengths, else its own. */
  stretch: { shortest: number; longest: number; own: number } | null
  formats: Format[]
  cues: Cue[]
  layers: LayerLine[]
  pockets: { id: string; name: string }[]
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
  /** Makes a change; `joined` tells what others changed of the same thing meanwhile. */
  change: (id: string, body: { id: string; base: number; op: Op }) => Promise<{ view: View; joined: string }>
  back: (id: string, verb: 'undo' | 'redo', body: { id: string }) => Promise<{ view: View; title: string }>
  layer: (id: string, layer: string, format: string, frame: number) => Promise<Layer>
  frames: (id: string, format: string, size: Size, from: number, count: number) => Promise<Frames>
  /** Where layers are seen on a frame that mattes cut. */
  seen: (id: string, format: string, frame: number) => Promise<Seen[]>
  /** Where a picture is asked for of a change that is not made. */
  preview: (id: string) => string
  face: (view: View) => Face
}

const piece: Subject<Piece> = {
  load: (id) => ask(api.GET('/api/pieces/{id}', { params: { path: { id } } })),
  change: async (id, body) => {
    const d = await ask(api.POST('/api/pieces/{id}/operations', { params: { path: { id } }, body }))
    return { view: d.piece, joined: d.joined }
  },
  back: async (id, verb, body) => {
    const params = { path: { id } }
    const d = await ask(verb === 'undo' ? api.POST('/api/pieces/{id}/undo', { params, body }) : api.POST('/api/pieces/{id}/redo', { params, body }))
    return { view: d.piece, title: d.title }
  },
  layer: (id, layer, format, frame) => ask(api.GET('/api/pieces/{id}/layers/{layer}', { params: { path: { id, layer }, query: { format, frame } } })),
  frames: (id, format, size, from, count) => ask(api.GET('/api/pieces/{id}/frames', { params: { path: { id }, query: { format, width: size.w, height: size.h, from, count } } })),
  seen: (id, format, frame) => ask(api.GET('/api/pieces/{id}/seen', { params: { path: { id }, query: { format, frame } } })),
  preview: (id) => `/api/pieces/${id}/preview`,
  face: (p) => ({
    kind: 'piece', id: p.id, revision: p.revision, name: p.name, frames: p.frames, rate: p.template.rate, rateN: p.rateN, rateD: p.rateD, dropFrame: p.dropFrame,
    stretch: { shortest: p.shortest, longest: p.longest, own: p.own }, formats: p.template.formats, cues: p.cues, layers: p.layers, pockets: p.pockets, stands: p.stands, faults: p.faults, undo: p.undo, redo: p.redo,
  }),
}

/** The kinds of documents. Stage, frames, layers, time and the keys know no others' names. */
export const subjects = { piece } as const

/** What is shown of a document of any kind. */
export type View = Awaited<ReturnType<(typeof subjects)[Kind]['load']>>
