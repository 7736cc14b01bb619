import type { Act } from '../api/client'
import { useTransient } from '../common/transient'
import { useActs } from './acts'
import { useLayer } from './layer'
import { useTool } from './tool'

type Way = 'move' | 'in' | 'out' | 'add' | 'remove' | 'corner' | 'smooth' | 'open' | 'shut' | 'join'

/** What is done to the points of the path that is worked on, by keys, buttons and the pointer alike. */
export function usePoints() {
  const tool = useTool()
  const transient = useTransient()
  const layer = useLayer()
  const { act, does } = useActs()
  const form = () => layer.view?.forms.find((f) => f.path === tool.path)
  function op(way: Way, more: Partial<Act> = {}): Act {
    return { ...act({ kind: 'points', path: tool.path, way, picks: tool.picks, layers: [], ...(more as object) }) }
  }
  async function run(way: Way, more: Partial<Act> = {}) {
    const picks = tool.picks
    const count = form()?.nodes.length ?? 0
    if (!(await does(op(way, more)))) return
    if (way === 'remove' || way === 'open' || way === 'shut') tool.picks = []
    else if (way === 'join') tool.picks = [picks.length === 2 && picks.includes(0) && picks.includes(count - 1) ? 0 : Math.min(...picks)]
  }
  /** Moves what is selected by keys; a burst is one change. */
  function nudge(x: number, y: number) {
    const before = (transient.wished(op('move')) as Act | null)?.to ?? [0, 0]
    transient.soon(op('move', { from: [0, 0], to: [before[0]! + x, before[1]! + y] }))
  }
  return { op, does: run, nudge, form }
}
