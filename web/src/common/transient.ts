import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'

import type { Op } from '../api/client'
import { useDocument } from './document'

/** What the stage shows and nobody has kept: gone when the pointer is let go. */
export const useTransient = defineStore('transient', () => {
  /** A change that is shown and not made yet, while something is dragged. */
  const op = shallowRef<Op | null>(null)
  /** A frame of a pocket's clip that is looked at, whatever the time is. */
  const look = shallowRef<{ pocket: string; frame: number } | null>(null)
  const doc = useDocument()
  watch(
    () => doc.key,
    () => {
      op.value = null
      look.value = null
    },
    { flush: 'sync' },
  )
  return { op, look }
})
