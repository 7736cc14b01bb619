import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'

import { api, ask, type Face } from '../api/client'
import { useNews } from './news/news'

/** How many faces are remembered as chosen last. */
const RECENT = 6

/** The faces that words may be set in, and those that were chosen last. */
export const useFaces = defineStore('faces', () => {
  const list = shallowRef<Face[]>([])
  const recent = useLocalStorage<string[]>('ivy-faces', [])
  let asked: Promise<void> | undefined
  useNews().listen((n) => {
    // A font that came in, was cleared away or has another name.
    if (asked && ((n.type === 'media' && n.state) || n.type === 'lost')) void again()
  })
  function load(): Promise<void> {
    asked ??= ask(api.GET('/api/faces'))
      .then((l) => void (list.value = l))
      .catch(() => (asked = undefined))
    return asked as Promise<void>
  }
  /** Asks for the list anew, as after a font has come in. */
  function again() {
    asked = undefined
    return load()
  }
  const byId = computed(() => new Map(list.value.map((f) => [f.id, f])))
  const name = (id: string) => byId.value.get(id)?.name ?? (id.startsWith('sha256:') ? 'A face that is not here' : id)
  /** What the browser knows a face by: all its upright files, one after another. */
  const css = (id: string) =>
    (byId.value.get(id)?.files ?? [])
      .filter((f) => !f.italic)
      .map((f) => `'ivy ${f.name}'`)
      .join(', ') || 'inherit'
  const shown = new Set<string>()
  /** Has the browser load a face, so that it can be shown in itself. */
  function show(id: string) {
    const f = byId.value.get(id)
    if (!f || shown.has(id)) return
    shown.add(id)
    for (const file of f.files.filter((x) => !x.italic)) document.fonts.add(new FontFace(`ivy ${file.name}`, `url(/api/fonts/${file.name}.woff)`, { weight: '1 1000', display: 'swap' }))
  }
  function use(id: string) {
    recent.value = [id, ...recent.value.filter((x) => x !== id)].slice(0, RECENT)
  }
  return { list, recent, load, again, name, css, show, use }
})
