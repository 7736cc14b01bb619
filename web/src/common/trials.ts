import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'

import { api, ask, Failure, type Finding, type Trial } from '../api/client'
import { useNews } from './news/news'

/** The swap trial of a piece, or of a draft that is tried out; '' is of none. */
export function useTrial(id: Readonly<Ref<string>>) {
  const trial = ref<Trial | null>(null)
  const failure = ref('')
  const params = () => ({ params: { path: { id: id.value } } })

  async function get(call: () => Promise<Trial>) {
    const of = id.value
    if (!of) return
    try {
      const t = await call()
      if (of !== id.value) return
      trial.value = t
      failure.value = ''
    } catch (e) {
      if (of === id.value) failure.value = (e as Failure).message
    }
  }
  const load = () => get(() => ask(api.GET('/api/pieces/{id}/trial', params())))
  const start = () => get(() => ask(api.POST('/api/pieces/{id}/trial', params())))
  const stop = () => get(() => ask(api.POST('/api/pieces/{id}/trial/stop', params())))
  watch(id, () => {
    trial.value = null
    failure.value = ''
    void load()
  }, { immediate: true })
  onScopeDispose(
    useNews().listen((n) => {
      if (n.type === 'lost') void load()
      if (n.type !== 'trial' || n.id !== id.value) return
      if (n.state || !trial.value) void load()
      else trial.value = { ...trial.value, done: n.done ?? 0, total: n.total ?? 0 }
    }),
  )
  const running = computed(() => trial.value?.state === 'running')
  const faults = computed(() => (trial.value?.findings ?? []).filter((f) => !f.hint))
  /** The same fault in several cases is told once, with all of them. */
  const groups = computed(() => {
    const out = new Map<string, Finding[]>()
    for (const f of trial.value?.findings ?? []) {
      const k = `${f.hint} ${f.kind} ${f.where} ${f.format}`
      out.set(k, [...(out.get(k) ?? []), f])
    }
    return [...out.values()]
  })
  return { trial, failure, running, faults, groups, start, stop }
}
