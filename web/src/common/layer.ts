import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'

import type { Failure, Layer } from '../api/client'
import { coalesced } from './coalesced'
import { useDocument } from './document'
import { useNotices } from './notices'
import { usePockets } from './pockets'
import { useSelection } from './selection'
import { subject } from './subjects'
import { useTransport } from './transport'

/** The selected layer's properties, as they stand at the playhead. */
export const useLayer = defineStore('layer', () => {
  const doc = useDocument()
  const selection = useSelection()
  const transport = useTransport()
  const pockets = usePockets()
  const view = shallowRef<Layer | null>(null)

  const load = coalesced(async () => {
    const d = doc.face
    const id = selection.layer
    if (!d || !id) {
      view.value = null
      return
    }
    try {
      const got = await subject(d.kind).layer(d.id, id, selection.format, Math.min(transport.frame, d.frames - 1))
      if (selection.layer === id) view.value = got
    } catch (e) {
      if (selection.layer === id) useNotices().say('error', (e as Failure).message)
    }
  })
  watch([() => selection.layer, () => selection.format, () => doc.face?.revision, () => pockets.epoch, () => !transport.playing && transport.frame], () => {
    if (view.value?.id !== selection.layer) view.value = null
    if (!transport.playing) void load()
  }, { immediate: true })
  return { view }
})
