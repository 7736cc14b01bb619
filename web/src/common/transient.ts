import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'

import type { Op } from '../api/client'
import { useDocument } from './document'
import type { Home } from './subjects'

/** So long it is quiet before what was done by keys or wheel is kept, as one change, in ms. */
const QUIET = 400

/** What a change sets: two that set the same are one, the later. */
const target = (op: Op) => [op.kind, op.pocket, 'path' in op ? op.path : '', op.entry, op.format, 'id' in op ? op.id : '', 'keys' in op ? op.keys?.join() : ''].join(' ')

/** Makes of a change what is kept, if it is still the one that is shown. */
type Finish = (op: Op, still: () => boolean) => Promise<Op>

/** A change along with the members of one that was asked for before, which it was begun from. */
function joined(what: Op, before: Op | null | undefined): Op {
  return before?.members && what.members && target(before) === target(what) ? { ...what, members: [...new Set([...before.members, ...what.members])] } : what
}

interface Wish {
  op: Op
  home: Home | null
  /** What is shown of it: along with what was on its way before. */
  shown: Op | null
  /** The revision that was seen when it was begun. */
  base?: number
  /** What is kept of it in the end. */
  finish?: Finish
}

/** What the stage shows and is not in the document yet. */
export const useTransient = defineStore('transient', () => {
  const document = useDocument()
  /** A change that is shown and not made yet, while something is dragged. */
  const op = shallowRef<Op | null>(null)
  /** A frame of a pocket's clip that is looked at, whatever the time is; or a draft as it stood at a revision. */
  const look = shallowRef<{ pocket: string; frame: number } | { past: number } | null>(null)
  /** What waits for quiet, and what is on its way to the server. */
  const waiting = shallowRef<Wish | null>(null)
  const going = shallowRef<Wish | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined
  let base: number | undefined

  /** Shows a change that may come. */
  function show(what: Op) {
    if (!op.value || target(op.value) !== target(what)) base = undefined
    base ??= document.view?.revision
    op.value = joined(what, wished(what))
  }
  /** Shows it no longer. */
  function hide() {
    op.value = null
    base = undefined
  }

  /** Keeps a change now; it is shown until the document has it. */
  async function keep(what: Op, finish?: Finish): Promise<boolean> {
    const begun = base
    const shown = !!op.value && target(op.value) === target(what)
    if (shown) op.value = joined(what, wished(what))
    const waited = waiting.value && target(waiting.value.op) === target(what) ? waiting.value : null
    if (waited) {
      what = joined(what, waited.op)
      drop()
    }
    base = undefined
    return send({ op: what, shown: shown ? op.value : null, home: document.home, base: waited?.base ?? (shown ? begun : undefined), finish })
  }
  async function send(mine: Wish): Promise<boolean> {
    const still = () => !!mine.shown && op.value === mine.shown
    const finish = mine.finish
    const sent = document.change(finish && still() ? () => finish(mine.op, still) : mine.op, mine.home, mine.base)
    going.value = mine
    const done = await sent
    if (going.value === mine) going.value = null
    if (still()) hide()
    return done
  }
  /** What waits is no longer going to be kept; it is shown on. */
  function drop() {
    clearTimeout(timer)
    waiting.value = null
  }
  /** Shows a change, and keeps it when no other of the same has come for a while: a burst of keys is one change. */
  function soon(what: Op, finish?: Finish) {
    if (waiting.value && target(waiting.value.op) !== target(what)) flush()
    const first = waiting.value?.base
    show(what)
    waiting.value = { op: joined(what, waiting.value?.op), shown: op.value, home: document.home, base: first ?? base, finish }
    clearTimeout(timer)
    timer = setTimeout(flush, QUIET)
  }
  /** Keeps what waits now. */
  function flush() {
    const w = waiting.value
    drop()
    if (!w) return
    base = undefined
    void send(w)
  }
  /** What was last asked for of what an operation sets, if the document does not have it yet. */
  function wished(like: Op): Op | null {
    const found = [waiting.value, going.value].find((w) => w && target(w.op) === target(like))
    return found?.op ?? null
  }

  document.before(flush)
  window.addEventListener('pagehide', flush)
  watch(
    () => document.key,
    () => {
      flush()
      hide()
      look.value = null
    },
    { flush: 'sync' },
  )
  return { op, look, show, hide, keep, soon, flush, drop, wished }
})
