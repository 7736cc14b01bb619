import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { api, ask, type Render } from '../api/client'
import { useList } from '../common/list'
import { useNews } from '../common/news/news'

const WAITS = ['queued', 'running', 'paused']

/** Whether a render is to be made, or being made. */
export const open = (r: Render) => WAITS.includes(r.state)

/** The render queue. */
export const useRenders = defineStore('renders', () => {
  const list = ref<Render[]>([])
  const busy = computed(() => list.value.filter((r) => r.state === 'queued' || r.state === 'running').length)
  const atOnce = ref(1)

  const { loaded, failure, load, attempt } = useList(async () => {
    list.value = await ask(api.GET('/api/renders'))
    atOnce.value = (await ask(api.GET('/api/queue'))).atOnce
  })

  const at = (id: string) => ({ params: { path: { id } } })
  const cancel = (id: string) => attempt(() => ask(api.POST('/api/renders/{id}/cancel', at(id))))
  const retry = (id: string) => attempt(() => ask(api.POST('/api/renders/{id}/retry', at(id))))
  const pause = (id: string, paused: boolean) => attempt(() => ask(api.POST('/api/renders/{id}/pause', { ...at(id), body: { paused } })))
  const move = (id: string, to: 'first' | 'up' | 'down') => attempt(() => ask(api.POST('/api/renders/{id}/move', { ...at(id), body: { to } })))
  const setAtOnce = (n: number) => attempt(() => ask(api.POST('/api/queue', { body: { atOnce: n } })))
  /** Clears renders away that have ended, with their files. */
  const clear = (ids: string[]) => attempt(() => ask(api.POST('/api/renders/clear', { body: { ids } })))

  useNews().listen((n) => {
    if (n.type === 'render' || n.type === 'lost') void load()
  })
  void load()
  return { list, loaded, failure, busy, atOnce, load, cancel, retry, pause, move, setAtOnce, clear }
})
