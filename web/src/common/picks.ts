import { computed, ref, watch, type Ref } from 'vue'

/** Rows of a list that are picked, one by one or from one to another. */
export function usePicks(ids: Readonly<Ref<string[]>>) {
  const picked = ref(new Set<string>())
  let last = ''
  // What is not in the list any more, or not seen, can't be meant.
  watch(ids, (now) => {
    const there = new Set(now)
    const left = [...picked.value].filter((id) => there.has(id))
    if (left.length < picked.value.size) picked.value = new Set(left)
  })
  /** Picks a row or lets it go; with `range`, all from the row before to this one become as this one does. */
  function pick(id: string, range: boolean) {
    const next = new Set(picked.value)
    const on = !next.has(id)
    const [a, b] = [ids.value.indexOf(range ? last : id), ids.value.indexOf(id)].sort((x, y) => x - y) as [number, number]
    for (const each of a < 0 ? [id] : ids.value.slice(a, b + 1)) {
      if (on) next.add(each)
      else next.delete(each)
    }
    last = id
    picked.value = next
  }
  const all = computed({
    get: () => ids.value.length > 0 && picked.value.size === ids.value.length,
    set: (on) => (picked.value = new Set(on ? ids.value : [])),
  })
  const some = computed(() => picked.value.size > 0 && !all.value)
  return { picked, pick, all, some }
}
