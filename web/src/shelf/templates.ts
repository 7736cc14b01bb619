import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import { api, ask, type Shelf } from '../api/client'
import { useHealth } from '../common/health'
import { useList, type Done } from '../common/list'
import { useNews } from '../common/news/news'

/** Templates on the shelf, and those in the bin. */
export const useTemplates = defineStore('templates', () => {
  const all = shallowRef<Shelf[]>([])
  const binned = shallowRef<Shelf[]>([])
  const done = shallowRef<Done | null>(null)
  const watched = ref(false)
  const health = useHealth()

  const { loaded, failure, load, attempt } = useList(async () => {
    const [a, b] = await Promise.all([ask(api.GET('/api/shelf', { params: { query: {} } })), ask(api.GET('/api/shelf', { params: { query: { deleted: true } } }))])
    all.value = a
    binned.value = b
    void health.load() // what had to be left out is named there
  })

  const shelve = (t: Shelf, as: Pick<Shelf, 'name' | 'category' | 'family'>) => attempt(() => ask(api.PUT('/api/templates/{id}', { params: { path: { id: t.id } }, body: as })))
  const copy = (t: Shelf) =>
    attempt(async () => {
      const made = await ask(api.POST('/api/templates/{id}/copy', { params: { path: { id: t.id } } }))
      done.value = { text: `“${made.name}” is a copy of “${t.name}”.`, undo: () => remove([made.id], '') }
    })
  function remove(ids: string[], name: string) {
    return attempt(async () => {
      await ask(api.POST('/api/templates/delete', { body: { ids } }))
      done.value = name ? { text: `“${name}” is in the bin. Its pieces stay as they are.`, undo: () => back(ids) } : null
    })
  }
  function back(ids: string[]) {
    return attempt(async () => {
      await ask(api.POST('/api/templates/delete', { body: { ids, back: true } }))
      done.value = null
    })
  }

  useNews().listen((n) => {
    if (watched.value && (n.type === 'shelf' || n.type === 'piece' || n.type === 'lost')) void load()
  })
  return { all, binned, done, watched, loaded, failure, load, shelve, copy, remove, back }
})
