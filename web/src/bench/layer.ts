import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'

import { api, ask, type Failure, type Layer } from '../api/client'
import { coalesced } from '../common/coalesced'
import { useDocument } from '../common/document'
import { useNotices } from '../common/notices'
import { usePockets } from '../common/pockets'
import { useSelection } from '../common/selection'
import { useTransport } from '../common/transport'

/** The selected layer's properties, as they stand at the playhead. */
export const useLayer = defineStore('layer', () => {
  const doc = useDocument()
  const selection = useSelection()
  const transport = useTransport()
  const pockets = usePockets()
  const view = shallowRef<Layer | null>(null)

  const load = coalesced(async () => {
    const d = doc.draft
    const id = selection.layer
    if (!d || !id) {
      view.value = null
      return
    }
    try {
      const query = { format: selection.format, frame: Math.min(transport.frame, (d.tried || d.frames) - 1) }
      const got = await ask(api.GET('/api/drafts/{id}/layers/{layer}', { params: { path: { id: d.id, layer: id }, query } }))
      if (selection.layer === id) view.value = got
    } catch (e) {
      if (selection.layer === id) useNotices().say('error', (e as Failure).message)
    }
  })
  watch([() => selection.layer, () => selection.format, () => doc.draft?.revision, () => pockets.epoch, () => !transport.playing && transport.frame], () => {
    if (view.value?.id !== selection.layer) view.value = null
    if (!transport.playing) void load()
  }, { immediate: true })
  return { view }
})
