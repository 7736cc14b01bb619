import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { holdAt, type Entry, type EntryValue } from '../api/client'
import { useDocument } from '../common/document'
import { usePockets } from '../common/pockets'

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
  /** The picture is held at a value of an entry: what is set then becomes what the entry drives. */
  const pin = ref<{ entry: string; at: EntryValue } | null>(null)
  const pinned = computed(() => (pin.value ? of(pin.value.entry) : undefined))
  const pockets = usePockets()
  function hold(entry: string, at: EntryValue) {
    pin.value = pin.value?.entry === entry && JSON.stringify(pin.value.at) === JSON.stringify(at) ? null : { entry, at }
  }
  const letGo = () => (pin.value = null)
  watch(
    pin,
    (p) => {
      holdAt(p?.entry ?? '', p?.at)
      pockets.epoch++
      if (doc.draft) void doc.again()
    },
    { flush: 'sync' },
  )
  watch(() => doc.key, letGo)
  watch(pinned, (e) => !e && letGo())
  return { pin, pinned, hold, letGo, groups, entries, chosen, of, drives }
})
