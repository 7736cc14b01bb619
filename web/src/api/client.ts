import createClient from 'openapi-fetch'

import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Shelf = Schemas['ShelfItem']
export type Piece = Schemas['PieceView']
export type Pocket = Schemas['PocketView']
export type Entry = Schemas['EntryView']
export type Medium = Schemas['MediumView']
export type Stand = Schemas['Stand']
export type Framing = Schemas['Framing']
export type Outline = Schemas['Outline']
export type Frames = Schemas['FramesView']
export type Op = Schemas['OpBody']
export type Done = Schemas['DoneView']
export type Trial = Schemas['TrialView']
export type Finding = Schemas['FindingView']
export type Render = Schemas['RenderView']
export type Format = Schemas['FormatView']

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

export const api = createClient<paths>({
  baseUrl: '/',
  headers: { 'Ivy-Author': author, 'Ivy-Window': windowId },
})

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
    throw new Failure(0, 'The server does not answer. What you did before is safe; try again in a moment.')
  }
  if (!got.response.ok) throw new Failure(got.response.status, detail(got.error, got.response.status))
  return got.data as T
}

export function detail(error: unknown, status: number): string {
  const e = error as { detail?: string; errors?: { message?: string; location?: string }[] } | undefined
  const more = (e?.errors ?? []).map((x) => [x.location, x.message].filter(Boolean).join(': '))
  return [e?.detail ?? `The server answered ${status}.`, ...more].join(' ')
}

/** Uploads one file and tells how far it is, from 0 to 1. */
export function upload(file: File, progress: (share: number) => void, signal?: AbortSignal): Promise<Medium> {
  return new Promise((resolve, reject) => {
    const x = new XMLHttpRequest()
    x.open('POST', `/api/media?name=${encodeURIComponent(file.name)}`)
    x.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total)
    x.onerror = () => reject(new Failure(0, 'The upload broke off. Nothing was changed; try again.'))
    x.onabort = () => reject(new Failure(0, 'The upload was cancelled.'))
    x.onload = () => {
      let body: unknown
      try {
        body = JSON.parse(x.responseText)
      } catch {
        body = undefined
      }
      if (x.status === 200) resolve(body as Medium)
      else reject(new Failure(x.status, detail(body, x.status)))
    }
    signal?.addEventListener('abort', () => x.abort())
    x.send(file)
  })
}
