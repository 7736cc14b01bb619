import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import type { Framing, Medium, Play, Pocket, Stand } from '../api/client'
import { useDocument } from './document'
import { useNews } from './news/news'
import { useNotices } from './notices'
import { useSelection } from './selection'

const kindWords: Record<string, string> = { footage: 'clips', picture: 'pictures', sound: 'sound' }

/** Whether a pocket takes media of a kind. */
export function takesKind(p: Pocket, kind: string): boolean {
  return p.kinds.includes(kind) || (kind === 'picture' && p.kinds.includes('logo'))
}
/** Why it does not. */
export const refusal = (p: Pocket, kind: string) => `The pocket ${p.name} takes no ${kindWords[kind] ?? kind}.`

/** The open document's pockets: what is in them, how it is framed, where they stand. */
export const usePockets = defineStore('pockets', () => {
  const doc = useDocument()
  const selection = useSelection()
  /** Rises when frames of the same document may look otherwise than before. */
  const epoch = ref(0)
  /** The pocket that media is being chosen for from the store. */
  const picking = ref('')

  /** Those that may be filled: at the desk, those that the sheet asks for. */
  const list = computed<Pocket[]>(() => doc.face?.pockets.filter((p) => p.offered) ?? [])
  const stands = computed<Stand[]>(() => doc.face?.stands[selection.format] ?? [])
  const pocket = computed<Pocket | undefined>(() => list.value.find((p) => p.id === selection.pocket))
  const stand = computed<Stand | undefined>(() => stands.value.find((s) => s.pocket === selection.pocket))

  /** Whether a part of a pocket's framing is the editor's to change, one of fit, focus, pan, zoom, turn, flip, play. */
  const may = (p: Pocket, part: string): boolean => doc.piece?.sheet.flatMap((g) => g.entries).find((e) => e.pocket === p.id)?.framing.includes(part) ?? true

  const medium = (p: Pocket): Medium | undefined => doc.face?.media[p.media]
  const name = (id: string) => doc.face?.pockets.find((p) => p.id === id)?.name ?? id

  /** Puts media of the store into a pocket; none is its stand-in. */
  async function use(id: string, m: Medium | null): Promise<boolean> {
    const p = list.value.find((x) => x.id === id)
    if (!p) return false
    if (m && !takesKind(p, m.kind)) {
      useNotices().say('error', refusal(p, m.kind))
      return false
    }
    return doc.change({ kind: 'fill', pocket: id, media: m?.hash ?? '' })
  }
  function frame(id: string, framing: Framing | undefined, thisFormatOnly: boolean): Promise<boolean> {
    return doc.change({ kind: 'frame', pocket: id, framing, format: thisFormatOnly ? selection.format : undefined })
  }
  function play(id: string, p: Play | undefined): Promise<boolean> {
    return doc.change({ kind: 'play', pocket: id, play: p })
  }

  let growing: ReturnType<typeof setTimeout> | undefined
  useNews().listen((n) => {
    const v = doc.view
    const m = n.type === 'media' && n.id ? v?.media[n.id] : undefined
    if (!v || !m) return
    if (n.state === 'counted') epoch.value++
    if (n.state) {
      clearTimeout(growing)
      growing = setTimeout(() => doc.home && void doc.load(doc.home), 50)
    } else doc.amend({ ...v, media: { ...v.media, [n.id!]: { ...m, proxyDone: Math.min(n.done ?? 0, m.frames - 1) } } })
  })

  return { may, list, stands, pocket, stand, epoch, picking, medium, name, use, frame, play }
})
