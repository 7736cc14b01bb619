<script setup lang="ts">
import { IconChevronDown, IconChevronRight, IconEye, IconEyeOff, IconGripVertical, IconPlus, IconTrash, IconVectorBezier2 } from '@tabler/icons-vue'
import { NButton, NDropdown } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Layer, Property } from '../api/client'
import { useDocument } from '../common/document'
import { useDrag } from '../common/drag'
import { useFaces } from '../common/faces'
import { useActs } from './acts'
import { useTool } from './tool'
import WayButton from './tools/WayButton.vue'

/**
 * What cuts a layer, what is done to its picture and where, and what it performs, what marks its words and where its face stands: in their order, switched, sized, added
 * and taken away.
 * `at` is what they are of by its path, the layer or a treatment of it.
 */
const props = defineProps<{ view: Layer; at: string; of: 'masks' | 'treatments' | 'moves' | 'highlights' | 'lines' | 'axes' }>()
defineSlots<{ default(p: { props: Property[] }): unknown }>()
const inner = computed(() => props.at.includes('/treatments/') || props.of === 'lines')
const tool = useTool()
const doc = useDocument()
const { does, draw } = useActs()
const performs = computed(() => new Map((doc.draft?.layers.find((y) => y.id === props.view.id)?.performs ?? []).map((p) => [p.id, p])))
const drag = useDrag()
interface Part { id: string; path: string; label: string; off: boolean; mode: string; props: Property[]; drawn: boolean; form: boolean }
/** Of the layer's face: what it can be changed along, besides its weight. */
const faces = useFaces()
void faces.load()
const axes = computed(() => faces.list.find((f) => f.id === props.view.properties.find((p) => p.name === 'face')?.text)?.axes ?? [])
const parts = computed<Part[]>(() => {
  const out = new Map<string, Part>()
  for (const p of props.view.properties) {
    const list = `${props.at}/${props.of}/`
    if (!p.path.startsWith(list)) continue
    const [id, ...rest] = p.path.slice(list.length).split('/')
    if (!id || rest.length !== 1) continue // theirs are in a list of their own
    if (!out.has(id)) out.set(id, { id, path: list + id, label: '', off: false, mode: '', props: [], drawn: false, form: true })
    out.get(id)!.props.push(p)
  }
  for (const p of out.values()) {
    const said = (name: string) => p.props.find((x) => x.name === name)
    p.off = said('off')?.rest[0] === 1
    p.form = !said('of')?.text
    const kind = said('form.kind')?.text || 'rectangle'
    p.drawn = p.form && kind === 'path'
    if (props.of === 'moves') {
      const line = performs.value.get(p.id)
      p.label = line?.label ?? p.id
      p.mode = line?.back ? 'backwards' : ''
      p.form = false
      continue
    }
    if (props.of === 'highlights') {
      p.form = false
      p.label = p.props[0]!.section
      p.mode = said('phrase')?.text ?? ''
      continue
    }
    if (props.of === 'axes') {
      const axis = axes.value.find((a) => a.tag === said('tag')?.text)
      p.form = false
      p.label = axis?.name ?? said('tag')?.text ?? p.id
      p.mode = axis ? `${axis.least} to ${axis.most}` : 'the face has none'
      continue
    }
    if (props.of === 'lines') {
      p.form = false
      p.label = `Line ${out.size && [...out.keys()].indexOf(p.id) + 1}`
      continue
    }
    p.label = props.of === 'treatments' ? p.props[0]!.section : p.form ? words[kind] ?? kind : said('words')?.text ? `${said('of')!.text === 'box' ? 'Box' : 'Letters'} of ${doc.draft?.layers.find((y) => y.id === said('words')!.text)?.name ?? 'words'}` : `${said('of')!.text === 'box' ? 'Box' : said('of')!.text === 'hull' ? 'Hull' : 'Outline'} of what is in it`
    p.mode = props.of === 'masks' ? said('mode')?.text || '' : ''
  }
  return [...out.values()]
})
const words: Record<string, string> = { rectangle: 'Rectangle', ellipse: 'Ellipse', polygon: 'Polygon', star: 'Star', arrow: 'Arrow', path: 'Drawn path' }
/** What each list is called, and which of its parts is open. */
const sort = {
  masks: { title: 'Masks', more: 'Mask …', open: () => tool.mask, turn: (key: string) => ((tool.path = ''), (tool.mask = key)), key: (p: Part) => p.path },
  treatments: { title: 'Treatments', more: 'Treatment …', open: () => tool.treatment, turn: (key: string) => (tool.treatment = key), key: (p: Part) => p.id },
  highlights: { title: 'Highlighters', more: 'Highlighter …', open: () => tool.highlight, turn: (key: string) => (tool.highlight = key), key: (p: Part) => p.id },
  lines: { title: 'Lines', more: 'One more line differs', open: () => tool.highLine, turn: (key: string) => (tool.highLine = key), key: (p: Part) => p.path },
  axes: { title: 'Axes of the face', more: 'Axis …', open: () => tool.axis, turn: (key: string) => (tool.axis = key), key: (p: Part) => p.id },
  moves: { title: 'Performs', more: 'Move …', open: () => tool.performance, turn: (key: string) => (tool.performance = key), key: (p: Part) => p.id },
}[props.of]
const isOpen = (p: Part) => sort.open() === sort.key(p)
const toggle = (p: Part) => void sort.turn(isOpen(p) ? '' : sort.key(p))
const set = (p: Part, name: string, value: unknown) => does({ kind: 'rest', path: `${p.path}/${name}`, value, layers: [] })
function move(p: Part, at: number) {
  if (at >= 0 && at < parts.value.length && parts.value[at] !== p) void does({ kind: 'move', path: p.path, into: `${props.at}/${props.of}`, at, layers: [] })
}
const goal = ref(-1)
function take(e: PointerEvent, p: Part) {
  const list = (e.currentTarget as HTMLElement).closest('ul')!
  const over = (y: number) => [...list.children].findIndex((c) => y < c.getBoundingClientRect().bottom)
  drag(e, {
    slack: 4,
    move: (d) => (goal.value = over(d.y)),
    end: (d) => {
      const at = over(d.y)
      goal.value = -1
      move(p, at < 0 ? parts.value.length - 1 : at)
    },
    cancel: () => (goal.value = -1),
  })
}
function key(e: KeyboardEvent, p: Part) {
  const i = parts.value.indexOf(p)
  if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) move(p, i + (e.key === 'ArrowUp' ? -1 : 1))
  else if (e.key === 'Delete' || e.key === 'Backspace') void does({ kind: 'remove', path: p.path, layers: [] })
  else return
  e.preventDefault()
  e.stopPropagation()
}
/** Words and figures that a mask may follow. */
const lettered = computed(() => (doc.draft?.layers ?? []).filter((y) => ['words', 'counter'].includes(y.kind) && y.id !== props.view.id && !y.id.includes(':')).slice(0, 12))
const saved = computed(() => doc.draft?.savedMoves ?? [])
const adds = computed(() =>
  props.of === 'moves'
    ? [{ key: '', label: 'A plain one: from, to' }, ...saved.value.map((m) => ({ key: m.id, label: m.name }))]
    : props.of === 'highlights'
    ? [{ key: 'sweep', label: 'A sweep behind' }, { key: 'underline', label: 'An underline' }, { key: 'box', label: 'A box around' }, { key: 'strike', label: 'A strike through' }]
    : props.of === 'axes'
    ? axes.value.filter((a) => !parts.value.some((p) => p.props.some((x) => x.name === 'tag' && x.text === a.tag))).map((a) => ({ key: a.tag, label: a.name }))
    : props.of === 'treatments'
    ? [{ key: 'blur', label: 'Blur' }, { key: 'shadow', label: 'Drop shadow' }]
    : [
        ...(['rectangle', 'ellipse', 'polygon', 'star', 'arrow'] as const).map((key) => ({ key, label: words[key]! })),
        { key: 'path', label: 'Draw a path' },
        ...lettered.value.map((y) => ({ key: `letters:${y.id}`, label: `The letters of ${y.name}` })),
        ...(props.view.kind === 'view' ? [{ key: 'box', label: 'The box of what is in it' }, { key: 'outline', label: 'The outline of what is in it' }] : []),
      ],
)
/** What is added here is opened as it comes. */
const adding = ref(false)
watch(() => parts.value.length, (n, was) => {
  if (adding.value && n > was) sort.turn(sort.key(parts.value[n - 1]!))
  adding.value = false
})
function add(way: string) {
  adding.value = props.of === 'axes' || props.of === 'highlights'
  if (props.of === 'moves') return void does(way ? { kind: 'perform', id: way, layers: [props.view.id] } : { kind: 'plain-move', layers: [props.view.id] })
  if (props.of === 'highlights') return void does({ kind: 'highlight', way, picks: tool.marked?.layer === props.view.id ? [tool.marked.from, tool.marked.to] : undefined, layers: [props.view.id] })
  if (props.of === 'axes') return void does({ kind: 'axis', way, layers: [props.view.id] })
  if (props.of === 'treatments') return void does({ kind: 'treat', way, layers: [props.view.id] })
  tool.swatch = null
  tool.path = ''
  if (way === 'path') draw(props.at)
  else if (way.startsWith('letters:')) void does({ kind: 'mask', path: props.at, way: 'outline', id: way.slice(8), layers: [] })
  else if (way === 'box' || way === 'outline') void does({ kind: 'mask', path: props.at, way, layers: [] })
  else {
    tool.pen = null
    tool.masking = { of: props.at, way, label: `${words[way]} as a mask` }
  }
}
</script>

<template>
  <section v-if="of !== 'axes' || parts.length || adds.length" :data-parts="inner ? 'within' : of">
    <h4 v-if="of === 'lines'" class="quiet">{{ parts.length ? 'Line by line' : 'Alike on all lines' }}</h4>
    <h4 v-else-if="inner" class="quiet">{{ parts.length ? 'Done within' : 'Done all over the layer' }}</h4>
    <h3 v-else class="heading">{{ sort.title }} <span v-if="parts.length" class="num quiet">{{ parts.length }}</span></h3>
    <ul v-if="parts.length">
      <li v-for="(p, i) in parts" :key="p.id" :class="{ on: isOpen(p), off: p.off, goal: goal === i }" :data-part="p.id">
        <div class="line">
          <button class="grip" :aria-label="`Move ${p.label}: Alt and arrows`" title="Drag, or Alt and arrows: their order" @pointerdown="take($event, p)" @keydown="key($event, p)"><IconGripVertical :size="14" /></button>
          <button class="name" :aria-expanded="isOpen(p)" @click="toggle(p)" @keydown="key($event, p)"><component :is="isOpen(p) ? IconChevronDown : IconChevronRight" :size="13" />{{ p.label }}<small v-if="p.mode && (i || p.mode !== 'add')" class="quiet">{{ p.mode }}</small></button>
          <button v-if="p.drawn" class="icon-button" :class="{ on: tool.path === p.path }" title="Its points" :aria-label="`Points of ${p.label}`" :data-points-of="p.id" @click="tool.path = tool.path === p.path ? '' : p.path"><IconVectorBezier2 :size="15" /></button>
          <button v-if="of !== 'lines' && of !== 'axes'" class="icon-button" :aria-pressed="!p.off" :title="p.off ? 'Off: switch it on' : 'On: switch it off'" :aria-label="`${p.label}: ${p.off ? 'off' : 'on'}`" :data-switch="p.id" @click="set(p, 'off', !p.off)"><component :is="p.off ? IconEyeOff : IconEye" :size="15" /></button>
          <button class="icon-button" title="Take it away" :aria-label="`Take ${p.label} away`" :data-remove-part="p.id" @click="does({ kind: 'remove', path: p.path, layers: [] })"><IconTrash :size="14" /></button>
        </div>
        <div v-if="isOpen(p)" class="inside">
          <slot :props="of === 'axes' ? p.props.filter((x) => x.name !== 'tag') : p.props" />
          <NButton v-if="of === 'moves'" size="tiny" class="free" :title="performs.get(p.id)?.kind === 'saved' ? 'Keys of this layer’s own, which later changes of the saved move leave as they are' : 'Keys of this layer’s own'" data-test="free-move" @click="does({ kind: 'free-move', paths: [p.path], layers: [] })">Make keys of it</NButton>
          <WayButton v-if="of === 'masks' && p.form" :view="view" :of="p.path" />
          <PartsList v-if="of === 'highlights'" :view="view" :at="p.path" of="lines"><template #default="its"><slot :props="its.props" /></template></PartsList>
          <PartsList v-if="of === 'treatments'" :view="view" :at="p.path" of="masks"><template #default="its"><slot :props="its.props" /></template></PartsList>
        </div>
      </li>
    </ul>
    <NButton v-if="of === 'lines'" size="tiny" data-test="add-line" @click="does({ kind: 'high-line', path: at, layers: [] })"><template #icon><IconPlus :size="14" /></template>{{ sort.more }}</NButton>
    <NDropdown v-else-if="of !== 'axes' || adds.length" trigger="click" :options="adds" @select="add"><NButton size="tiny" :data-test="inner ? 'add-within' : `add-${of}`"><template #icon><IconPlus :size="14" /></template>{{ inner ? 'Within a mask …' : sort.more }}</NButton></NDropdown>
  </section>
</template>

<style scoped>
section { display: grid; gap: 6px; grid-template-columns: minmax(0, 1fr); justify-items: start; }
ul { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: minmax(0, 1fr); gap: 3px; width: 100%; }
li { border: 1px solid transparent; border-radius: 8px; padding: 2px 3px; }
li.on { background: var(--linen-raised); border-color: var(--ivy); }
li.off .name { color: var(--ink-quiet); text-decoration: line-through; }
li.goal { box-shadow: 0 -2px 0 var(--ivy); }
.line { display: flex; align-items: center; gap: 3px; }
.grip { border: 0; background: none; padding: 3px 0; cursor: grab; color: var(--ink-quiet); display: grid; touch-action: none; }
.name { flex: 1; min-width: 0; display: flex; align-items: center; gap: 4px; border: 0; background: none; padding: 3px 0; text-align: left; font-weight: 500; cursor: pointer; color: var(--ink); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
h4 { margin: 2px 0 0; font-size: 12px; font-weight: 500; }
.name small { font-weight: 400; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.name svg { flex: none; }
.icon-button { width: 25px; height: 24px; flex: none; }
.free { justify-self: start; }
.inside { display: grid; gap: 8px; grid-template-columns: minmax(0, 1fr); padding: 6px 4px 6px 18px; }
</style>
