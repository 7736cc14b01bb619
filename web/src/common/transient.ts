import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'

import type { Op } from '../api/client'
import { useDocument } from './document'
import type { Home } from './subjects'

/** So long it is quiet before what was done by keys or wheel is kept, as one change, in ms. */
const QUIET = 400

/** What a change sets: two that set the same are one, the later. */
const target = (op: Op) => [op.kind, op.pocket, op.path, op.entry, op.format].join(' ')

interface Wish {
  op: Op
  home: Home | null
  /** What is kept of it in the end. */
  finish?: (op: Op) => Promise<Op>
}

/** What the stage shows and is not in the document yet. */
export const useTransient = defineStore('transient', () => {
  const document = useDocument()
  /** A change that is shown and not made yet, while something is dragged. */
  const op = shallowRef<Op | null>(null)
  /** A frame of a pocket's clip that is looked at, whatever the time is. */
  const look = shallowRef<{ pocket: string; frame: number } | null>(null)
  /** What waits for quiet, and what is on its way to the server. */
  const waiting = shallowRef<Wish | null>(null)
  const going = shallowRef<Wish | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined

  /** Keeps a change now; it is shown until the document has it. */
  async function keep(what: Op, finish?: Wish['finish'], home: Home | null = document.home): Promise<boolean> {
    if (waiting.value && target(waiting.value.op) === target(what)) drop()
    if (op.value && target(op.value) === target(what)) op.value = what
    const mine: Wish = { op: what, home, finish }
    going.value = mine
    const done = await document.change(finish && op.value === what ? () => finish(what) : what, home)
    if (going.value === mine) going.value = null
    if (op.value === what) op.value = null
    return done
  }
  /** What waits is no longer going to be kept; it is shown on. */
  function drop() {
    clearTimeout(timer)
    waiting.value = null
  }
  /** Shows a change, and keeps it when no other of the same has come for a while: a burst of keys is one change. */
  function soon(what: Op, finish?: Wish['finish']) {
    if (waiting.value && target(waiting.value.op) !== target(what)) flush()
    op.value = what
    waiting.value = { op: what, home: document.home, finish }
    clearTimeout(timer)
    timer = setTimeout(flush, QUIET)
  }
  /** Keeps what waits now. */
  function flush() {
    const w = waiting.value
    drop()
    if (w) void keep(w.op, w.finish, w.home)
  }
  /** What was last asked for of what an operation sets, if the document does not have it yet. */
  function wished(like: Op): Op | null {
    const found = [waiting.value, going.value].find((w) => w && target(w.op) === target(like))
    return found?.op ?? null
  }

  document.before(flush)
  watch(
    () => document.key,
    () => {
      flush()
      op.value = null
      look.value = null
    },
    { flush: 'sync' },
  )
  return { op, look, keep, soon, flush, drop, wished }
})
