import type { Act, Failure } from '../api/client'
import { useDocument } from '../common/document'
import { useNotices } from '../common/notices'
import { useSelection } from '../common/selection'
import { bundles } from '../media/choose'
import { useUploads } from '../media/uploads'

/** Files dropped on the table: pictures become layers, clips become pockets with a stand-in, fonts the face of words. */
export function useDropping() {
  const doc = useDocument()
  const selection = useSelection()
  const uploads = useUploads()
  const notices = useNotices()

  /**
   * Lays files on the table, about a point of the canvas or in its middle, each a little further on than the one before.
   * One picture that falls on a picture takes its place, and all that was done to it stays; a font becomes the face of
   * the words that it falls on, or of those that are selected.
   */
  async function lay(files: File[], at: [number, number] | null, on: string[] = []) {
    const of = doc.home
    const draft = doc.draft
    const f = selection.formatView
    if (!of || !draft || !f) return
    const format = selection.format
    let coming
    try {
      coming = (await bundles(files)).map((b) => uploads.add(b, '', `${draft.rateN}/${draft.rateD}`))
    } catch (e) {
      return notices.say('error', (e as Failure).message)
    }
    let n = 0
    for (const c of coming) {
      try {
        const m = await c.medium
        const name = c.arrival.name.replace(/\.[^.]+$/, '')
        const k = m.width && Math.min(1, (f.width * 0.6) / m.width, (f.height * 0.6) / m.height)
        const [w, h] = [m.width * k, m.height * k]
        const mid = [(at?.[0] ?? f.width / 2) + n * 24, (at?.[1] ?? f.height / 2) + n * 24]
        const box = { from: [mid[0]! - w / 2, mid[1]! - h / 2], to: [mid[0]! + w / 2, mid[1]! + h / 2] }
        let act: Act
        const kind = (id: string) => draft.layers.find((y) => y.id === id)?.kind ?? ''
        const picture = on.find((id) => kind(id) === 'picture')
        const words = [...on, selection.layer].find((id) => ['words', 'counter'].includes(kind(id)))
        if (m.kind === 'font' && words) act = { kind: 'rest', path: `layers/${words}/face`, value: m.hash }
        else if (m.kind === 'picture' && picture && coming.length === 1) act = { kind: 'rest', path: `layers/${picture}/media`, value: m.hash }
        else if (m.kind === 'picture') act = { kind: 'insert', way: 'picture', media: m.hash, name, format, ...box }
        else if (m.kind === 'footage') act = { kind: 'sew', name, format, media: m.hash, kinds: ['footage', 'picture'], ...box }
        else {
          notices.say('info', m.kind === 'font' ? `${m.name} is in the store; drop it on words, or choose it in their list of faces.` : `${c.arrival.name} is in the store; there is no place for it on a canvas.`)
          continue
        }
        n++
        if (await doc.change(act, of)) uploads.dismiss(c.arrival.key)
      } catch (e) {
        uploads.refuse(c.arrival.key, (e as Failure).message)
      }
    }
  }
  /** Brings a picture in, and makes it what a pocket shows while it is empty. */
  async function line(files: File[], pocket: string) {
    const of = doc.home
    const draft = doc.draft
    if (!of || !draft || !files.length) return
    try {
      const c = (await bundles(files.slice(0, 1))).map((b) => uploads.add(b, '', `${draft.rateN}/${draft.rateD}`))[0]!
      const m = await c.medium
      if (m.kind !== 'picture') uploads.refuse(c.arrival.key, `${m.name} is in the store; a lining is a picture.`)
      else if (await doc.change({ kind: 'line-pocket', pocket, media: m.hash, name: m.name } as Act, of)) uploads.dismiss(c.arrival.key)
    } catch (e) {
      notices.say('error', (e as Failure).message)
    }
  }
  return { lay, line }
}
