import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import type { Entry } from '../api/client'
import { useDocument } from '../common/document'

/** The sheet of the draft: its entries, and those that are selected in the panel. */
export const useSheet = defineStore('sheet', () => {
  const doc = useDocument()
  const groups = computed(() => doc.draft?.sheet ?? [])
  const entries = computed<Entry[]>(() => groups.value.flatMap((g) => g.entries))
  const chosen = ref<string[]>([])
  const of = (id: string) => entries.value.find((e) => e.id === id)
  /** The entry that drives a value, or a part of it, or that fills a pocket. */
  function drives(path: string): Entry | undefined {
    const pocket = /^pockets\/([^/]+)$/.exec(path)?.[1]
    if (pocket) return entries.value.find((e) => e.kind === 'media' && e.pocket === pocket)
    const to = (t: unknown) => (t as { to: string }).to
    return entries.value.find((e) => e.bench!.ties.some((t) => to(t.tie) === path || to(t.tie) === `${path}/value` || to(t.tie).startsWith(`${path}.`)))
  }
  return { groups, entries, chosen, of, drives }
})
