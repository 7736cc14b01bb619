import type { Act } from '../../api/client'
import { useDocument } from '../../common/document'
import { useActs, type Deed } from '../acts'
import { useLayer } from '../layer'
import { useTool } from '../tool'

type Way = 'move' | 'in' | 'out' | 'add' | 'remove' | 'corner' | 'smooth' | 'open' | 'shut' | 'join'

/** What is done to the points of the path that is worked on, by keys, buttons and the pointer alike. */
export function usePoints() {
  const tool = useTool()
  const layer = useLayer()
  const { points, nudge: by } = useActs()
  const doc = useDocument()
  const form = () => layer.view?.forms.find((f) => f.path === tool.path)
  const op = (way: Way, more: Partial<Deed> = {}): Act => points(way, more)
  async function run(way: Way, more: Partial<Deed> = {}) {
    const picks = tool.picks
    const count = form()?.nodes.length ?? 0
    if (!(await doc.change(op(way, more)))) return
    if (way === 'remove' || way === 'open' || way === 'shut') tool.picks = []
    else if (way === 'join') tool.picks = [picks.length === 2 && picks.includes(0) && picks.includes(count - 1) ? 0 : Math.min(...picks)]
  }
  /** The same by keys. */
  function key(e: KeyboardEvent) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
    const n = form()?.nodes.length ?? 0
    if (way && tool.picks.length) by(way[0]!, way[1]!, e.shiftKey)
    else if ((e.key === 'Delete' || e.key === 'Backspace') && tool.picks.length) void run('remove')
    else if (e.key.toLowerCase() === 'a' && (e.ctrlKey || e.metaKey)) tool.picks = [...Array(n).keys()]
    else if (e.key === 'Escape' && tool.picks.length) tool.picks = []
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  return { op, does: run, key, form }
}
