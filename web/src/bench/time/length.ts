import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { holdLength } from '../../api/client'
import { coalesced } from '../../common/coalesced'
import { useDocument } from '../../common/document'
import { useNotices } from '../../common/notices'
import { usePockets } from '../../common/pockets'
import { seenAt, shownAt } from '../../common/stage/elastic'
import { useTransport } from '../../common/transport'

/** The length at which the draft is tried, as an editor might set it. Nothing of the draft changes by it. */
export const useLength = defineStore('length', () => {
  const doc = useDocument()
  const pockets = usePockets()
  const transport = useTransport()
  const notices = useNotices()
  const wanted = ref(0)
  /** The length that is shown; 0 is its own. */
  const tried = computed(() => doc.draft?.tried ?? 0)

  const load = coalesced(async () => {
    const before = doc.face?.time ?? []
    const at = shownAt(before, transport.frame)
    pockets.epoch++
    await doc.again()
    // The playhead stays at what is looked at.
    if (doc.face && !transport.playing) transport.frame = Math.max(0, Math.min(doc.face.frames - 1, Math.round(seenAt(doc.face.time, at))))
    transport.range = null
    transport.window = null
  })
  function tryOut(frames: number): Promise<void> {
    const n = frames === doc.draft?.frames ? 0 : frames
    if (n === wanted.value) return Promise.resolve()
    wanted.value = n
    holdLength(n)
    return load()
  }
  /** Says, where another length is tried, that time is changed at the template's own. */
  function away(): boolean {
    if (!tried.value) return false
    notices.say('info', `Tried at ${tried.value} frames: go back to the template’s own ${doc.draft!.frames} to move things in time.`)
    return true
  }
  watch(
    () => doc.key,
    () => {
      wanted.value = 0
      holdLength(0)
    },
    { flush: 'sync' },
  )
  // What makes the length impossible, such as more held time, ends the trial.
  watch(
    () => doc.draft,
    (d) => {
      if (!d || d.tried === wanted.value || !wanted.value || d.tried) return
      wanted.value = 0
      holdLength(0)
    },
  )
  return { tried, tryOut, away }
})
