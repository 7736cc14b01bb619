import { onScopeDispose } from 'vue'

import table from './commands.json'
import { TEXT } from './held'

/** What a key, a button and the page of keys stand for. The table holds all of them. */
export type Command = keyof typeof table

interface Row {
  group: string
  /** Where its keys count: while framing, at the bench, with a document open, or everywhere. What the pointer does is only told. */
  where: 'framing' | 'bench' | 'document' | 'everywhere' | 'pointer'
  keys: string[]
  /** Whether Shift makes more of it, rather than something else. */
  shift?: boolean
  text: string
}
const rows = table as Record<Command, Row>

const signs: Record<string, string> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓', Escape: 'Esc', '-': '−' }
const shown = (k: string) => (k.length > 1 && k.includes('+') ? k.split('+') : [k]).map((part) => signs[part] ?? part).join(' ')

/** The commands whose names begin so, without that: `recipe-card` is `card`. */
export const called = (beginning: string) => Object.keys(rows).filter((id) => id.startsWith(beginning)).map((id) => id.slice(beginning.length))

/** The table as it is read: groups of lines, those that say the same together. */
export function listed(): { title: string; lines: { keys: string[]; text: string; ids: Command[] }[] }[] {
  const out: ReturnType<typeof listed> = []
  for (const [id, r] of Object.entries(rows) as [Command, Row][]) {
    let g = out.find((x) => x.title === r.group)
    if (!g) out.push((g = { title: r.group, lines: [] }))
    const same = g.lines.find((l) => l.text === r.text)
    const keys = r.where === 'pointer' ? [r.keys.map(shown).join(' ')] : r.keys.slice(0, r.keys[0]?.length === 1 && !/[A-Z0-9]/.test(r.keys[0]) ? 1 : undefined).map(shown)
    if (same) {
      same.keys.push(...keys)
      same.ids.push(id)
    } else g.lines.push({ keys, text: r.text, ids: [id] })
  }
  return out
}

/** What a button says of itself, with its key. */
export function tip(c: Command, text = rows[c].text): string {
  const key = rows[c].keys[0]
  return key ? `${text} (${shown(key)})` : text
}

function matches(e: KeyboardEvent, r: Row): boolean {
  const ctrl = (e.ctrlKey || e.metaKey) && !e.getModifierState('AltGraph')
  return r.keys.some((k) => {
    const parts = k.length > 1 ? k.split('+') : [k]
    const key = parts.at(-1)!
    if (ctrl !== parts.includes('Ctrl') || (e.altKey && !e.getModifierState('AltGraph')) !== parts.includes('Alt')) return false
    const typed = e.key === ' ' ? 'Space' : e.key
    if (key.length === 1 && /[A-Z]/.test(key)) return typed.toUpperCase() === key && (e.shiftKey === parts.includes('Shift') || !!r.shift)
    // A sign has Shift in it already, on one keyboard or another.
    return typed === key && (key.length === 1 || e.shiftKey === parts.includes('Shift') || !!r.shift)
  })
}

/** What the pointer gave the focus to: it was pressed, and nobody goes through the controls by keys. */
let pressed: EventTarget | null = null
let pointer = false
/** Whether somebody came to what has the focus by keys. */
export const byKeys = () => pressed !== document.activeElement

/**
 * Whether a key belongs to what has the focus: to a field, or to a control that goes by arrows. What a control takes besides, Space and the
 * ends of a list, is its own only where somebody came to it by keys; after a press they are the commands'. A control says in data-leaves which of
 * its keys it leaves to the commands.
 */
function belongs(e: KeyboardEvent): boolean {
  // A dialog has all keys, also before anything in it has the focus.
  if (document.querySelector('.n-modal:not([class*="-leave-"])')) return true
  const t = e.target
  if (!(t instanceof Element)) return false
  const on = (what: string) => !!t.closest(what)
  if (on(`${TEXT}, select, .n-color-picker-panel, .n-base-select-menu, .n-popselect-menu`)) return true
  // A list that dropped down is gone through, and left, by these, until it fades away.
  if (/^(Escape|Enter|Arrow)/.test(e.key) && document.querySelector('.n-dropdown-menu:not([class*="-leave-"])')) return true
  if (e.ctrlKey || e.metaKey || t.closest('[data-leaves]')?.getAttribute('data-leaves') === e.key) return false
  const arrows = /^Arrow/.test(e.key)
  const ends = /^(Home|End|Page)/.test(e.key) && !e.shiftKey && byKeys()
  if (on('[role=spinbutton]') && (arrows || /^(Enter|[\d(.,+-])$/.test(e.key))) return true
  if (on('input[type=radio], [role=slider], [role=tab], [role=treeitem], [role=radio], [role=radiogroup], .n-base-selection') && (arrows || ends)) return true
  return on('input, button, a, summary, [role=tab], [role=treeitem], [role=radio], [role=checkbox], [role=switch], .n-base-selection') && (e.key === 'Enter' || (e.key === ' ' && byKeys()))
}

/** What a command returns to leave its key to the next one that has it. */
export const pass = Symbol('pass')
/** What a command does. */
type Does = (e: KeyboardEvent) => unknown
const at: { handlers: Partial<Record<Command, Does>>; when: () => boolean }[] = []
const order = ['framing', 'bench', 'document', 'everywhere'] as const

/** The key that a command took: what was pressed before does not hear that it is let go. */
let taken = ''
function letGo(e: KeyboardEvent) {
  if (e.code !== taken) return
  taken = ''
  e.preventDefault()
  e.stopImmediatePropagation()
}
function pressing(e: PointerEvent) {
  pointer = true
  const has = document.activeElement
  if (has && e.target instanceof Node && has.contains(e.target)) pressed = has
}
const typing = () => void (pointer = false)
const focused = (e: FocusEvent) => void (pressed = pointer ? e.target : null)
function listen(on: boolean) {
  const to = on ? window.addEventListener : window.removeEventListener
  to('keydown', heard as EventListener)
  to('keydown', typing, true)
  to('keyup', letGo as EventListener, true)
  to('pointerdown', pressing as EventListener, true)
  to('focusin', focused as EventListener, true)
}

function heard(e: KeyboardEvent) {
  if (e.defaultPrevented || e.isComposing || belongs(e)) return
  for (const where of order) {
    for (const [id, r] of Object.entries(rows) as [Command, Row][]) {
      if (r.where !== where || !matches(e, r)) continue
      for (const h of at) {
        const does = h.handlers[id]
        if (!does || !h.when() || does(e) === pass) continue
        taken = e.code
        return e.preventDefault()
      }
    }
  }
  // Where a picture is worked on, nothing of the page around it is selected by this.
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a' && document.querySelector('[data-stage]')) e.preventDefault()
}

/** Whether somebody does something on a command now. */
export const can = (id: Command) => at.some((h) => h.handlers[id] && h.when())
/** Does what a command stands for, as its key would. */
export function run(id: Command) {
  const e = new KeyboardEvent('keydown')
  for (const h of at) {
    const does = h.handlers[id]
    if (does && h.when() && does(e) !== pass) return
  }
}

/** Says what commands do while the caller is there, and while `when` holds. */
export function useCommands(handlers: Partial<Record<Command, Does>>, when: () => boolean = () => true) {
  const mine = { handlers, when }
  if (!at.length) listen(true)
  at.push(mine)
  onScopeDispose(() => {
    at.splice(at.indexOf(mine), 1)
    if (!at.length) listen(false)
  })
}
