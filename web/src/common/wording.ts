import type { Words } from '../api/client'
import { apply, type Projective } from './projective'

export interface Spot {
  x: number
  top: number
  bottom: number
  row: number
}

/** Letters as the server tells them: first unit, unit after the last, row, left side, width (negative: from right to left). */
type Mark = [number, number, number, number, number]
const marksOf = (w: Words) => w.marks as unknown as Mark[]
const rowsOf = (w: Words) => w.rows as unknown as [number, number, number, number, number][]

/** How far apart the rows of an empty wording are, where nothing says it. */
const sizeOf = (w: Words) => w.size || 40

/** Where the caret stands before a unit of the wording, in px of the layer's box. */
export function spotAt(w: Words, at: number): Spot {
  const marks = marksOf(w)
  const on = (row: number, x: number): Spot => {
    const r = rowsOf(w)[row]
    return { x, top: r ? r[2] : 0, bottom: r ? r[3] : sizeOf(w), row }
  }
  let before: Mark | undefined
  for (const m of marks) {
    if (at >= m[0] && at < m[1]) {
      const share = (at - m[0]) / (m[1] - m[0]) // within a ligature
      const wide = Math.abs(m[4])
      return on(m[2], m[4] < 0 ? m[3] + wide * (1 - share) : m[3] + wide * share)
    }
    if (m[1] <= at) before = m
  }
  // A line end that was typed begins another row.
  const typed = w.text.slice(before ? before[1] : 0, at).split('\n').length - 1
  if (typed) {
    const row = Math.min(rowsOf(w).length - 1, (before ? before[2] : 0) + typed)
    return on(Math.max(0, row), rowsOf(w)[row]?.[0] ?? 0)
  }
  if (!before) return on(0, rowsOf(w)[0]?.[0] ?? 0)
  return on(before[2], before[4] < 0 ? before[3] : before[3] + before[4])
}

/** The unit of the wording that lies nearest to a place in px of the layer's box. */
export function unitAt(w: Words, x: number, y: number): number {
  const rows = rowsOf(w)
  if (!rows.length) return 0
  let row = rows.findIndex((r) => y < r[3])
  if (row < 0) row = rows.length - 1
  return unitOn(w, row, x)
}

/** The same on a row. */
export function unitOn(w: Words, row: number, x: number): number {
  const marks = marksOf(w).filter((m) => m[2] === row)
  if (!marks.length) {
    // An empty row: behind the line ends before it.
    let at = -1
    for (let k = 0; k < row; k++) at = w.text.indexOf('\n', at + 1)
    return at + 1
  }
  let best = marks[0]![0]
  let near = Infinity
  for (const m of marks) {
    const n = m[1] - m[0]
    for (let k = 0; k <= n; k++) {
      const share = k / n
      const px = m[4] < 0 ? m[3] - m[4] * (1 - share) : m[3] + m[4] * share
      const far = Math.abs(px - x)
      if (far < near - 1e-6) {
        near = far
        best = m[0] + k
      }
    }
  }
  return best
}

/** The boxes of what is selected, one for each stretch of a row. */
export function chosen(w: Words, from: number, to: number): { x: number; y: number; w: number; h: number }[] {
  const out: { x: number; y: number; w: number; h: number; row: number }[] = []
  for (const m of marksOf(w)) {
    if (m[1] <= from || m[0] >= to || m[0] === m[1]) continue
    const a = Math.max(0, (from - m[0]) / (m[1] - m[0]))
    const b = Math.min(1, (to - m[0]) / (m[1] - m[0]))
    const wide = Math.abs(m[4])
    const x = m[4] < 0 ? m[3] + wide * (1 - b) : m[3] + wide * a
    const r = rowsOf(w)[m[2]]!
    const last = out.at(-1)
    const one = { x, y: r[2], w: wide * (b - a), h: r[3] - r[2], row: m[2] }
    if (last && last.row === one.row && Math.abs(last.x + last.w - one.x) < 0.5) last.w += one.w
    else if (last && last.row === one.row && Math.abs(one.x + one.w - last.x) < 0.5) {
      last.x = one.x
      last.w += one.w
    } else out.push(one)
  }
  return out
}

/** The first unit of a row and the one after its last. */
export function rowEnds(w: Words, row: number): [number, number] {
  const marks = marksOf(w).filter((m) => m[2] === row)
  if (!marks.length) {
    const at = unitOn(w, row, 0)
    return [at, at]
  }
  return [Math.min(...marks.map((m) => m[0])), Math.max(...marks.map((m) => m[1]))]
}

/** A box of the layer as a polygon on the canvas. */
export function polygon(map: readonly number[], b: { x: number; y: number; w: number; h: number }): string {
  return [[0, 0], [1, 0], [1, 1], [0, 1]].map(([x, y]) => apply(map as unknown as Projective, { x: b.x + b.w * x!, y: b.y + b.h * y! })).map((p) => `${p.x},${p.y}`).join(' ')
}
