import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { api, ask, type Code, type Deed, type Failure } from '../api/client'

/** Access codes, and who did what. */
export const usePeople = defineStore('people', () => {
  const codes = ref<Code[]>([])
  const deeds = ref<Deed[]>([])
  const loaded = ref(false)
  const failure = ref('')
  /** There is more of what was done than is shown. */
  const more = ref(false)
  /** Only what was done by this code, and what has this text in it. */
  const by = ref('')
  const text = ref('')
  const good = computed(() => codes.value.filter((c) => !c.withdrawn))
  const withdrawn = computed(() => codes.value.filter((c) => c.withdrawn))

  async function attempt<T>(f: () => Promise<T>): Promise<T | undefined> {
    failure.value = ''
    try {
      return await f()
    } catch (e) {
      failure.value = (e as Failure).message
    }
  }
  async function load() {
    await attempt(async () => {
      codes.value = await ask(api.GET('/api/codes'))
    })
    await read()
    loaded.value = true
  }
  const page = 100
  let asked = 0
  /** Reads what was done; below is the number of the last line that is there. */
  async function read(below = 0) {
    const mine = ++asked
    const got = await attempt(() => ask(api.GET('/api/deeds', { params: { query: { below, code: by.value, text: text.value.trim() } } })))
    if (!got || mine !== asked) return // a newer question was asked meanwhile
    deeds.value = below ? [...deeds.value, ...got] : got
    more.value = got.length === page
  }
  async function make(name: string, role: 'designer' | 'editor') {
    const made = await attempt(() => ask(api.POST('/api/codes', { body: { name, role } })))
    if (made) await load()
    return made
  }
  async function rename(id: string, name: string) {
    await attempt(() => ask(api.POST('/api/codes/{id}/name', { params: { path: { id } }, body: { name } })))
    if (!failure.value) await load()
  }
  async function withdraw(id: string) {
    await attempt(() => ask(api.POST('/api/codes/{id}/withdraw', { params: { path: { id } } })))
    if (!failure.value) await load()
  }
  return { codes, good, withdrawn, deeds, loaded, failure, more, by, text, load, read, make, rename, withdraw }
})
