import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { api, ask, Failure, type Render } from '../api/client'
import { coalesced } from '../common/coalesced'
import { useNews } from '../common/news/news'

/** The render queue. */
export const useRenders = defineStore('renders', () => {
  const list = ref<Render[]>([])
  const loaded = ref(false)
  const failure = ref('')
  const open = computed(() => list.value.filter((r) => r.state === 'queued' || r.state === 'running').length)
  const atOnce = ref(1)

  const load = coalesced(async () => {
    try {
      list.value = await ask(api.GET('/api/renders'))
      atOnce.value = (await ask(api.GET('/api/queue'))).atOnce
      failure.value = ''
    } catch (e) {
      failure.value = (e as Failure).message
    } finally {
      loaded.value = true
    }
  })

  async function act(what: 'cancel' | 'retry' | 'delete', id: string) {
    const params = { params: { path: { id } } }
    try {
      if (what === 'cancel') await ask(api.POST('/api/renders/{id}/cancel', params))
      else if (what === 'retry') await ask(api.POST('/api/renders/{id}/retry', params))
      else await ask(api.DELETE('/api/renders/{id}', params))
    } catch (e) {
      failure.value = (e as Failure).message
    }
    await load()
  }

  async function attempt(call: Promise<unknown>) {
    try {
      await call
      failure.value = ''
    } catch (e) {
      failure.value = (e as Failure).message
    }
    await load()
  }
  const pause = (id: string, paused: boolean) => attempt(ask(api.POST('/api/renders/{id}/pause', { params: { path: { id } }, body: { paused } })))
  const move = (id: string, to: 'first' | 'up' | 'down') => attempt(ask(api.POST('/api/renders/{id}/move', { params: { path: { id } }, body: { to } })))
  const setAtOnce = (n: number) => attempt(ask(api.POST('/api/queue', { body: { atOnce: n } })))

  useNews().listen((n) => {
    if (n.type === 'render' || n.type === 'lost') void load()
  })
  void load()
  return { list, loaded, failure, open, atOnce, load, act, pause, move, setAtOnce }
})
