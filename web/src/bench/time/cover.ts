import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import { api, ask, type Failure } from '../../api/client'
import type { components } from '../../api/schema'
import { coalesced } from '../../common/coalesced'
import { useDocument } from '../../common/document'

/** So long nothing is changed before what is covered is looked for once more, in ms. */
const QUIET = 1200

/** Of which frames of the draft nothing beneath is seen, and where to cut there: looked for when it is asked for, and kept up. */
export const useCover = defineStore('cover', () => {
  const doc = useDocument()
  const found = shallowRef<components['schemas']['CoverView'] | null>(null)
  const looking = ref(false)
  const failure = ref('')
  /** It is of the draft as it stands. */
  const fresh = computed(() => !!found.value && found.value.revision === doc.draft?.revision)
  let timer: ReturnType<typeof setTimeout> | undefined

  const look = coalesced(async () => {
    const id = doc.draft?.id
    if (!id) return
    looking.value = true
    failure.value = ''
    try {
      const v = await ask(api.GET('/api/drafts/{id}/cover', { params: { path: { id } } }))
      if (doc.draft?.id === id) found.value = v
    } catch (e) {
      failure.value = (e as Failure).message
    } finally {
      looking.value = false
    }
  })
  watch(
    () => doc.draft?.revision,
    () => {
      clearTimeout(timer)
      if (found.value) timer = setTimeout(() => void look(), QUIET)
    },
  )
  watch(() => doc.key, () => {
    clearTimeout(timer)
    found.value = null
    failure.value = ''
  })
  return { found, looking, failure, fresh, look }
})
