<script setup lang="ts">
import { IconVectorBezier2 } from '@tabler/icons-vue'
import { NButton, NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import type { Property } from '../api/client'
import { tip } from '../common/commands'
import { useLayer } from './layer'
import { useSelection } from '../common/selection'
import { useActs } from './acts'
import { useMotion } from './time/motion'
import { useTool } from './tool'
import BlurCost from './BlurCost.vue'
import GradientStops from './GradientStops.vue'
import PartsList from './PartsList.vue'
import WayButton from './tools/WayButton.vue'
import LayerProperty from './LayerProperty.vue'
import { useSetting } from './setting'
import WordsNotes from './WordsNotes.vue'

/** The selected layer's properties: where it stands and how it looks, live. */
const selection = useSelection()
const chosen = useLayer()
const tool = useTool()
const acts = useActs()
const motion = useMotion()
const view = computed(() => (chosen.view?.id === selection.layer ? chosen.view : null))
/** Its own outline, where it is a drawn one. */
const path = computed(() => view.value?.forms.find((f) => !f.mask && !f.way && f.kind === 'path'))
const formatName = computed(() => selection.formatView?.name.toLowerCase() ?? '')

const sections = computed(() => {
  const out: { title: string; props: Property[]; rare: Property[] }[] = []
  for (const p of view.value?.properties ?? []) {
    if (['masks', 'treatments', 'moves', 'highlights', 'axes'].includes(p.path.split('/')[2]!)) continue // they have lists of their own
    let s = out.find((x) => x.title === p.section)
    if (!s) out.push((s = { title: p.section, props: [], rare: [] }))
    // What was set here is not folded away.
    ;(p.rare && !p.given ? s.rare : s.props).push(p)
  }
  return out.sort((a, b) => Number(!a.props.length) - Number(!b.props.length))
})

/** It has a place that can be led along a way; of cameras that is told by keys alone. */
const moves = computed(() => view.value?.kind !== 'camera' && !!view.value?.properties.some((p) => p.name === 'place' && p.path.split('/').length === 3))
/** Something of it has keys. */
const moving = computed(() => !!selection.line?.tracks.some((t) => !t.by))
/** It can be treated: it lies on what is below it. */
const blends = computed(() => !!view.value?.properties.some((p) => p.name === 'blend'))

const { drafts, draft, press, cancel, set, reset, unit, point } = useSetting()
watch(view, () => (drafts.value = {}))
/** Makes a named gradient of its stops. */
const naming = ref('')
async function nameStops() {
  if (naming.value.trim() && (await acts.does({ kind: 'gradient', name: naming.value.trim(), layers: [view.value!.id] }))) naming.value = ''
}
</script>

<template>
  <div v-if="view" class="layer" :data-layer-panel="view.id">
    <p class="facts quiet small">
      <template v-if="view.blend !== 'normal'">Blends by {{ view.blend }}. </template><template v-if="view.matte">Cut by the {{ view.matte }}. <button class="link" data-test="look-at-matte" @click="acts.lookAtMatte()">{{ selection.alone.length && selection.ground ? 'The picture again' : 'Look at it alone' }}</button> </template><template v-if="view.follows">Follows {{ view.follows }}. </template><template v-if="view.copies">{{ view.copies }} copies.</template>
    </p>
    <p v-if="moving && !motion.recording" class="quiet small" data-test="shifts">What moves is shifted as a whole while keys are not recorded.</p>
    <NButton v-if="path" size="small" class="points" data-test="edit-points" :title="tip('edit-path', 'Work on its points')" @click="tool.path = tool.path === path.path ? '' : path.path"><template #icon><IconVectorBezier2 :size="16" /></template>{{ tool.path === path.path ? 'Leave its points' : 'Points of the path' }}</NButton>
    <WayButton v-if="moves" :view="view" :of="`layers/${view.id}`" />
    <section v-if="view.stops.length" data-test="own-gradient">
      <h3 class="heading">Gradient</h3>
      <GradientStops :path="`layers/${view.id}`" :stops="view.stops" :name="view.name" />
      <div class="named"><NInput v-model:value="naming" size="tiny" placeholder="A name for these stops" :maxlength="120" :input-props="{ 'aria-label': 'A name for these stops' }" @keydown.enter="nameStops" /><NButton size="tiny" :disabled="!naming.trim()" title="Other layers can take them then, and an editor can choose" data-test="name-stops" @click="nameStops">Name</NButton></div>
    </section>
    <WordsNotes v-if="view.kind === 'words'" :layer="view.id" />
    <template v-for="s in sections" :key="s.title">
    <section>
      <h3 class="heading">{{ s.title }}</h3>
      <LayerProperty v-for="p in s.props" :key="p.path" :p="p" :drafted="drafts[p.path]" :format="formatName" @draft="draft(p, $event)" @press="press(p, $event)" @set="set(p, $event)" @reset="reset(p)" @cancel="cancel" @unit="unit(p, $event)" @point="point(p, view.id, view.name)" />
      <BlurCost v-if="s.title === 'Motion blur' && s.props.some((p) => p.name === 'motionBlur.samples' && p.given) && !view.id.includes(':')" :layer="view.id" />
      <details v-if="s.rare.length" class="more">
        <summary>{{ s.props.length ? 'More' : 'Show' }} <span class="quiet">{{ s.rare.map((p) => p.label.toLowerCase()).join(', ') }}</span></summary>
        <div class="rest"><LayerProperty v-for="p in s.rare" :key="p.path" :p="p" :drafted="drafts[p.path]" :format="formatName" @draft="draft(p, $event)" @press="press(p, $event)" @set="set(p, $event)" @reset="reset(p)" @cancel="cancel" @unit="unit(p, $event)" @point="point(p, view.id, view.name)" /></div>
      </details>
    </section>
    <template v-for="of in s.title === 'Words' ? (['axes'] as const) : s.title === 'Fitting' ? (['highlights'] as const) : s.title === 'Look' ? (['masks', 'treatments'] as const) : s.title === 'Time' ? (['moves'] as const) : []" :key="of">
      <PartsList v-if="of === 'moves' || of === 'highlights' || of === 'axes' || (of === 'masks' ? !['grade', 'camera', 'carrier', 'track'].includes(view.kind) : blends)" :view="view" :at="`layers/${view.id}`" :of="of">
        <template #default="inner"><LayerProperty v-for="p in inner.props" :key="p.path" :p="p" :drafted="drafts[p.path]" :format="formatName" @draft="draft(p, $event)" @press="press(p, $event)" @set="set(p, $event)" @reset="reset(p)" @cancel="cancel" @unit="unit(p, $event)" @point="point(p, view.id, view.name)" /></template>
      </PartsList>
    </template>
    </template>
  </div>
</template>

<style scoped>
.layer { display: grid; gap: 12px; }
/* What is cut off at the edge must not push it. */
.layer, section, .rest { grid-template-columns: minmax(0, 1fr); }
section { display: grid; gap: 8px; padding-top: 13px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
.rest { display: grid; gap: 8px; }
.more > summary { cursor: pointer; font-size: 12px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.more[open] > summary { margin-bottom: 6px; }
.named { display: flex; gap: 6px; }
.points { justify-self: start; }
.link { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline; text-underline-offset: 3px; }
.small { font-size: 12px; }
.facts:empty { display: none; }
</style>
