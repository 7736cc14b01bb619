import { Failure, type Pocket } from '../api/client'
import { useDocument } from '../common/document'
import { useNotices } from '../common/notices'
import { refusal, takesKind, usePockets } from '../common/pockets'
import { bundles } from './choose'
import { useUploads } from './uploads'

/** Puts files into the open document's pockets. */
export function useFilling() {
  const doc = useDocument()
  const pockets = usePockets()
  const uploads = useUploads()

  /**
   * The first goes into the pocket it was dropped on, further ones into those after it. What is refused says why; the
   * rest goes on. All of it belongs to the document that is open now, even if another one is when the last has come.
   */
  async function fill(first: string, files: File[], folder = false) {
    const of = doc.home
    const face = doc.face
    if (!of || !face) return
    const all: Pocket[] = pockets.list
    let at = all.findIndex((p) => p.id === first)
    let coming
    try {
      const found = await bundles(files, folder)
      coming = found.map((b) => uploads.add(b, first, `${face.rateN}/${face.rateD}`))
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
      return
    }
    for (const c of coming) {
      try {
        const m = await c.medium
        while (coming.length > 1 && all[at] && !takesKind(all[at]!, m.kind)) at++
        const target = all[at]
        if (!target) throw new Failure(422, 'It is in the store now; there is no further pocket that takes it.')
        if (!takesKind(target, m.kind)) throw new Failure(422, `${refusal(target, m.kind)} It is in the store now.`)
        at++
        await doc.change({ kind: 'fill', pocket: target.id, media: m.hash }, of)
        uploads.dismiss(c.arrival.key)
      } catch (e) {
        uploads.refuse(c.arrival.key, (e as Failure).message)
      }
    }
  }
  return { fill }
}
