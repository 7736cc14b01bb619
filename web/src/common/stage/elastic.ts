import type { Part } from '../../api/client'

/** Where among the frames that are seen an instant of the template lies: its parts of time are told with both. */
export function seenAt(time: Part[], t: number): number {
  const p = time.find((p) => t < p.to) ?? time.at(-1)
  if (!p) return t
  return p.to === p.from ? p.at : p.at + ((t - p.from) * (p.until - p.at)) / (p.to - p.from)
}

/** The instant of the template that a frame shows, in its frames. */
export function shownAt(time: Part[], n: number): number {
  const p = time.find((p) => n < p.until) ?? time.at(-1)
  if (!p) return n
  return p.until === p.at ? p.to : p.from + ((n - p.at) * (p.to - p.from)) / (p.until - p.at)
}

/** How many times slower elastic time plays than it does by itself. */
export function stretchOf(p: Part): number {
  return (p.until - p.at) / Math.max(1, p.to - p.from)
}

/** Parts that are as they are by themselves. */
export function isPlain(time: Part[]): boolean {
  return time.every((p) => Math.abs(p.at - p.from) < 1e-6 && Math.abs(p.until - p.to) < 1e-6)
}
