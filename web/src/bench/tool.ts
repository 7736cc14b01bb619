import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'

import type { Act } from '../api/client'

/** Something of the tray: what is made of it, and how. */
export interface Swatch {
  id: string
  label: string
  tip: string
  /** Its kind of thread: media, colour, amount, duration; '' is none. */
  thread: string
  /** What becomes of it; where it has a box, one is drawn on the stage. */
  act: Pick<Act, 'kind' | 'way' | 'path' | 'kinds' | 'id'> | null
  box: boolean
}

/** All that can be put on the table. */
export const tray: Swatch[] = [
  { id: 'pocket', label: 'Pocket', tip: 'A place for pictures and clips that an editor swaps', thread: 'media', act: { kind: 'sew' }, box: true },
  { id: 'mark', label: 'Mark', tip: 'A pocket for marks: it shows all of what comes in', thread: 'media', act: { kind: 'sew', kinds: ['logo'] }, box: true },
  { id: 'split', label: 'Split', tip: 'Rows and columns of pockets, computed', thread: 'media', act: null, box: false },
  { id: 'recipe', label: 'Recipe', tip: 'Layers built from a few numbers, which can be changed later', thread: 'amount', act: null, box: false },
  { id: 'picture', label: 'Picture', tip: 'A picture of the template’s own', thread: 'media', act: null, box: false },
  { id: 'words', label: 'Words', tip: 'Words, set in a face and made to fit their box', thread: 'words', act: { kind: 'insert', way: 'words' }, box: true },
  { id: 'counter', label: 'Counter', tip: 'Figures that turn to an end value', thread: 'amount', act: { kind: 'insert', way: 'counter' }, box: true },
  { id: 'rectangle', label: 'Panel', tip: 'A rectangle, its corners round if wished', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'rectangle' }, box: true },
  { id: 'ellipse', label: 'Round', tip: 'A circle or an ellipse', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'ellipse' }, box: true },
  { id: 'triangle', label: 'Pennant', tip: 'A triangle that points to the right', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'triangle' }, box: true },
  { id: 'polygon', label: 'Polygon', tip: 'Three sides or more', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'polygon' }, box: true },
  { id: 'star', label: 'Star', tip: 'Points as many as wished', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'star' }, box: true },
  { id: 'arrow', label: 'Arrow', tip: 'An arrow with head and shaft', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'arrow' }, box: true },
  { id: 'path', label: 'Path', tip: 'A free path or a line: press its points one after another, drag to bend it', thread: 'colour', act: null, box: false },
  { id: 'rule', label: 'Rule', tip: 'A thin line', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'rule' }, box: true },
  { id: 'border', label: 'Border', tip: 'A line along the edge of the canvas, or of a box', thread: 'colour', act: { kind: 'insert', way: 'shape', path: 'border' }, box: true },
  { id: 'ground', label: 'Ground', tip: 'A colour or a gradient over the whole canvas', thread: 'colour', act: { kind: 'insert', way: 'ground' }, box: false },
  { id: 'grade', label: 'Grade', tip: 'Changes the colours of all that lies below', thread: 'amount', act: { kind: 'insert', way: 'grade' }, box: false },
  { id: 'camera', label: 'Camera', tip: 'Moves all that lies below as one sheet', thread: 'duration', act: { kind: 'insert', way: 'camera' }, box: false },
  { id: 'carrier', label: 'Carrier', tip: 'A place without a picture, which others follow', thread: 'duration', act: { kind: 'insert', way: 'carrier' }, box: true },
  { id: 'track', label: 'Progress', tip: 'A number driven by keys, from nothing to all of it, which formulas read', thread: 'duration', act: { kind: 'insert', way: 'track' }, box: false },
  { id: 'group', label: 'Group', tip: 'An empty group, to put layers in', thread: '', act: { kind: 'insert', way: 'group' }, box: false },
]

/** The way of motion of a layer or a mask, by its path; and whether a path is one. */
export const wayOf = (of: string) => `${of}/motion/place`
export const isWay = (path?: string) => !!path?.endsWith('/motion/place')

/** What is at hand at the bench: a swatch whose box is to be drawn, the group that is entered, what is being named. */
export const useTool = defineStore('tool', () => {
  const swatch = ref<Swatch | null>(null)
  /** The group whose inside is worked on; '' is the canvas. */
  const inside = ref('')
  /** The layer whose name is being typed in the tree. */
  const naming = ref('')
  const splitting = ref(false)
  const picking = ref(false)
  /** The pocket whose lining is being chosen. */
  const lining = ref('')
  /** Whether what is set inside a use of a motif is set in this use alone. */
  const own = ref(false)
  /** Whether the other formats are seen beside the one that is worked on. */
  const beside = useLocalStorage('ivy-beside', false)
  /** What is chosen by pointing at a layer: for what, among which, and what is done with it. */
  const pointing = shallowRef<{ what: string; of: string; options: string[]; done: (id: string) => void; taking?: boolean } | null>(null)
  /** A path that is being drawn: as a shape, whose looks are those of `like`, or of what a path names: a mask of it, or its way of motion. */
  const pen = shallowRef<{ of?: string; like?: string } | null>(null)
  /** Whose points are worked on, a layer, a mask or a way by its path, and which of them are selected. */
  const path = ref('')
  const picks = ref<number[]>([])
  /** Where the caret is to stand in words that are about to be typed: a point of the screen. */
  const writeAt = shallowRef<{ clientX: number; clientY: number } | null>(null)
  watch(path, () => (picks.value = []))
  /** A mask of a form, whose box is to be drawn on the stage, and of what; and the mask that is worked on, by its path. */
  const masking = shallowRef<{ of: string; way: string; label: string } | null>(null)
  const mask = ref('')
  /** The treatment whose numbers are open. */
  const treatment = ref('')
  /** The highlighter whose numbers are open, and the line of one. */
  const highlight = ref('')
  /** The axis of a face whose place is open. */
  const axis = ref('')
  const highLine = ref('')
  /** What was last chosen of a layer's words while they were typed, in UTF-16 units: what a new highlighter is of. */
  const marked = shallowRef<{ layer: string; from: number; to: number } | null>(null)
  /** The version that is seen beside the draft as it is, by its revision; -1 is none. */
  const version = ref(-1)
  /** What a layer performs, of which the numbers are open: its id. */
  const performance = ref('')
  /** The side of the panel that is asked for, and what is to be seen there: a property by its path, or an entry. */
  const go = shallowRef<{ side: 'make' | 'sheet' | 'ledger' | 'history'; property?: string; entry?: string } | null>(null)
  /** What is looked for in the ledger, and where somebody went from there. */
  const ledger = ref({ text: '', only: '' as '' | 'moves' | 'tied' | 'free' | 'apart', all: false, row: '', left: false })
  watch(inside, () => (own.value = false))
  return { writeAt, highlight, highLine, axis, marked, swatch, inside, naming, splitting, picking, lining, own, beside, pointing, pen, path, picks, masking, mask, treatment, performance, version, go, ledger }
})
