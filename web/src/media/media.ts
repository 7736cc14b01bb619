import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { api, ask, type Stored, type Stroke } from '../api/client'
import { useList, type Done } from '../common/list'
import { useNews } from '../common/news/news'

/** The media store: all that has come in, the last used first. */
export const useMediaStore = defineStore('media', () => {
  const list = shallowRef<Stored[]>([])
  const done = shallowRef<Done | null>(null)
  /** Whether somebody looks, so that news are followed. */
  const watched = ref(false)

  const clips = computed(() => list.value.filter((m) => m.kind === 'footage'))
  const unused = computed(() => list.value.filter((m) => !m.kept))

  const { loaded, failure, load, attempt } = useList(async () => {
    list.value = await ask(api.GET('/api/media', { params: { query: {} } }))
  })
  const left = (s: Stroke) => (s.left.length ? ` Left as it was: ${s.left.join(' ')}` : '')
  const files = (n: number) => (n === 1 ? '1 file' : `${n} files`)

  /** Clears away what nothing uses: all of it, or those named. */
  function clear(hashes: string[] = []) {
    return attempt(async () => {
      const s = await ask(api.POST('/api/media/clear', { body: { hashes } }))
      done.value = {
        text: `Cleared ${files(s.hashes.length)} away.${left(s)}`,
        undo: () => attempt(async () => {
          if (s.hashes.length) await ask(api.POST('/api/media/clear', { body: { hashes: s.hashes, back: true } }))
          done.value = null
        }),
      }
    })
  }

  /** Puts other media in its place in every piece. */
  function replace(m: Stored, by: { hash: string; name: string }) {
    return attempt(async () => {
      const s = await ask(api.POST('/api/media/{hash}/replace', { params: { path: { hash: m.hash } }, body: { with: by.hash } }))
      done.value = {
        text: `${m.name} gave way to ${by.name} in ${s.pieces === 1 ? '1 piece' : `${s.pieces} pieces`}.${left(s)}`,
        undo: () => attempt(async () => {
          if (s.pieces) await ask(api.POST('/api/strokes/{id}/undo', { params: { path: { id: s.stroke } } }))
          done.value = null
        }),
      }
    })
  }

  function rename(m: Stored, name: string) {
    return attempt(async () => {
      await ask(api.POST('/api/media/{hash}/name', { params: { path: { hash: m.hash } }, body: { name } }))
    })
  }

  let soon: ReturnType<typeof setTimeout> | undefined
  useNews().listen((n) => {
    if (!watched.value) return
    if (n.type === 'media' && !n.state) {
      // Proxies that grow say so often; only their line changes.
      list.value = list.value.map((m) => (m.hash === n.id ? { ...m, proxyDone: Math.min(n.done ?? 0, m.frames - 1) } : m))
    } else if (n.type === 'media' || n.type === 'piece' || n.type === 'lost') {
      clearTimeout(soon)
      soon = setTimeout(() => void load(), 80)
    }
  })
  return { list, loaded, failure, done, watched, clips, unused, load, clear, replace, rename }
})
