import { computed, ref, watch } from 'vue'

import { api, ask } from '../api/client'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'

type At = [number, number]
interface Known {
  of: string
  at: At
  ids: string[]
}

/** A pointer that has moved no further than this, in pixels of the screen, is where it was. */
const STILL = 1.5

/**
 * Which layers are seen under the pointer, the topmost first. It is asked while the pointer goes over the stage, so that a
 * press mostly finds it known. `k` is how many pixels of the screen one of the canvas has.
 */
export function useUnder(k: () => number) {
  const doc = useDocument()
  const selection = useSelection()
  const transient = useTransient()
  const transport = useTransport()
  const of = computed(() => [doc.draft?.id, doc.draft?.revision, selection.format, transport.frame].join())
  const known = ref<Known | null>(null)
  watch([of, () => transient.op], () => (known.value = null))
  let asking = false
  let next: At | null = null

  /** Null is not known: the server can't say. */
  async function ids(at: At): Promise<string[] | null> {
    const d = doc.draft
    if (!d) return null
    const mine = of.value
    try {
      const got = await ask(
        api.GET('/api/drafts/{id}/under', {
          params: { path: { id: d.id }, query: { format: selection.format, frame: Math.min(transport.frame, (d.tried || d.frames) - 1), x: at[0], y: at[1], zoom: Math.min(64, Math.max(0.001, k())) } },
        }),
      )
      if (mine === of.value) known.value = { of: mine, at, ids: got }
      return got
    } catch {
      return null
    }
  }
  const atHand = (at: At) => (known.value?.of === of.value && Math.hypot(at[0] - known.value.at[0], at[1] - known.value.at[1]) * k() <= STILL ? known.value.ids : null)
  /** The pointer goes there: one question is out at a time, the latest place wins. */
  async function hover(at: At | null) {
    next = at
    if (!at) known.value = null
    if (asking) return
    asking = true
    while (next) {
      const p: At = next
      next = null
      if (!atHand(p) && !transient.op && !transport.playing && !selection.framing) await ids(p)
    }
    asking = false
  }
  return { ids, atHand, hover, known }
}
