import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import { api, ask, author, detail, Failure, type Draft, type DraftItem, type Start } from '../api/client'
import { useDocument } from '../common/document'
import { useList, type Done } from '../common/list'
import { useNews } from '../common/news/news'

/** All drafts, and those that were deleted and can be brought back. */
export const useDrafts = defineStore('drafts', () => {
  const all = shallowRef<DraftItem[]>([])
  const deleted = shallowRef<DraftItem[]>([])
  const done = shallowRef<Done | null>(null)
  const watched = ref(false)
  const doc = useDocument()

  const { loaded, failure, load, attempt } = useList(async () => {
    const [a, d] = await Promise.all([ask(api.GET('/api/drafts', { params: { query: {} } })), ask(api.GET('/api/drafts', { params: { query: { deleted: true } } }))])
    all.value = a
    deleted.value = d
  })

  function remove(items: DraftItem[]) {
    return attempt(async () => {
      const { ids } = await ask(api.POST('/api/drafts/delete', { body: { ids: items.map((d) => d.id) } }))
      const gone = items.filter((d) => ids.includes(d.id))
      if (gone.length) done.value = { text: `Deleted ${gone.length === 1 ? `“${gone[0]!.name}”` : `${gone.length} drafts`}.`, undo: () => back(ids) }
    })
  }
  function back(ids: string[]) {
    return attempt(async () => {
      await ask(api.POST('/api/drafts/delete', { body: { ids, back: true } }))
      done.value = null
    })
  }
  /** Begins a draft, and opens it; its id, '' when that went wrong. */
  async function begin(from: { start?: Start; template?: string; draft?: string }): Promise<string> {
    let made = ''
    await attempt(async () => {
      const d = await ask(api.POST('/api/drafts', { body: from }))
      doc.take('draft', d)
      made = d.id
    })
    return made
  }
  /** The draft of a template that was changed last, else one that is begun now; its id, '' when that went wrong. */
  async function ofTemplate(template: string): Promise<string> {
    await load()
    return all.value.find((d) => d.from === template)?.id ?? begin({ template })
  }
  /** Makes a draft of a document file. */
  async function drop(file: File): Promise<string> {
    let made = ''
    await attempt(async () => {
      const r = await fetch('/api/drafts/document', { method: 'POST', headers: { 'Content-Type': 'application/json', 'Ivy-Author': author }, body: file }).catch(() => {
        throw new Failure(0, 'The server does not answer. Nothing was lost; try again in a moment.')
      })
      const body = await r.json().catch(() => undefined)
      if (!r.ok) throw new Failure(r.status, `${file.name}: ${detail(body, r.status)}`)
      doc.take('draft', body as Draft)
      made = (body as Draft).id
    })
    return made
  }
  /** Says what a draft is called and filed under. */
  async function file(item: DraftItem, as: Pick<DraftItem, 'name' | 'category' | 'family'>) {
    const ops = (['name', 'category', 'family'] as const).filter((path) => as[path] !== item[path]).map((path) => ({ kind: 'describe', path, name: as[path] }))
    if (ops.length) await doc.change({ kind: 'batch', ops }, { kind: 'draft', id: item.id }, item.revision)
    await load()
  }

  useNews().listen((n) => {
    if (watched.value && (n.type === 'shelf' || n.type === 'draft' || n.type === 'lost')) void load()
  })
  return { all, deleted, done, watched, loaded, failure, load, remove, back, begin, ofTemplate, drop, file }
})
