import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import { api, ask, type Failure, type PieceItem } from '../api/client'
import { useDocument } from './document'
import { useList, type Done } from './list'
import { useNews } from './news/news'
import { useNotices } from './notices'

/** All pieces, and those that were deleted and can be brought back. */
export const usePieces = defineStore('pieces', () => {
  const all = shallowRef<PieceItem[]>([])
  const deleted = shallowRef<PieceItem[]>([])
  const done = shallowRef<Done | null>(null)
  /** Whether somebody looks, so that news are followed. */
  const watched = ref(false)
  const doc = useDocument()

  const { loaded, failure, load, attempt } = useList(async () => {
    const [a, d] = await Promise.all([ask(api.GET('/api/pieces', { params: { query: {} } })), ask(api.GET('/api/pieces', { params: { query: { deleted: true } } }))])
    all.value = a
    deleted.value = d
  })

  const told = (n: PieceItem[]) => (n.length === 1 ? `“${n[0]!.name}”` : `${n.length} pieces`)

  function remove(items: PieceItem[]) {
    return attempt(async () => {
      const { ids } = await ask(api.POST('/api/pieces/delete', { body: { ids: items.map((p) => p.id) } }))
      const gone = items.filter((p) => ids.includes(p.id))
      if (gone.length) done.value = { text: `Deleted ${told(gone)}.`, undo: () => back(ids) }
    })
  }
  function back(ids: string[]) {
    return attempt(async () => {
      await ask(api.POST('/api/pieces/delete', { body: { ids, back: true } }))
      done.value = null
    })
  }
  /** Makes a piece that stands as another one does; returns its id, '' when that went wrong. */
  async function duplicate(item: PieceItem) {
    let made = ''
    await attempt(async () => {
      const p = await ask(api.POST('/api/pieces/{id}/duplicate', { params: { path: { id: item.id } } }))
      made = p.id
      done.value = { text: `“${p.name}” stands as “${item.name}” does.`, undo: () => attempt(async () => {
        await ask(api.POST('/api/pieces/delete', { body: { ids: [p.id] } }))
        done.value = null
      }) }
    })
    return made
  }
  /** Makes a piece like another one, with nothing in its pockets yet; returns its id, '' when that went wrong. */
  async function next(id: string): Promise<string> {
    try {
      return (await ask(api.POST('/api/pieces/{id}/duplicate', { params: { path: { id }, query: { next: true } } }))).id
    } catch (e) {
      useNotices().say('error', (e as Failure).message)
      return ''
    }
  }
  /** A name is a change of the piece like any other, and undone there. */
  async function rename(item: PieceItem, name: string) {
    await doc.change({ kind: 'name', name }, { kind: 'piece', id: item.id }, item.revision)
    await load()
  }

  /** Moves pieces to the newest releases of their templates, as one change. */
  function move(items: PieceItem[]) {
    return attempt(async () => {
      const s = await ask(api.POST('/api/pieces/move', { body: { ids: items.map((p) => p.id) } }))
      if (s.left.length) failure.value = s.left.join(' ')
      if (s.pieces) done.value = { text: `Moved ${s.pieces === 1 ? told(items.slice(0, 1)) : `${s.pieces} pieces`} to the newest release.`, undo: () => attempt(async () => {
        await ask(api.POST('/api/strokes/{id}/undo', { params: { path: { id: s.stroke } } }))
        done.value = null
      }) }
    })
  }

  useNews().listen((n) => {
    if (!watched.value) return
    if (n.type === 'shelf' || n.type === 'piece' || n.type === 'lost' || (n.type === 'render' && n.state === 'done')) void load()
  })
  return { all, deleted, done, watched, loaded, failure, load, remove, back, duplicate, next, rename, move }
})
