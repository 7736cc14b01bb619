import { onScopeDispose, shallowRef, watch } from 'vue'

import { api, ask, type Act, type Curve } from '../../api/client'
import { coalesced } from '../../common/coalesced'
import { useDocument } from '../../common/document'
import { useSelection } from '../../common/selection'
import { subject } from '../../common/subjects'
import { useTransient } from '../../common/transient'

/**
 * The motion of some properties over time, as it is seen in the format that is looked at; with `live` as it would be after
 * what is shown and not kept yet.
 */
export function useCurves(paths: () => string[], live = false) {
  const transient = useTransient()
  const doc = useDocument()
  const selection = useSelection()
  const list = shallowRef<Curve[]>([])
  let over = false
  onScopeDispose(() => (over = true))
  const load = coalesced(async () => {
    const wanted = paths().slice(0, 60)
    if (!doc.draft || !wanted.length) return void (list.value = [])
    const op = live && transient.op ? (subject('draft').wire(transient.op) as Act) : undefined
    const got = await ask(api.POST('/api/drafts/{id}/curves', { params: { path: { id: doc.draft.id } }, body: { format: selection.format, paths: wanted, op } })).catch(() => null)
    if (got && !over) list.value = got
  })
  watch([() => paths().join(), () => doc.draft?.revision, () => selection.format, () => live && transient.op], () => void load(), { immediate: true })
  return list
}
