import { defineStore } from 'pinia'
import { ref } from 'vue'

import { useAccess } from '../access'
import { shared } from './shared'

export interface News {
  type: 'piece' | 'draft' | 'render' | 'media' | 'trial' | 'shelf' | 'list' | 'guides' | 'trouble' | 'lost'
  id?: string
  revision?: number
  window?: string
  done?: number
  total?: number
  state?: string
}

/** Live news from the server. Listeners also hear "lost" after a gap, and then ask for everything anew. */
export const useNews = defineStore('news', () => {
  const access = useAccess()
  const connected = ref(true)
  const listeners = new Set<(n: News) => void>()
  let broken = false
  const tell = (n: News) => listeners.forEach((l) => l(n))
  shared((t) => {
    if ('news' in t) return tell(JSON.parse(t.news) as News)
    connected.value = t.state === 'open'
    // It may have ended because nobody is in any more; and who is may be another after a break.
    if (!connected.value || broken) void access.load()
    if (connected.value && broken) tell({ type: 'lost' })
    broken = !connected.value
  })
  function listen(l: (n: News) => void): () => void {
    listeners.add(l)
    return () => listeners.delete(l)
  }
  return { connected, listen }
})
