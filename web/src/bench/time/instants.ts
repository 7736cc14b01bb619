import { useDocument } from '../../common/document'
import { useTransport } from '../../common/transport'
import type { TimeWindow } from '../../common/stage/window'

/** How near something has to come to be drawn to an instant, px. */
const REACH = 6

/** Draws what is dragged in time to the playhead, to cues, to borders of held time, to ends of bars and to keys. */
export function useInstants(span: () => TimeWindow) {
  const doc = useDocument()
  const transport = useTransport()
  /** Instants of the document, but for those of layers, keys and held time that go along. */
  function all(without: { layer?: (id: string) => boolean; key?: (property: string, id: string) => boolean; held?: string }): number[] {
    const d = doc.draft!
    const out = [0, d.frames, Math.round(transport.shows), ...d.cues.map((c) => c.frame), ...d.time.filter((p) => p.id !== without.held).flatMap((p) => [p.from, p.to])]
    for (const y of d.layers) {
      if (without.layer?.(y.id)) continue
      out.push(y.from, y.until)
      for (const t of y.tracks) for (const k of t.keys) if (!without.key?.(t.path, k.id)) out.push(k.at)
    }
    return out
  }
  /** By how many frames what has these edges goes, meant to go by so many. */
  function drawn(edges: number[], by: number, to: number[]): number {
    let best = by
    let near = REACH / span().px.value
    for (const e of edges) {
      for (const t of to) {
        const off = Math.abs(e + by - t)
        if (off < near) {
          near = off
          best = Math.round(t - e)
        }
      }
    }
    return best
  }
  return { all, drawn }
}
