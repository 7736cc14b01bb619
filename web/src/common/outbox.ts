import type { Op } from '../api/client'
import type { Home } from './subjects'

/** A change as it was asked for. Its id is made here, so that the server makes it once however often it is sent. */
export interface Asked {
  id: string
  home: Home
  base: number
  op: Op
}
interface Noted extends Asked {
  /** When it was asked for, in ms since 1970, and the how manieth it was in its window. */
  at: number
  nth: number
}

const NAME = 'ivy-change '
/** So long a change waits for its document to be opened again, in ms. */
const KEPT = 7 * 24 * 3600 * 1000
let nth = 0
/** While the page is being left its requests fail, and what they were to bring is still to be sent. */
let leaving = false
window.addEventListener('pagehide', () => (leaving = true))
window.addEventListener('pageshow', () => (leaving = false))

/**
 * Changes that were asked for and that the server has not answered. They outlive the page: what was on its way when it was read anew or
 * closed is sent when the document is opened next.
 */
export const outbox = {
  put(a: Asked) {
    try {
      localStorage.setItem(NAME + a.id, JSON.stringify({ ...a, at: Date.now(), nth: nth++ } satisfies Noted))
    } catch {
      // There is no room: it is still on its way.
    }
  },
  drop(id: string) {
    if (!leaving) localStorage.removeItem(NAME + id)
  },
  /** What waits for a document, in the order in which it was asked for. */
  of(h: Home): Asked[] {
    const all: Noted[] = []
    for (const name of Object.keys(localStorage).filter((n) => n.startsWith(NAME))) {
      const a = JSON.parse(localStorage.getItem(name) ?? 'null') as Noted | null
      if (!a || Date.now() - a.at > KEPT) localStorage.removeItem(name)
      else if (a.home.kind === h.kind && a.home.id === h.id) all.push(a)
    }
    return all.sort((a, b) => a.at - b.at || a.nth - b.nth)
  },
}
