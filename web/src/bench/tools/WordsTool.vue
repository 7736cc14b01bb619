<script setup lang="ts">
import { computed, onScopeDispose } from 'vue'

import type { Words } from '../../api/client'
import { useDocument } from '../../common/document'
import { useHeld } from '../../common/held'
import { useNotices } from '../../common/notices'
import { useSelection } from '../../common/selection'
import WordsEditor from '../../common/stage/WordsEditor.vue'
import { useTransient } from '../../common/transient'
import { useWords } from '../../common/words'
import { useActs } from '../acts'
import { useLayer } from '../layer'
import { useTool } from '../tool'

/** The words of the selected layer, typed on the picture. `said` is how they would be set, while something is on its way. */
const props = defineProps<{ said: Words | null; k: number; size: { w: number; h: number }; at: (p: { clientX: number; clientY: number }) => [number, number] }>()
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const layer = useLayer()
const tool = useTool()
const { act } = useActs()
const id = selection.writing
const list = useWords(() => id)
const words = computed(() => (props.said?.layer === id ? props.said : list.value[0]))
const from = tool.writeAt ?? undefined
tool.writeAt = null

// What is typed while the words are asked for comes into the field, or, where somebody went on elsewhere by then, in place of all that was selected.
const held = useHeld()
if (!held.waiting) {
  const where = `layers/${id}/text`
  void held.until().left.then((t) => {
    if (!t) return
    if (from) useNotices().say('info', `“${t.slice(0, 60)}” was typed before the words were open, and is not in them.`)
    else void doc.change(act({ kind: 'rest', path: where, value: t, layers: [] }))
  })
}

function typed(text: string) {
  const own = layer.view?.properties.find((p) => p.path === words.value?.path)
  transient.soon({ ...act({ kind: 'rest', path: words.value!.path, value: text, layers: [] }), apart: !!selection.where(own) })
}
function done() {
  transient.flush()
  if (selection.writing === id) selection.writing = ''
}
onScopeDispose(() => transient.flush())
</script>

<template>
  <WordsEditor v-if="words" :words="words" :label="doc.draft!.layers.find((y) => y.id === id)?.name ?? 'Words'" :k="k" :size="size" :at="at" :from="from" :all="!from" @typed="typed" @marked="(from, to) => (tool.marked = to > from ? { layer: id, from, to } : null)" @done="done" />
</template>
