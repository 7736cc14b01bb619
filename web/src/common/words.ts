import { onScopeDispose, shallowRef, watch } from 'vue'

import { api, ask, type Words } from '../api/client'
import { coalesced } from './coalesced'
import { useDocument } from './document'
import { usePockets } from './pockets'
import { useSelection } from './selection'
import { useTransport } from './transport'

/** What layers say at the playhead: one of them, or all; asked for anew when the document changes. */
export function useWords(layer: () => string | null) {
  const doc = useDocument()
  const selection = useSelection()
  const transport = useTransport()
  const pockets = usePockets()
  const list = shallowRef<Words[]>([])
  let over = false
  onScopeDispose(() => (over = true))
  const load = coalesced(async () => {
    const f = doc.face
    const id = layer()
    if (!f || id === null) return void (list.value = [])
    const query = { format: selection.format, frame: Math.min(transport.frame, f.frames - 1), layer: id || undefined }
    try {
      const params = { path: { id: f.id }, query }
      const got = await ask(f.kind === 'draft' ? api.GET('/api/drafts/{id}/words', { params }) : api.GET('/api/pieces/{id}/words', { params }))
      if (!over && layer() === id) list.value = got
    } catch {
      // What can't be drawn is told by the stage.
    }
  })
  watch([layer, () => selection.format, () => doc.face?.revision, () => pockets.epoch, () => !transport.playing && transport.frame], ([id], [was]) => {
    if (id !== was) list.value = []
    if (!transport.playing) void load()
  }, { immediate: true })
  return list
}
