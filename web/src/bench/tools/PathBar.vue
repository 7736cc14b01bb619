<script setup lang="ts">
import { IconCircleDot, IconPolygon, IconTrash, IconVectorBezier2, IconLink, IconScissors } from '@tabler/icons-vue'
import { NCheckbox } from 'naive-ui'
import { computed } from 'vue'

import { useSelection } from '../../common/selection'
import { useLayer } from '../layer'
import { usePoints } from './points'
import { isWay, useTool } from '../tool'

/** What can be done with the points of a path, or what is to be drawn. */
const tool = useTool()
const selection = useSelection()
const layer = useLayer()
const points = usePoints()
const form = computed(() => layer.view?.forms.find((f) => f.path === tool.path))
/** What is drawn is a way of motion. */
const leads = computed(() => isWay(tool.pen?.of))
const n = computed(() => tool.picks.length)
const breaks = computed(() => n.value === 1 && !!form.value && (form.value.closed || (!form.value.mask && tool.picks[0]! > 0 && tool.picks[0]! < form.value.nodes.length - 1)))
</script>

<template>
  <div role="toolbar" aria-label="Path" data-test="path-bar" @keydown="tool.path && points.key($event)">
    <template v-if="tool.pen">
      <strong>{{ !tool.pen.of ? 'Draw a path' : leads ? 'Draw its way' : 'Draw a mask' }}</strong>
      <span class="quiet">{{ leads ? 'press where it is to go, drag to bend; Enter ends the way, the first point leads it back' : `press its points, drag to bend; ${tool.pen.of ? '' : 'Enter ends a line, '}the first one closes it` }}</span>
      <NCheckbox v-if="!tool.pen.of && selection.line" size="small" :checked="!!tool.pen.like" data-test="pen-like" title="It takes the stroke, fill and blend of the selected layer" @update:checked="(is: boolean) => (tool.pen = { like: is ? selection.layer : undefined })">as {{ selection.line.name }}</NCheckbox>
      <button @click="tool.pen = null">Leave</button>
    </template>
    <template v-else-if="tool.masking">
      <strong>{{ tool.masking.label }}</strong><span class="quiet">draw its box on the layer, or press: as large as the layer</span><button @click="tool.masking = null">Leave</button>
    </template>
    <template v-else-if="form">
      <strong>{{ form.nodes.length }} points{{ form.way ? ' of its way' : '' }}</strong><span v-if="n" class="quiet">{{ n }} selected</span>
      <button class="icon-button" :disabled="!n" title="Corners" aria-label="Make corners" data-points="corner" @click="points.does('corner')"><IconPolygon :size="16" /></button>
      <button class="icon-button" :disabled="!n" title="Curves" aria-label="Make curves" data-points="smooth" @click="points.does('smooth')"><IconVectorBezier2 :size="16" /></button>
      <button class="icon-button" :disabled="!n" title="Take out (Delete)" aria-label="Take points out" data-points="remove" @click="points.does('remove')"><IconTrash :size="16" /></button>
      <template v-if="!form.way">
        <button class="icon-button" :disabled="n < 2" title="Join them into one" aria-label="Join points" data-points="join" @click="points.does('join')"><IconLink :size="16" /></button>
        <button class="icon-button" :disabled="!breaks" :title="form.closed ? 'Break: open the path here' : form.mask ? 'A mask is one path' : 'Break: two paths from here on'" aria-label="Break the path" data-points="open" @click="points.does('open')"><IconScissors :size="16" /></button>
        <button v-if="!form.closed" class="icon-button" title="Close the path" aria-label="Close the path" data-points="shut" @click="points.does('shut')"><IconCircleDot :size="16" /></button>
      </template>
      <button data-test="path-done" @click="tool.path = ''">Done</button>
    </template>
    <template v-else><span class="quiet">That path is not seen here</span><button @click="tool.path = ''">Done</button></template>
  </div>
</template>

<style scoped>
div { white-space: nowrap; min-height: 30px; }
strong { margin-right: 6px; }
.quiet { font-size: 12px; overflow: hidden; text-overflow: ellipsis; }
button:not(.icon-button) { border: 0; background: none; padding: 2px 6px; cursor: pointer; color: var(--ivy-deep); font-weight: 600; }
.icon-button { width: 28px; height: 26px; }
</style>
