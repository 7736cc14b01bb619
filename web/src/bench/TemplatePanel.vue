<script setup lang="ts">
import { IconPlus, IconTrash } from '@tabler/icons-vue'
import { NButton, NInput, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'

import ColourField from '../common/ColourField.vue'
import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'
import { plain } from '../common/format'
import NumberField from '../common/NumberField.vue'
import TextField from '../common/TextField.vue'
import { useTransport } from '../common/transport'
import OfferButton from './OfferButton.vue'
import { useActs } from './acts'
import CoverPanel from './time/CoverPanel.vue'
import ElasticPanel from './time/ElasticPanel.vue'
import LayoutPanel from './LayoutPanel.vue'
import NamedGradients from './NamedGradients.vue'
import RecipePanel from './RecipePanel.vue'
import { purposes, rates } from './start'
import { useTool } from './tool'

/** The template itself: what it is called and for, how long it is, its colours and cues, and what it lacks. */
const doc = useDocument()
const transport = useTransport()
const { does } = useActs()
const draft = computed(() => doc.draft!)

function describe(path: 'name' | 'category' | 'family' | 'about', text: string) {
  if (text.trim() !== draft.value[path]) void does({ kind: 'describe', path, name: text })
}

/** A new length or rate, while it is asked what becomes of what moves. */
const asked = ref<{ rate?: string; frames?: number } | null>(null)
const asking = computed({ get: () => !!asked.value, set: (on) => !on && (asked.value = null) })
function time(rate?: string, frames?: number) {
  if (frames && frames !== draft.value.frames && draft.value.moves) asked.value = { rate, frames }
  else void does({ kind: 'time', name: rate, at: frames ?? 0 })
}
function answer(way: 'keep' | 'stretch') {
  const a = asked.value!
  asked.value = null
  void does({ kind: 'time', name: a.rate, at: a.frames ?? 0, way })
}
const rateText = computed(() => (draft.value.rateD === 1 ? String(draft.value.rateN) : `${draft.value.rateN}/${draft.value.rateD}`))
const rateOptions = computed(() => (rates.some((r) => r.value === rateText.value) ? rates : [...rates, { value: rateText.value, label: draft.value.rate }]))

const tool = useTool()
/** All that has a named colour, in the ledger. */
function find(name: string) {
  Object.assign(tool.ledger, { text: name, only: '', row: '' })
  tool.go = { side: 'ledger' }
}
const colour = ref('#1e7383')
const colourName = ref('')
async function addColour() {
  if (await does({ kind: 'colour', name: colourName.value.trim() || `Colour ${draft.value.colours.length + 1}`, way: colour.value })) colourName.value = ''
}
</script>

<template>
  <div class="template" data-test="template">
    <section>
      <label v-for="[path, label] in ([['name', 'Name'], ['category', 'Category'], ['family', 'Family']] as const)" :key="path" class="line"><span>{{ label }}</span>
        <TextField :value="draft[path]" :label="label" :placeholder="path === 'family' ? 'None' : path === 'category' ? 'Needed for a release' : ''" :most="120" :needed="path === 'name'" @change="describe(path, $event)" />
      </label>
      <label class="line"><span>For</span>
        <NSelect :value="draft.purpose" size="small" :options="purposes.map((p) => ({ value: p.id, label: p.label }))" aria-label="What it is for" @update:value="(v: string) => does({ kind: 'describe', path: 'purpose', name: v })" />
      </label>
      <TextField :value="draft.about" label="About" :lines="20" :rows="{ minRows: 2, maxRows: 5 }" placeholder="What editors should know of it" :most="190" @change="describe('about', $event)" />
    </section>
    <section>
      <h3 class="heading">Time</h3>
      <div class="grid">
        <NumberField label="Length" unit="frames" :value="draft.frames" :min="1" :max="200000" :places="0" @change="(n: number) => time(undefined, Math.round(n))" @press="(n: number) => time(undefined, Math.round(n))" />
        <NSelect :value="rateText" size="small" filterable tag :options="rateOptions" :input-props="{ 'aria-label': 'Frames per second' }" title="Frames per second: choose, or type a fraction such as 15000/1001" @update:value="(v: string) => time(v)" />
      </div>
      <p class="quiet small"><span class="num">{{ plain((draft.frames * draft.rateD) / draft.rateN, 3) }}</span> seconds. A new rate leaves everything at its second.</p>
    </section>
    <ElasticPanel />
    <CoverPanel v-if="draft.purpose === 'transition' || draft.purpose === 'overlay'" />
    <section v-for="r in draft.recipes" :key="r.id"><RecipePanel :id="r.id" /></section>
    <section v-for="l in draft.layouts" :key="l.id"><LayoutPanel :id="l.id" /></section>
    <section>
      <h3 class="heading">Cues</h3>
      <div v-for="c in draft.cues" :key="c.id" class="row">
        <TextField size="tiny" :value="c.name" :most="120" needed :label="`Name of the cue ${c.name}`" @change="(n) => does({ kind: 'cue', id: c.id, name: n.trim() })" />
        <button class="at num" :title="`Go to frame ${c.frame}`" :aria-label="`Go to ${c.name}, frame ${c.frame}`" @click="transport.seek(c.frame)">{{ c.frame }}</button>
        <NButton size="tiny" quaternary :disabled="c.frame === transport.frame" @click="does({ kind: 'cue', id: c.id })">Move here</NButton>
        <button class="icon-button" :aria-label="`Remove the cue ${c.name}`" title="Remove" @click="does({ kind: 'cue-remove', id: c.id })"><IconTrash :size="14" /></button>
      </div>
      <NButton size="tiny" data-test="add-cue" @click="does({ kind: 'cue' })"><template #icon><IconPlus :size="14" /></template>Cue at frame {{ transport.frame }}</NButton>
    </section>
    <section>
      <h3 class="heading">Named colours</h3>
      <div v-for="c in draft.colours" :key="c.id" class="shade">
      <div class="row">
        <TextField size="tiny" class="called" :value="c.name" :most="120" needed :label="`Name of the colour ${c.name}`" @change="(n) => does({ kind: 'colour', id: c.id, name: n.trim() })" />
        <button class="uses num" :disabled="!c.uses" :title="c.uses ? 'Find its uses in the ledger' : 'Nothing has it'" :data-uses="c.id" @click="find(c.name)">{{ c.uses }}×</button>
        <OfferButton :paths="[`colours/${c.id}`]" :what="c.name" />
        <button class="icon-button" :aria-label="`Remove the colour ${c.name}`" :title="c.uses ? `Remove; its ${c.uses} uses keep the colour` : 'Remove'" @click="does({ kind: 'colour-remove', id: c.id })"><IconTrash :size="14" /></button>
      </div>
        <ColourField :label="c.name" :value="c.value" clear @change="(v: string) => does({ kind: 'colour', id: c.id, way: v })" />
      </div>
      <div class="row">
        <NInput v-model:value="colourName" size="tiny" placeholder="Name" :input-props="{ 'aria-label': 'Name of a new colour' }" @keydown.enter="addColour" />
        <ColourField label="New colour" :value="colour" class="paint" @change="colour = $event" />
        <button class="icon-button" aria-label="Add the colour" title="Add" data-test="add-colour" @click="addColour"><IconPlus :size="15" /></button>
      </div>
    </section>
    <NamedGradients />
    <section v-if="draft.pockets.length">
      <h3 class="heading">Pockets</h3>
      <p class="quiet small">{{ draft.pockets.filter((p) => p.media).length }} of {{ draft.pockets.length }} hold a stand-in{{ draft.pockets.some((p) => p.away) ? '; some were put away' : '' }}.</p>
      <div class="row">
        <NButton size="tiny" :disabled="!draft.pockets.some((p) => p.media)" title="For delivery: every pocket shows its lining; the stand-ins can be put back" data-test="empty-all" @click="does({ kind: 'empty' })">Empty all for delivery</NButton>
        <NButton v-if="draft.pockets.some((p) => p.away)" size="tiny" data-test="unempty" @click="does({ kind: 'unempty' })">Put the stand-ins back</NButton>
      </div>
    </section>
    <section v-if="draft.motifs.length" data-test="motifs">
      <h3 class="heading">Motifs</h3>
      <div v-for="m in draft.motifs" :key="m.id" class="row">
        <TextField size="tiny" :value="m.name" :most="120" needed :label="`Name of the motif ${m.name}`" @change="(n) => does({ kind: 'rename', path: `layers/${m.id}`, name: n.trim() })" />
        <span class="num quiet uses">{{ m.uses }} {{ m.uses === 1 ? 'use' : 'uses' }}</span>
        <button class="icon-button" :aria-label="`Use ${m.name} once more`" title="Use it once more" @click="does({ kind: 'insert', way: 'use', id: m.id })"><IconPlus :size="15" /></button>
        <button class="icon-button" :disabled="m.uses > 0" :aria-label="`Delete the motif ${m.name}`" :title="m.uses ? 'It is used; delete its uses first, or make groups of them' : 'Delete it'" @click="does({ kind: 'motif-remove', id: m.id })"><IconTrash :size="14" /></button>
      </div>
    </section>
    <section v-if="draft.missing.length">
      <h3 class="heading rust">Missing media</h3>
      <p v-for="m in draft.missing" :key="m.media" class="small"><strong>{{ m.name }}</strong>, for {{ m.where.join(', ') }}. Put the same file in under Media, and it takes its places by itself; or choose other media there.</p>
    </section>
    <section>
      <h3 class="heading">{{ draft.lacks.length ? 'What it needs yet' : 'Sound' }}</h3>
      <p v-if="!draft.lacks.length" class="quiet small">Nothing is missing.</p>
      <ul v-else class="lacks small"><li v-for="l in draft.lacks.slice(0, 12)" :key="l">{{ l }}</li><li v-if="draft.lacks.length > 12">and {{ draft.lacks.length - 12 }} more</li></ul>
      <a class="save" :href="`/api/drafts/${draft.id}/document`" download data-test="save">Save the document</a>
    </section>
    <CardDialog v-model:show="asking" title="What becomes of what moves?" :width="460">
      <p>The template is to be <span class="num">{{ asked?.frames }}</span> frames long instead of <span class="num">{{ draft.frames }}</span>. It has keys, trims or held time.</p>
      <template #acts>
        <NButton data-test="keep-instants" @click="answer('keep')">They stay where they are</NButton>
        <NButton type="primary" data-test="stretch" @click="answer('stretch')">They stretch along</NButton>
      </template>
    </CardDialog>
  </div>
</template>

<style scoped>
.template { display: grid; gap: 14px; }
section { display: grid; gap: 7px; grid-template-columns: minmax(0, 1fr); }
section + section { padding-top: 12px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
.line { display: grid; grid-template-columns: 66px minmax(0, 1fr); align-items: center; }
.line span { color: var(--ink-quiet); }
.grid { display: grid; grid-template-columns: 1.6fr 1fr; gap: 6px; align-items: center; }
.row { display: flex; align-items: center; gap: 6px; min-width: 0; }
.go { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; text-align: left; background: none; border: 0; padding: 0; font-weight: 500; }
.at { border: 0; background: none; padding: 0 2px; color: var(--ivy-deep); cursor: pointer; text-decoration: underline; text-decoration-color: var(--rule-strong); text-underline-offset: 3px; }

.uses { white-space: nowrap; font-size: 12px; }
button.uses { border: 0; background: none; padding: 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline dotted; text-underline-offset: 3px; }
button.uses:disabled { color: var(--ink-quiet); text-decoration: none; cursor: default; }
.called { flex: 1; min-width: 0; }

.shade { display: grid; gap: 4px; grid-template-columns: minmax(0, 1fr); }
.paint { width: 134px; flex: none; }
.row .icon-button { width: 24px; height: 24px; flex: none; }
.small { font-size: 12px; }
.rust { color: var(--rust); }
.lacks { margin: 0; padding-left: 16px; display: grid; gap: 3px; overflow-wrap: anywhere; }
.save { color: var(--ivy-deep); font-weight: 500; }
</style>
