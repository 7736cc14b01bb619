import { ref } from 'vue'

import { Failure } from '../api/client'
import { coalesced } from './coalesced'

/** What was done to a list last, and how it is taken back. */
export interface Done {
  text: string
  undo: () => Promise<void>
}

/** A list that the server keeps: read by `read`, and read anew after every step. */
export function useList(read: () => Promise<void>) {
  const loaded = ref(false)
  const failure = ref('')
  /** The failure is one of reading: it is over when reading succeeds. What a step failed by stays until the next one. */
  let unread = false

  const load = coalesced(async () => {
    try {
      await read()
      if (unread) failure.value = ''
      unread = false
    } catch (e) {
      failure.value = (e as Failure).message
      unread = true
    } finally {
      loaded.value = true
    }
  })

  /** Tries a step; what went wrong with it stays to be read. */
  async function attempt(step: () => Promise<unknown>) {
    failure.value = ''
    try {
      await step()
    } catch (e) {
      failure.value = (e as Failure).message
      unread = false
    }
    await load()
  }
  return { loaded, failure, load, attempt }
}
