import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { windowId, type Draft, type Failure, type Op, type Piece } from '../api/client'
import { useNews, type News } from './news/news'
import { useNotices } from './notices'
import { outbox } from './outbox'
import { subject, type Face, type Home, type Kind, type View } from './subjects'

/** The status of what was deleted and can be brought back (RFC 9110, 15.5.11). */
const GONE = 410

/** The document that is open. Every change of a document goes through `change`. */
export const useDocument = defineStore('document', () => {
  /** What is open: of which kind it is and its view change at once. */
  const shown = shallowRef<{ kind: Kind; view: View } | null>(null)
  const kind = computed<Kind>(() => shown.value?.kind ?? 'piece')
  const view = computed<View | null>(() => shown.value?.view ?? null)
  const failure = ref('')
  /** The document that was asked for was deleted, and can be brought back. */
  const deleted = ref(false)
  /** The revision at which it was opened here. */
  const opened = ref(0)
  /** Changes on their way to the server. */
  const saving = ref(0)
  const notices = useNotices()
  /** The layers that a change left selected, and when it was asked for, in ms of the page's clock. */
  const chosen = shallowRef<{ ids: string[]; asked: number }>({ ids: [], asked: 0 })

  const face = computed<Face | null>(() => view.value && subject(kind.value).face(view.value))
  const piece = computed<Piece | null>(() => (kind.value === 'piece' ? (view.value as Piece | null) : null))
  const draft = computed<Draft | null>(() => (kind.value === 'draft' ? (view.value as Draft | null) : null))
  /** Which document it is, whatever its revision. */
  const key = computed(() => (view.value ? `${kind.value} ${view.value.id}` : ''))
  const home = computed<Home | null>(() => view.value && { kind: kind.value, id: view.value.id })
  const open = (h: Home) => kind.value === h.kind && view.value?.id === h.id

  /** Shows a document as it came from the server, unless a later state of it is shown. */
  function take(k: Kind, v: View) {
    if (open({ kind: k, id: v.id }) && view.value!.revision > v.revision) return
    shown.value = { kind: k, view: v }
  }

  /** What was asked for last, whether it is there or not: it may come back. */
  let asked: Home | null = null
  /** Whether it is still what is wanted when its answer comes: somebody may have gone on to another one. */
  const wanted = (h: Home) => asked?.kind === h.kind && asked.id === h.id
  /** Sends what was on its way when a page was left before it was answered. */
  async function overdue(h: Home) {
    for (const a of outbox.of(h)) {
      try {
        await subject(h.kind).change(h.id, { id: a.id, base: a.base, op: a.op })
      } catch (e) {
        if (!(e as Failure).status) return // nobody answers: it stays
        notices.say('error', `What was on its way when the page was left could not be kept. ${(e as Failure).message}`)
      }
      outbox.drop(a.id)
    }
  }
  async function load(h: Home) {
    const anew = !open(h)
    if (anew) farewells.forEach((f) => f())
    asked = h
    failure.value = ''
    deleted.value = false
    if (anew) shown.value = null
    try {
      if (anew) await overdue(h)
      const v = await subject(h.kind).load(h.id)
      if (anew && wanted(h)) opened.value = v.revision
      if (wanted(h)) take(h.kind, v)
    } catch (e) {
      if (!wanted(h)) return
      const { status, message } = e as Failure
      failure.value = message
      deleted.value = status === GONE
      // Nothing can be done with what is not there any more.
      if ((status === GONE || status === 404) && open(h)) shown.value = null
    }
  }

  /** Asks anew for what is shown, when that is told otherwise than before. */
  const again = () => (home.value ? load(home.value) : Promise.resolve())

  let chain: Promise<unknown> = Promise.resolve()
  /**
   * Runs changes one after another. A change belongs to the document that was open when it was asked for, wherever the
   * page is by then, and to the state that was seen when it was begun: what came between is told, never overwritten.
   */
  function queue(h: Home | null, base: number | undefined, step: (h: Home, revision: number) => Promise<View>): Promise<boolean> {
    const run = async () => {
      if (!h) return false
      saving.value++
      try {
        const v = await step(h, base ?? (await subject(h.kind).load(h.id)).revision)
        if (open(h)) take(h.kind, v)
        return true
      } catch (e) {
        notices.say('error', (e as Failure).message)
        if ([409, GONE].includes((e as Failure).status) && open(h)) await load(h)
        return false
      } finally {
        saving.value--
      }
    }
    const next = chain.then(run, run)
    chain = next
    return next
  }
  /** The revision of a document that is seen now. */
  const seen = (h: Home | null) => (h && open(h) ? view.value!.revision : undefined)

  const farewells = new Set<() => void>()
  /** Has something done before another document takes this one's place; what is returned has it done no longer. */
  function leaving(f: () => void): () => void {
    farewells.add(f)
    return () => farewells.delete(f)
  }
  const hooks: (() => void)[] = []
  /** Has something done before anything is changed, undone or redone. */
  function before(f: () => void) {
    hooks.push(f)
  }
  /** Makes a change, or one that is only known when its turn comes; `base` is the revision that was seen when it was begun. */
  function change(op: Op | (() => Promise<Op>), of: Home | null = home.value, base = seen(of)): Promise<boolean> {
    hooks.forEach((f) => f())
    const id = crypto.randomUUID()
    const asked = performance.now()
    if (typeof op !== 'function' && of && base !== undefined) outbox.put({ id, home: of, base, op: subject(of.kind).wire(op) as Op })
    return queue(of, base, async (h, base) => {
      const what = typeof op === 'function' ? await op() : op
      if (typeof op === 'function') outbox.put({ id, home: h, base, op: subject(h.kind).wire(what) as Op })
      const d = await subject(h.kind).change(h.id, { id, base, op: what }).finally(() => outbox.drop(id))
      if (d.joined && open(h)) notices.say('info', d.joined)
      if (d.chosen && open(h)) {
        take(h.kind, d.view)
        chosen.value = { ids: d.chosen, asked }
      }
      return d.view
    })
  }
  /** Carries something out on the open document in its turn, from the revision that is seen now. */
  function carry(step: (h: Home, revision: number) => Promise<View>): Promise<boolean> {
    hooks.forEach((f) => f())
    return queue(home.value, seen(home.value), step)
  }
  function step(verb: 'undo' | 'redo'): Promise<boolean> {
    hooks.forEach((f) => f())
    const id = crypto.randomUUID()
    return queue(home.value, seen(home.value), async (h) => {
      const d = await subject(h.kind).back(h.id, verb, { id })
      notices.say('info', `${verb === 'undo' ? 'Undone' : 'Done again'}: ${d.title}`, 'steps')
      return d.view
    })
  }
  /** Changes what is known of the document without a new state of it. */
  function amend(v: View) {
    if (open({ kind: kind.value, id: v.id })) shown.value = { kind: kind.value, view: v }
  }

  useNews().listen((n: News) => {
    const h = home.value ?? asked
    if (h && (n.type === 'lost' || (n.type === h.kind && n.id === h.id && n.window !== windowId))) void load(h)
  })

  return { opened, kind, view, face, piece, draft, chosen, key, home, failure, deleted, saving, load, again, take, change, before, leaving, carry, step, amend }
})
