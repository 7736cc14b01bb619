<script setup lang="ts">
import { IconFolderOpen, IconFrame } from '@tabler/icons-vue'
import { NButton, NCheckbox, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed } from 'vue'

import type { Framing, Op } from '../api/client'
import ClipPanel from './ClipPanel.vue'
import { useDocument } from './document'
import { bytes, plain, seconds } from './format'
import NumberField from './NumberField.vue'
import { usePockets } from './pockets'
import { useSelection } from './selection'
import SpoolIcon from './SpoolIcon.vue'
import { useTransient } from './transient'

/** What lies in the selected pocket, and how. Below it whatever the place has to say of its layer. */
const doc = useDocument()
const selection = useSelection()
const transient = useTransient()
const pockets = usePockets()
const stand = computed(() => pockets.stand)
const may = (part: string) => !!pocket.value && pockets.may(pocket.value, part)
const pocket = computed(() => pockets.pocket)
const medium = computed(() => pocket.value && pockets.medium(pocket.value))
const here = computed(() => !!pocket.value?.framed.includes(selection.format))
const like = computed<Op>(() => ({ kind: 'frame', pocket: selection.pocket, format: here.value ? selection.format : undefined }))
/** As it is, or as was asked for last: what is set next goes on from there. */
const framing = computed<Framing>(() => transient.wished(like.value)?.framing ?? { ...stand.value!.framing, pan: stand.value!.pan, zoom: stand.value!.zoom })
const formatName = computed(() => selection.formatView?.name ?? '')
const several = computed(() => doc.face!.formats.length > 1)
const fits = [
  ['cover', 'Cover', 'Fills the pocket; no edge can come into view'],
  ['contain', 'Contain', 'All of the media is seen'],
  ['stretch', 'Stretch', 'Takes the pocket’s proportions'],
  ['original', 'Original', 'One pixel of media on one of the canvas'],
] as const

function op(part: Partial<Framing>): Op {
  return { ...like.value, framing: { ...framing.value, ...part }, members: Object.keys(part) }
}
function draft(part: Partial<Framing>) {
  transient.show(op(part))
}
function set(part: Partial<Framing>) {
  void transient.keep(op(part))
}
/** Gives this format a framing of its own, or takes it back to what all formats share. */
function own(on: boolean) {
  void doc.change({ kind: 'frame', pocket: selection.pocket, format: selection.format, framing: on ? framing.value : undefined })
}
const framed = computed(() => pocket.value && (pocket.value.framing || here.value))
</script>

<template>
  <div v-if="pocket && stand" :key="`${pocket.id} ${selection.format}`" class="make">
    <header>
      <h2><SpoolIcon kind="media" :size="17" />{{ pocket.name }}</h2>
      <span v-if="doc.piece && pocket.required && pocket.standIn" class="needed">to be filled</span>
      <span v-if="stand.where" class="where">{{ stand.where }} cell</span>
    </header>

    <section>
      <h3 class="heading">{{ doc.draft ? 'Stand-in' : 'Media' }}</h3>
      <template v-if="medium">
        <p class="file" :title="pocket.mediaName === medium.name ? medium.name : `In the store it is called ${medium.name}`">{{ pocket.mediaName }}<span v-if="doc.piece && pocket.standIn" class="chip">stand-in</span></p>
        <p class="quiet small">
          <span class="num">{{ medium.width }} × {{ medium.height }}</span>, {{ medium.type }}, {{ bytes(medium.bytes) }}
<template v-if="medium.kind === 'footage'">, {{ seconds(medium.seconds) }}</template>
        </p>
        <p v-if="stand.enlarged > 1.01 && medium.type !== 'SVG'" class="caution small">Enlarged {{ plain(stand.enlarged, 1) }} times; it may look soft.</p>
      </template>
      <p v-else-if="pocket.away" class="quiet">Empty for delivery; the stand-in was put away.</p>
      <p v-else class="quiet">Empty: the pocket shows its lining.</p>
      <ul v-if="medium && medium.kind === 'picture' && medium.notes.length" class="notes quiet small"><li v-for="n in medium.notes" :key="n">{{ n }}</li></ul>
      <div class="acts">
        <NButton size="small" @click="pockets.picking = pocket.id"><template #icon><IconFolderOpen :size="16" /></template>Choose media</NButton>
        <NButton v-if="doc.piece && !pocket.standIn" size="small" quaternary @click="pockets.use(pocket.id, null)">Stand-in</NButton>
        <NButton v-if="doc.draft && pocket.media" size="small" quaternary data-test="empty-pocket" @click="pockets.use(pocket.id, null)">Empty it</NButton>
      </div>
    </section>

    <ClipPanel v-if="medium && medium.kind === 'footage' && may('play')" :pocket="pocket" :medium="medium" />

    <section v-if="(medium || doc.draft) && ['fit', 'focus', 'pan', 'zoom', 'turn', 'flip'].some(may)">
      <div class="row">
        <h3 class="heading">Framing</h3>
        <NButton v-if="!selection.framing && ['focus', 'pan', 'zoom', 'turn'].some(may)" size="tiny" type="primary" ghost data-test="frame-it" @click="selection.framing = true"><template #icon><IconFrame :size="14" /></template>Frame on stage</NButton>
      </div>
      <NRadioGroup v-if="may('fit')" :value="framing.fit" size="small" class="fits" aria-label="Fit" @update:value="(fit: string) => set({ fit: fit as Framing['fit'] })">
        <NRadioButton v-for="[v, label, help] in fits" :key="v" :value="v" :title="help" :data-fit="v">{{ label }}</NRadioButton>
      </NRadioGroup>
      <div class="grid">
        <NumberField v-if="may('zoom')" label="Zoom" unit="%" :value="framing.zoom * 100" :min="Math.max(framing.fit === 'cover' ? 100 : 5, pocket.range.zoom[0]! * 100)" :max="pocket.range.zoom[1]! * 100" :reset="100" :places="1" @draft="draft({ zoom: $event / 100 })" @press="transient.soon(op({ zoom: $event / 100 }))" @change="set({ zoom: $event / 100 })" @cancel="transient.hide()" />
        <NumberField v-if="may('turn')" label="Turn" unit="°" :value="framing.turn" :min="pocket.range.turn[0]!" :max="pocket.range.turn[1]!" :reset="0" :places="1" @draft="draft({ turn: $event })" @press="transient.soon(op({ turn: $event }))" @change="set({ turn: $event })" @cancel="transient.hide()" />
        <NumberField v-if="may('pan')" label="Pan x" unit="%" :value="framing.pan![0]! * 100" :min="pocket.range.pan[0]![0]! * 100" :max="pocket.range.pan[0]![1]! * 100" :reset="0" @draft="draft({ pan: [$event / 100, framing.pan![1]!] })" @press="transient.soon(op({ pan: [$event / 100, framing.pan![1]!] }))" @change="set({ pan: [$event / 100, framing.pan![1]!] })" @cancel="transient.hide()" />
        <NumberField v-if="may('pan')" label="Pan y" unit="%" :value="framing.pan![1]! * 100" :min="pocket.range.pan[1]![0]! * 100" :max="pocket.range.pan[1]![1]! * 100" :reset="0" @draft="draft({ pan: [framing.pan![0]!, $event / 100] })" @press="transient.soon(op({ pan: [framing.pan![0]!, $event / 100] }))" @change="set({ pan: [framing.pan![0]!, $event / 100] })" @cancel="transient.hide()" />
        <NumberField v-if="may('focus')" label="Focus x" unit="%" :value="framing.focus![0]! * 100" :min="0" :max="100" :reset="50" @draft="draft({ focus: [$event / 100, framing.focus![1]!] })" @press="transient.soon(op({ focus: [$event / 100, framing.focus![1]!] }))" @change="set({ focus: [$event / 100, framing.focus![1]!] })" @cancel="transient.hide()" />
        <NumberField v-if="may('focus')" label="Focus y" unit="%" :value="framing.focus![1]! * 100" :min="0" :max="100" :reset="50" @draft="draft({ focus: [framing.focus![0]!, $event / 100] })" @press="transient.soon(op({ focus: [framing.focus![0]!, $event / 100] }))" @change="set({ focus: [framing.focus![0]!, $event / 100] })" @cancel="transient.hide()" />
      </div>
      <div class="flips">
        <NCheckbox v-if="may('flip')" size="small" :checked="!!framing.flipX" @update:checked="(v: boolean) => set({ flipX: v })">Flip left to right</NCheckbox>
        <NCheckbox v-if="may('flip')" size="small" :checked="!!framing.flipY" @update:checked="(v: boolean) => set({ flipY: v })">Flip top to bottom</NCheckbox>
        <NCheckbox v-if="framed && doc.piece" size="small" :checked="pocket.keep" data-test="keep-framing" title="Otherwise other media lies as the pocket has it"
          @update:checked="(on: boolean) => doc.change({ kind: 'keep', pocket: selection.pocket, value: on })">Keep this framing for other media</NCheckbox>
        <NCheckbox v-if="several" size="small" :checked="here" data-test="own-framing" @update:checked="own">Framed apart in {{ formatName.toLowerCase() }}</NCheckbox>
      </div>
      <p v-if="framing.fit === 'cover'" class="quiet small">Pan stops where an edge would come into view; turning raises the zoom as far as it must.</p>
      <p v-else-if="medium && !stand.covers && !stand.cuts" class="caution small">{{ pocket.kinds.includes('logo') ? 'The pocket’s ground shows around the mark.' : 'Edges of the media show inside the pocket.' }}</p>
      <NButton v-if="framed" size="tiny" quaternary @click="pockets.frame(pocket.id, undefined, here)">Reset framing</NButton>
    </section>

    <section v-if="!doc.draft">
      <h3 class="heading">Place in {{ formatName.toLowerCase() }}</h3>
      <div class="grid" data-test="place">
        <NumberField label="x" unit="px" :value="stand.centre.x" readonly /><NumberField label="y" unit="px" :value="stand.centre.y" readonly />
        <NumberField label="Width" unit="px" :value="stand.size.w" readonly /><NumberField label="Height" unit="px" :value="stand.size.h" readonly />
      </div>
      <p class="quiet small">{{ stand.where ? 'Computed by the split, from the canvas centre.' : 'At rest, from the canvas centre.' }}</p>
    </section>
  </div>
</template>

<style scoped>
.make { display: grid; gap: 16px; }
header { display: flex; align-items: baseline; justify-content: space-between; gap: 8px; }
h2 { display: flex; align-items: center; gap: 7px; font-size: 16px; letter-spacing: -0.01em; }
.where { color: var(--ink-quiet); font-size: 12px; }
section { display: grid; gap: 8px; padding-top: 13px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 6px 8px; }
.small { font-size: 12px; }
.file { font-weight: 600; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.chip { font-weight: 500; font-size: 11px; background: var(--linen-deep); border-radius: 4px; padding: 1px 6px; margin-left: 7px; color: var(--ink-quiet); }
.acts { display: flex; gap: 6px; }
.row { display: flex; justify-content: space-between; align-items: center; }
.fits { display: flex; }
.fits :deep(.n-radio-button) { flex: 1; padding: 0 4px; text-align: center; font-size: 12px; }
.flips { display: grid; gap: 5px; }
.needed { color: var(--amber); font-size: 12px; }
.caution { color: var(--amber); }
.notes { margin: 0; padding-left: 14px; }
</style>
