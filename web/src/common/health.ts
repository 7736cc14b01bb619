import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { api, ask, type Freed, type Health } from '../api/client'
import { coalesced } from './coalesced'
import { tryBrokenImages } from './images'
import { useNews } from './news/news'

/** How often the room on the disk is asked for while nothing happens, in ms. */
const EVERY = 60_000

/** How the server's store stands: the room on its disk, and what in it can't be used. */
export const useHealth = defineStore('health', () => {
  const state = shallowRef<Health | null>(null)
  /** Troubles that somebody has read, by their words. */
  const read = ref(new Set<string>())
  const low = computed(() => !!state.value && state.value.free < state.value.reserve)
  const troubles = computed(() => (state.value?.troubles ?? []).filter((t) => !read.value.has(t.what + t.why)))

  const load = coalesced(async () => {
    try {
      state.value = await ask(api.GET('/api/health'))
    } catch {
      // Whoever talks to the server says that it does not answer.
    }
  })
  function dismiss() {
    read.value = new Set([...read.value, ...troubles.value.map((t) => t.what + t.why)])
  }
  /** Removes the files of media that was cleared away. */
  async function purge(): Promise<Freed> {
    try {
      return await ask(api.POST('/api/media/purge'))
    } finally {
      await load()
    }
  }
  void load()
  setInterval(() => void load(), EVERY)
  let soon: ReturnType<typeof setTimeout> | undefined
  useNews().listen((n) => {
    if (n.type === 'lost' || n.type === 'shelf' || n.type === 'trouble' || ((n.type === 'media' || n.type === 'render') && n.state)) {
      clearTimeout(soon)
      soon = setTimeout(() => {
        void load()
        if (n.type === 'media') tryBrokenImages()
      }, 200)
    }
  })
  return { state, low, troubles, load, dismiss, purge }
})
