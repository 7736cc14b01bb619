import { computed, ref, watch } from 'vue'

import type { Act } from '../../api/client'
import { useDocument } from '../../common/document'
import { useDrag, type Drag } from '../../common/drag'
import { useTransient } from '../../common/transient'
import type { TimeWindow } from '../../common/stage/window'
import { useActs } from '../acts'
import { useInstants } from './instants'
import { useLength } from './length'
import { keyPath, useMotion } from './motion'

/** Picked keys are moved in time, and the time between them is scaled. */
export function useKeyDrag(span: () => TimeWindow) {
  const doc = useDocument()
  const motion = useMotion()
  const length = useLength()
  const transient = useTransient()
  const { act, locked } = useActs()
  const drag = useDrag()
  const instants = useInstants(span)

  /** What is dragged, and what becomes of an instant by it. */
  const moving = ref<{ keys: Set<string>; to: (at: number) => number } | null>(null)
  watch(() => doc.draft?.revision, () => (moving.value = null))
  const shown = computed(() => {
    const m = moving.value
    return (path: string, at: number) => (m?.keys.has(path) ? m.to(at) : at)
  })
  const targets = () => instants.all({ key: (property, id) => motion.isPicked.has(keyPath(property, id)) })
  const free = () => motion.chosen.every((k) => !locked(k.layer.id)) && !length.away()

  function begin(e: PointerEvent, change: (d: Drag) => { op: Act | null; to: (at: number) => number }, press?: () => void) {
    const keys = new Set(motion.picked)
    let last = ''
    drag(e, {
      slack: 3,
      move: (d) => {
        const { op, to } = change(d)
        if (JSON.stringify(op) === last) return
        last = JSON.stringify(op)
        moving.value = { keys, to }
        if (op) transient.show(op)
        else transient.hide()
      },
      end: (d) => {
        const { op } = change(d)
        if (!op) {
          transient.hide()
          return void (moving.value = null)
        }
        void transient.keep(op).then((kept) => kept || (moving.value = null))
      },
      press,
      cancel: () => {
        moving.value = null
        transient.hide()
      },
    })
  }

  /** A key is pressed: picked, and dragged with all that are. */
  function take(e: PointerEvent, paths: string[]) {
    if (e.button !== 0) return
    e.stopPropagation()
    const more = e.shiftKey || e.ctrlKey || e.metaKey
    const was = motion.picked
    const had = paths.every((p) => motion.isPicked.has(p))
    if (!had) motion.pick(paths, more)
    if (!free()) return
    const to = targets()
    const edges = motion.chosen.filter((k) => paths.includes(k.path)).map((k) => k.key.at)
    begin(
      e,
      (d) => {
        const n = Math.round(d.dx / span().px.value)
        const by = d.ctrl && !more ? n : instants.drawn(edges, n, to)
        return { op: by ? act({ kind: 'retime', keys: motion.picked, frames: by, layers: [] }) : null, to: (at) => at + by }
      },
      () => {
        if (more && had) motion.picked = was.filter((p) => !paths.includes(p))
        else if (!more) motion.pick(paths)
      },
    )
  }

  /** An end of the time that picked keys take is dragged; the other stays, with Alt the middle. */
  function scale(e: PointerEvent, end: 'from' | 'to') {
    const s = motion.span
    if (e.button !== 0 || !s || s.from === s.to || !free()) return
    e.stopPropagation()
    const to = targets()
    begin(e, (d) => {
      const n = Math.round(d.dx / span().px.value)
      const by = d.ctrl ? n : instants.drawn([s[end]], n, to)
      const least = 1
      const mid = (s.from + s.to) / 2
      let [a, b] = end === 'from' ? [Math.min(s.from + by, s.to - least), s.to] : [s.from, Math.max(s.to + by, s.from + least)]
      if (d.alt) {
        const half = Math.max(least / 2, end === 'to' ? b - mid : mid - a)
        ;[a, b] = [Math.round(mid - half), Math.round(mid + half)]
      }
      const same = a === s.from && b === s.to
      return { op: same ? null : act({ kind: 'retime', keys: motion.picked, from: [s.from, s.to], to: [a, b], layers: [] }), to: (at) => a + ((at - s.from) * (b - a)) / (s.to - s.from) }
    })
  }
  return { moving, shown, take, scale }
}
