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

  const load = coalesced(async () => {
    try {
      await read()
      failure.value = ''
    } catch (e) {
      failure.value = (e as Failure).message
    } finally {
      loaded.value = true
    }
  })

  /** Tries a step; what went wrong with it stays to be read. */
  async function attempt(step: () => Promise<unknown>) {
    let wrong = ''
    try {
      await step()
    } catch (e) {
      wrong = (e as Failure).message
    }
    await load()
    if (wrong) failure.value = wrong
  }
  return { loaded, failure, load, attempt }
}
