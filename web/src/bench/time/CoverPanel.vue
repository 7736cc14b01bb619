<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed, onMounted } from 'vue'

import { useDocument } from '../../common/document'
import { useSelection } from '../../common/selection'
import { useTransport } from '../../common/transport'
import { useActs } from '../acts'
import { useCover } from './cover'
import { useLength } from './length'

/** What a transition covers: the frames of which nothing beneath is seen, the best of them to cut at, and the cut itself. */
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const cover = useCover()
const length = useLength()
const { does } = useActs()
const draft = computed(() => doc.draft!)
const found = computed(() => cover.found)
onMounted(() => draft.value.purpose === 'transition' && !cover.found && void cover.look())

const cut = computed(() => found.value?.cue ?? found.value?.cut)
const name = (format: string) => draft.value.formats.find((f) => f.id === format)?.name ?? format
const runs = (list: { from: number; to: number }[]) => list.map((r) => (r.to - r.from === 1 ? `${r.from}` : `${r.from}–${r.to - 1}`)).join(', ')
const percent = (share: number) => `${Math.floor(share * 10000) / 100} %`
const never = computed(() => found.value?.formats.filter((f) => !f.runs.length) ?? [])
/** Lengths at which a cut there would be seen. */
const seen = computed(() => (cut.value ? (found.value?.lengths.filter((l) => !l.holds) ?? []) : []))
const over = computed({
  get: () => selection.ground.startsWith('scenes:'),
  set: (on) => (selection.ground = on && cut.value ? `scenes:${cut.value.frame}` : ''),
})
const clips = computed(() => draft.value.purpose === 'transition' && draft.value.layers.some((y) => y.pocket))
async function go(frame: number, format = '') {
  if (format) selection.format = format
  await length.tryOut(draft.value.frames)
  transport.seek(frame)
}
</script>

<template>
  <section data-test="cover">
    <h3 class="heading">Cover</h3>
    <p v-if="!found" class="quiet small">The frames that hide all of what lies beneath, in every format, as they are painted.</p>
    <template v-else>
      <p v-if="found.runs.length" class="small" :class="{ stale: !cover.fresh }" data-test="covered">Covered: frames <button v-for="(r, i) in found.runs" :key="r.from" class="link num" @click="go(r.from)">{{ runs([r]) }}{{ i < found.runs.length - 1 ? ',' : '' }}</button>{{ draft.formats.length > 1 ? ' in all formats' : '' }}.</p>
      <p v-for="f in never" :key="f.format" class="caution small" role="status" data-test="never-covers">Never covers{{ draft.formats.length > 1 ? ` in ${name(f.format)}` : '' }}: at best {{ percent(f.share) }}, at <button class="link num" @click="go(f.nearest, f.format)">frame {{ f.nearest }}</button>.</p>
      <p v-if="!found.runs.length && !never.length" class="caution small" data-test="never-covers">No frame covers in all formats at once: <template v-for="(f, i) in found.formats" :key="f.format">{{ name(f.format) }} {{ runs(f.runs) }}{{ i < found.formats.length - 1 ? '; ' : '' }}</template>.</p>
      <div v-if="found.cut" class="cut">
        <p class="small">Best cut: <button class="link num" data-test="best-cut" @click="go(found.cut.frame)">frame {{ found.cut.frame }}</button>, <span class="num">{{ found.cut.timecode }}</span>, <span class="num">{{ found.cut.milliseconds }} ms</span></p>
        <p v-if="found.cue" class="small">The cue: <button class="link num" data-test="cut-cue" @click="go(found.cue.frame)">frame {{ found.cue.frame }}</button>, <span class="num">{{ found.cue.timecode }}</span>, <span class="num">{{ found.cue.milliseconds }} ms</span></p>
      </div>
      <p v-if="found.cue && !found.cue.holds" class="caution small" data-test="cut-seen">A cut at the cue is seen: what lies beneath is not all hidden there.</p>
      <p v-for="l in seen" :key="l.frames" class="caution small">At {{ l.frames }} {{ l.frames === 1 ? 'frame' : 'frames' }} {{ l.runs.length ? `a cut there is seen; covered are ${runs(l.runs)}` : 'it never covers' }}.</p>
      <p v-if="cut && !seen.length && found.lengths.length > 1" class="quiet small" data-test="cut-lengths">Hidden at every length from {{ found.lengths[0]!.frames }} to {{ found.lengths.at(-1)!.frames }} frames that was tried.</p>
    </template>
    <p v-if="cover.failure" class="failure small" role="alert">{{ cover.failure }}</p>
    <div class="acts">
      <NButton v-if="!found || !cover.fresh" size="tiny" :loading="cover.looking" data-test="find-cover" @click="cover.look()">{{ found ? 'Look again' : 'Find covered frames' }}</NButton>
      <NButton v-if="found?.cut && found.cut.frame !== found.cue?.frame" size="tiny" data-test="keep-cut" @click="does({ kind: 'cut-cue', at: found.cut.frame, layers: [] })">{{ found.cue ? 'Move the cue there' : 'Keep as a cue' }}</NButton>
      <NButton v-if="cut && clips" size="tiny" title="What shows clip A ends there, and what shows clip B begins" data-test="cut-clips" @click="does({ kind: 'cut-clips', at: cut.frame, layers: [] })">Cut A to B there</NButton>
      <label v-if="cut" class="small"><input v-model="over" type="checkbox" data-test="over-scenes"> Over two scenes</label>
    </div>
  </section>
</template>

<style scoped>
section { display: grid; gap: 4px; }
.small { font-size: 12px; margin: 0; }
.stale { font-style: italic; }
.cut { display: grid; gap: 2px; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; margin-top: 3px; }
.acts label { display: flex; gap: 5px; align-items: center; cursor: pointer; }
.link { border: 0; background: none; padding: 0 2px 0 0; cursor: pointer; color: var(--ivy-deep); text-decoration: underline; text-underline-offset: 2px; font-size: inherit; }
</style>
