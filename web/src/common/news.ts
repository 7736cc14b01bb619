import { defineStore } from 'pinia'
import { ref } from 'vue'

export interface News {
  type: 'piece' | 'render' | 'media' | 'trial' | 'shelf' | 'trouble' | 'lost'
  id?: string
  revision?: number
  window?: string
  done?: number
  total?: number
  state?: string
}

/** Live news from the server. Listeners also hear "lost" after a gap, and then ask for everything anew. */
export const useNews = defineStore('news', () => {
  const connected = ref(true)
  const listeners = new Set<(n: News) => void>()
  let broken = false
  const source = new EventSource('/api/events')
  const tell = (n: News) => listeners.forEach((l) => l(n))
  source.onopen = () => {
    connected.value = true
    if (broken) tell({ type: 'lost' })
    broken = false
  }
  source.onerror = () => {
    connected.value = false
    broken = true
  }
  source.onmessage = (e) => tell(JSON.parse(e.data) as News)
  function listen(l: (n: News) => void): () => void {
    listeners.add(l)
    return () => listeners.delete(l)
  }
  return { connected, listen }
})
