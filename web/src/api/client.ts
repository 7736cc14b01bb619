import createClient from 'openapi-fetch'

import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Shelf = Schemas['ShelfItem']
export type PieceItem = Schemas['PieceItem']
export type Piece = Schemas['PieceView']
export type Pocket = Schemas['PocketView']
export type Entry = Schemas['EntryView']
/** What an entry says: a number, text, on or off, or the two numbers of a place. */
export type EntryValue = number | string | boolean | number[]
/** A tie, as the document has it. */
export interface Tie { to: string; of?: string; from?: [number, number]; into?: [number, number]; ease?: number[]; stops?: { at: EntryValue; value: unknown; ease?: number[] }[] }
export type GuideSet = Schemas['GuideSet']
export type GuideMark = Schemas['Mark']
export type Formed = Schemas['FormedView']
export type Words = Schemas['WordsView']
export type Face = Schemas['FaceView']
export type LedgerRow = Schemas['LedgerRow']
export type Shade = Schemas['ShadeView']
export type TrackLine = Schemas['TrackLine']
export type PerformanceLine = Schemas['PerformanceLine']
export type SavedMove = Schemas['SavedMoveView']
export type Part = Schemas['PartView']
export type KeyLine = Schemas['KeyLine']
export type Asked = Schemas['Number']
export type ReadyMove = Schemas['Move']
export type Curve = Schemas['CurveView']
export type LayerLine = Schemas['LayerLine']
export type Layer = Schemas['LayerView']
export type Property = Schemas['PropertyView']
export type Medium = Schemas['MediumView']
export type Stand = Schemas['Stand']
export type Stored = Schemas['StoredView']
export type Stroke = Schemas['StrokeView']
export type Play = Schemas['PlayView']
export type Framing = Schemas['Framing']
export type Outline = Schemas['Outline']
export type Seen = Schemas['Seen']
export type Numbered = Schemas['SequenceView']
export type Frames = Schemas['FramesView']
/** A change of a document: a piece's is one of the first, a draft's one of the second. */
export type Op = Schemas['OpBody'] | Act
export type Move = components['schemas']['MoveView']
export type Comparison = components['schemas']['CompareView']
export type Looks = Pick<Move, 'formats' | 'cues'>
export type Act = Schemas['ActBody']
export type Draft = Schemas['DraftView']
export type DraftItem = Schemas['DraftItem']
export type BenchFormat = Schemas['BenchFormat']
/** A line on the canvas that something was drawn to while it was dragged. */
export interface Guide {
  axis: 'x' | 'y'
  at: number
  from: number
  to: number
  what: string
  gap?: boolean
}
export type Recipe = Schemas['Recipe']
export type Past = Schemas['PastView']
export type Start = Schemas['Start']
export type Done = Schemas['DoneView']
export type KeptList = Schemas['ListView']
export type Fit = Schemas['FitView']
export type Session = Schemas['SessionView']
export type Code = Schemas['CodeView']
export type Deed = Schemas['DeedView']
export type Trial = Schemas['TrialView']
export type Finding = Schemas['FindingView']
export type Render = Schemas['RenderView']
export type Health = Schemas['HealthView']
export type Freed = Schemas['FreedView']
export type Format = Schemas['FormatView']
export type Cue = Schemas['CueView']

function kept(storage: Storage, key: string): string {
  const known = storage.getItem(key)
  if (known) return known
  const made = crypto.randomUUID()
  storage.setItem(key, made)
  return made
}

/** Whose undo this is: one person at one browser. */
export const author = kept(localStorage, 'ivy-author')
/** This window; it leaves out the news of its own changes. */
export const windowId = crypto.randomUUID()

/** What to do when the server says that nobody is in: the promise is kept when somebody is. */
let letIn: (() => Promise<void>) | undefined
export function whenOut(f: () => Promise<void>) {
  letIn = f
}

/** Is kept when somebody is in. */
export const whenIn = () => letIn?.() ?? Promise.resolve()

/**
 * Fetches, and when the server asks for a code first, waits until it was shown and asks again, so that nothing that was
 * done is lost.
 */
export async function fetchIn(input: Request): Promise<Response> {
  for (;;) {
    const r = await fetch(input.clone())
    if (r.status !== 401 || !letIn || new URL(input.url).pathname === '/api/session') return r
    await letIn()
  }
}

export const api = createClient<paths>({
  baseUrl: '/',
  fetch: fetchIn,
  headers: { 'Ivy-Author': author, 'Ivy-Window': windowId },
})

/** The value of an entry at which the open draft is held, as the server is told of it. */
let held: { entry: string; at: EntryValue } | undefined
export function holdAt(entry: string, value: EntryValue | undefined) {
  held = value === undefined ? undefined : { entry, at: value }
}
/** What a change of the open draft is an example of. */
export const heldAt = () => held
/** The length in frames at which the open draft is tried; 0 is its own. */
let length = 0
export function holdLength(frames: number) {
  length = frames
}
const pinned = (): Record<string, string> => ({ ...(held ? { 'Ivy-Pin': `${held.entry}=${JSON.stringify(held.at)}` } : {}), ...(length ? { 'Ivy-Length': String(length) } : {}) })
api.use({
  onRequest({ request }) {
    for (const [name, v] of Object.entries(pinned())) request.headers.set(name, v)
    return request
  },
})

const NO_ANSWER = 'The server does not answer. What you did before is safe; try again in a moment.'

/** How often a picture is asked for that the server was too busy to draw. */
const PICTURE_TRIES = 5

/**
 * Fetches a picture in this window's name, so that others' wishes don't come before it. A server that has too many to
 * draw says when to ask again; one that was overtaken by a newer wish is not asked for again.
 */
export async function fetchPicture(url: string, init: RequestInit & { headers?: Record<string, string> } = {}): Promise<Response> {
  for (let n = 1; ; n++) {
    const r = await fetchIn(new Request(url, { ...init, headers: { 'Ivy-Author': author, 'Ivy-Window': windowId, ...pinned(), ...init.headers } })).catch((e: Error) => {
      throw e.name === 'AbortError' ? e : new Failure(0, NO_ANSWER)
    })
    const after = Number(r.headers.get('Retry-After') ?? 0)
    if (r.status !== 503 || !after || n === PICTURE_TRIES) return r
    await new Promise((ok) => setTimeout(ok, after * 1000))
  }
}

/** An answer that says what went wrong. */
export class Failure extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message)
  }
}

/** Unwraps an answer, or throws a Failure with the server's words. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got
  try {
    got = await call
  } catch {
    throw new Failure(0, NO_ANSWER)
  }
  if (!got.response.ok) throw new Failure(got.response.status, detail(got.error, got.response.status))
  return got.data as T
}

export function detail(error: unknown, status: number): string {
  const e = error as { detail?: string; errors?: { message?: string; location?: string }[] } | undefined
  const more = (e?.errors ?? []).map((x) => [x.location, x.message].filter(Boolean).join(': '))
  return [e?.detail ?? `The server answered ${status}.`, ...more].join(' ')
}
