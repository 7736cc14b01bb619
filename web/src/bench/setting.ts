import { ref } from 'vue'

import type { Op, Property } from '../api/client'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'
import { useTransient } from '../common/transient'
import { useActs } from './acts'
import type { Rest } from './LayerProperty.vue'
import { useTool } from './tool'

/** How properties are set from fields: shown on the way, kept when it is meant, left out, pointed at. */
export function useSetting() {
  const doc = useDocument()
  const selection = useSelection()
  const transient = useTransient()
  const tool = useTool()
  const acts = useActs()
  /** Values on the way, shown before they are kept. */
  const drafts = ref<Record<string, Rest>>({})
  function op(p: Property, rest: Rest): Op {
    const value = Array.isArray(rest) && p.kind !== 'list' && (rest.length === 1 || (p.alike && rest.every((n) => n === rest[0]))) ? rest[0] : rest
    // The format that is looked at goes along: a length is kept in its unit by it.
    return { ...acts.act({ kind: 'rest', path: p.path, value, layers: [] }), apart: !!selection.where(p) }
  }
  function draft(p: Property, rest: Rest) {
    drafts.value[p.path] = rest
    transient.show(op(p, rest))
  }
  function press(p: Property, rest: Rest) {
    drafts.value[p.path] = rest
    transient.soon(op(p, rest))
  }
  function cancel() {
    drafts.value = {}
    transient.hide()
  }
  async function set(p: Property, rest: Rest) {
    drafts.value[p.path] = rest
    if (!(await transient.keep(op(p, rest)))) drafts.value = {}
  }
  /** Leaves it out of the document. */
  function reset(p: Property) {
    if (p.given) void doc.change({ ...acts.act({ kind: 'rest', path: p.path, layers: [] }), apart: p.own })
  }
  const unit = (p: Property, way: 'px' | 'share') => void doc.change(acts.act({ kind: 'unit', path: p.path, way }))
  function point(p: Property, of: string, name: string) {
    tool.pointing = { what: `${name}: ${p.label.toLowerCase()} …`, of, options: p.options.map((o) => o.id), done: (id) => void set(p, id) }
  }
  return { drafts, draft, press, cancel, set, reset, unit, point }
}
