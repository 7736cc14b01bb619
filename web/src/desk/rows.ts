import { defineStore } from 'pinia'
import { ref } from 'vue'

import { api, ask, detail, Failure, fetchIn, type KeptList } from '../api/client'
import { useDocument } from '../common/document'
import type { Done } from '../common/list'
import { useNews } from '../common/news/news'

/** A list as it is sent: names for data, and a text for each cell. */
interface Plain {
  columns: string[]
  rows: { id: string; name: string; cells: string[]; leaves: string[] }[]
}

const plainOf = (l: KeptList): Plain => ({ columns: l.columns.map((c) => c.data), rows: l.rows.map((r) => ({ id: r.id, name: r.name, cells: r.cells.map((c) => c.text), leaves: [...r.leaves] })) })

/** The list that is kept with the template of the open piece. */
export const useRows = defineStore('rows', () => {
  const doc = useDocument()
  const list = ref<KeptList | null>(null)
  const failure = ref('')
  /** What was done last with several cells at once, and how to take it back. */
  const done = ref<Done | null>(null)
  let of = ''
  const at = () => ({ path: { id: of } })

  async function attempt(f: () => Promise<KeptList>): Promise<boolean> {
    failure.value = ''
    const template = of
    try {
      const l = await f()
      if (template === of) list.value = l
      return true
    } catch (e) {
      failure.value = (e as Failure).message
      // Somebody else changed it: what they did is shown, and what was done here is said to be repeated.
      if ((e as Failure).status === 409) list.value = await ask(api.GET('/api/templates/{id}/list', { params: at() })).catch(() => list.value)
      return false
    }
  }
  async function open(template: string) {
    if (of !== template) [of, list.value, done.value] = [template, null, null]
    await attempt(() => ask(api.GET('/api/templates/{id}/list', { params: at() })))
  }
  const put = (p: Plain) => attempt(() => ask(api.PUT('/api/templates/{id}/list', { params: at(), body: { revision: list.value!.revision, ...p } })))
  async function back(to: Plain) {
    if (await put(to)) done.value = null
  }
  /** Changes the list; `text` tells what was done where it is worth taking back as one. */
  async function change(f: (p: Plain) => void, text = '') {
    const before = plainOf(list.value!)
    const next = plainOf(list.value!)
    f(next)
    if (!(await put(next))) return
    done.value = text ? { text, undo: () => back(before) } : null
  }
  async function keep(name: string) {
    await attempt(() => ask(api.POST('/api/pieces/{id}/keep', { params: { path: { id: doc.piece!.id } }, body: { revision: list.value!.revision, name } })))
  }
  async function read(file: File, after: boolean) {
    const before = plainOf(list.value!)
    const ok = await attempt(async () => {
      const r = await fetchIn(new Request(`/api/templates/${of}/list.csv?revision=${list.value!.revision}&after=${after}`, { method: 'POST', headers: { 'Content-Type': 'text/csv' }, body: file }))
      const body = (await r.json()) as KeptList
      if (!r.ok) throw new Failure(r.status, `${file.name}: ${detail(body, r.status)}`)
      return body
    })
    if (!ok) return
    const foreign = list.value!.columns.filter((c) => !c.kind && !before.columns.includes(c.data)).map((c) => c.label)
    const aside = foreign.length ? ` ${foreign.length === 1 ? `The column ${foreign[0]} is` : `The columns ${foreign.join(', ')} are`} for nothing that the sheet asks for.` : ''
    done.value = { text: `${file.name} was read, ${list.value!.rows.length} rows now.${aside}`, undo: () => back(before) }
  }
  /** What filling the open piece from a row would do. */
  const look = (row: string) => ask(api.GET('/api/pieces/{id}/row', { params: { path: { id: doc.piece!.id }, query: { row } } })).then((l) => l.changes)
  /** Fills the open piece from a row. */
  async function fill(row: string): Promise<boolean> {
    const id = crypto.randomUUID()
    return doc.carry(async (h, base) => (await ask(api.POST('/api/pieces/{id}/row', { params: { path: { id: h.id } }, body: { id, base, row } }))).piece)
  }
  useNews().listen((n) => {
    if (of && list.value && (n.type === 'lost' || (n.type === 'list' && n.id === of && n.revision !== list.value.revision))) void open(of)
  })
  return { list, failure, done, open, change, keep, read, look, fill, csv: () => `/api/templates/${of}/list.csv` }
})
