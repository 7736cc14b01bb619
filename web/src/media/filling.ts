import { Failure, type Op, type Pocket } from '../api/client'
import { useDocument } from '../common/document'
import { useNotices } from '../common/notices'
import { refusal, takesKind, usePockets } from '../common/pockets'
import { bundles } from './choose'
import { useUploads, type Arrival } from './uploads'

/** Puts files into the open document's pockets. */
export function useFilling() {
  const doc = useDocument()
  const pockets = usePockets()
  const uploads = useUploads()

  /**
   * The first goes into the pocket it was dropped on, further ones into the next ones that take their kind, all as one
   * change when the last has come; those for marks and those for other media don't mix. What is refused says why; what
   * finds no place waits in the store. All of it belongs to the document that is open now, even if another one is by then.
   */
  async function fill(first: string, files: File[]) {
    const of = doc.home
    const face = doc.face
    if (!of || !face) return
    const all: Pocket[] = pockets.list
    const from = all.findIndex((p) => p.id === first)
    const forMarks = (p: Pocket) => p.kinds.includes('logo')
    const free = all.slice(from).filter((p) => forMarks(p) === forMarks(all[from]!))
    let coming
    try {
      coming = (await bundles(files)).map((b) => uploads.add(b, first, `${face.rateN}/${face.rateD}`))
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
      return
    }
    const ops: Op[] = []
    const placed: Arrival[] = []
    const told: string[] = []
    const waits: Arrival[] = []
    for (const c of coming) {
      try {
        const m = await c.medium
        const at = free.findIndex((p) => takesKind(p, m.kind))
        if (coming.length === 1 && at !== 0) throw new Failure(422, `${refusal(free[0]!, m.kind)} It is in the store now.`)
        if (at < 0) {
          waits.push(c.arrival)
          continue
        }
        ops.push({ kind: 'fill', pocket: free[at]!.id, media: m.hash, name: c.arrival.name === m.name ? undefined : c.arrival.name })
        free.splice(at, 1)
        placed.push(c.arrival)
        if (m.kind === 'picture' && m.notes?.length) told.push(`${c.arrival.name}: ${m.notes.join(' ')}`)
      } catch (e) {
        uploads.refuse(c.arrival.key, (e as Failure).message)
      }
    }
    if (ops.length && !(await doc.change(ops.length === 1 ? ops[0]! : { kind: 'batch', ops }, of))) return
    // The cards go, and what is to be known of them is told.
    for (const a of [...placed, ...waits]) uploads.dismiss(a.key)
    if (waits.length) told.push(`No further pocket takes ${waits.map((a) => a.name).join(', ')}; ${waits.length === 1 ? 'it waits' : 'they wait'} in the store.`)
    if (told.length) useNotices().say('info', told.join(' '))
  }
  return { fill }
}
