import { computed } from 'vue'

import type { Entry, EntryValue, Op } from '../api/client'
import { useDocument } from '../common/document'
import { useTransient } from '../common/transient'
import { useTransport } from '../common/transport'

/** The sheet of the piece: what its entries say, with what is on its way, and how they are set. */
export function useEntries() {
  const doc = useDocument()
  const transient = useTransient()
  const transport = useTransport()

  const all = computed<Entry[]>(() => doc.piece?.sheet.flatMap((g) => g.entries).filter((e) => e.shown) ?? [])
  const op = (e: Entry, v?: EntryValue): Op => (e.kind === 'duration' ? { kind: 'frames', frames: v as number | undefined } : { kind: 'entry', entry: e.id, value: v })
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)
  /** The entry's value, or one on the way to it. */
  function value(e: Entry): EntryValue {
    const like = op(e)
    const w = transient.wished(like) ?? (transient.op?.kind === like.kind && transient.op.entry === like.entry ? transient.op : null)
    return ((w && (e.kind === 'duration' ? w.frames : w.value)) ?? e.value) as EntryValue
  }
  const draft = (e: Entry, v: EntryValue) => transient.show(op(e, v))
  const press = (e: Entry, v: EntryValue) => transient.soon(op(e, v))
  function set(e: Entry, v: EntryValue | undefined) {
    if (!same(v, e.value) || transient.wished(op(e))) void transient.keep(op(e, v))
    else cancel()
  }
  const cancel = () => transient.hide()
  /** Goes to the instant at which an entry is best seen, when somebody begins to work on it. */
  function toCue(e: Entry) {
    const cue = doc.piece!.cues.find((c) => c.id === e.cue)
    if (cue && !transport.playing && transport.frame !== cue.frame) transport.seek(cue.frame)
  }
  return { all, value, draft, press, set, cancel, toCue }
}
