import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { api, ask, type Failure, type Session, whenOut } from '../api/client'

/** Who is at this browser. At the server's own machine nobody logs in, and whoever is there is a designer. */
export const useAccess = defineStore('access', () => {
  const session = ref<Session | null>(null)
  const wrong = ref('')
  /** Those who wait until somebody is in. */
  let waiting: (() => void)[] = []
  /** Somebody has to show a code before anything goes on. */
  const out = computed(() => !!session.value?.codes && !session.value.role)
  /** Whether who is here may build, and not fill alone. */
  const builds = computed(() => session.value?.role === 'designer')

  let asking: Promise<void> | null = null
  function load(): Promise<void> {
    return (asking ??= read().finally(() => (asking = null)))
  }
  async function read() {
    try {
      took(await ask(api.GET('/api/session')))
    } catch {
      /* the server does not answer, which the bar says */
    }
  }

  /** Whose work lies in this window: another person begins with a fresh one. */
  let last = ''
  function took(s: Session) {
    if (s.role && last && s.id !== last) return location.reload()
    session.value = s
    if (!s.role) return
    last = s.id
    const all = waiting
    waiting = []
    all.forEach((go) => go())
  }

  async function enter(code: string) {
    wrong.value = ''
    try {
      took(await ask(api.POST('/api/session', { body: { code } })))
    } catch (e) {
      wrong.value = (e as Failure).message
    }
  }

  async function leave() {
    await ask(api.DELETE('/api/session'))
    location.assign('/')
  }

  whenOut(async () => {
    await load()
    if (out.value) await new Promise<void>((go) => waiting.push(go))
  })

  return { session, wrong, out, builds, load, enter, leave }
})
