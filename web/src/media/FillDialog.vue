<script setup lang="ts">
import { IconArrowsExchange, IconPlus, IconX } from '@tabler/icons-vue'
import { NButton, NSkeleton } from 'naive-ui'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, type Failure, type Fit, type Medium } from '../api/client'
import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'
import { bundles } from './choose'
import MediaThumb from './MediaThumb.vue'
import StorePicker from './StorePicker.vue'
import { useUploads } from './uploads'

/** Fills a new piece with media: which templates take it, and where each goes, is the server's to say. */
const show = defineModel<boolean>('show', { required: true })
const props = defineProps<{ first: Medium }>()
const router = useRouter()
const doc = useDocument()
const uploads = useUploads()
const media = ref<Medium[]>([])
const fits = ref<Fit[] | null>(null)
const failure = ref('')
const busy = ref('')
const adding = ref(false)

watch(show, (on) => on && (media.value = [props.first]))
let asked = 0
watch(media, async (all) => {
  const mine = ++asked
  fits.value = null
  failure.value = ''
  try {
    const got = await ask(api.GET('/api/fits', { params: { query: { media: all.map((m) => m.hash) } } }))
    if (mine === asked) fits.value = got
  } catch (e) {
    if (mine === asked) [fits.value, failure.value] = [[], (e as Failure).message]
  }
})
const add = (m: Medium) => (media.value = [...media.value, m])
const drop = (i: number) => (media.value = media.value.filter((_, at) => at !== i))
/** The one at a place and the one before it change places. */
function swap(i: number) {
  const next = [...media.value]
  ;[next[i - 1], next[i]] = [next[i]!, next[i - 1]!]
  media.value = next
}
async function fill(f: Fit) {
  busy.value = f.id
  failure.value = ''
  try {
    const { piece } = await ask(api.POST('/api/templates/{id}/fill', { params: { path: { id: f.id } }, body: { media: media.value.map((m) => m.hash) } }))
    doc.take('piece', piece)
    show.value = false
    await router.push({ path: `/desk/${piece.id}`, query: piece.made ? { format: piece.made } : {} })
  } catch (e) {
    failure.value = (e as Failure).message
  } finally {
    busy.value = ''
  }
}
const made = { frame: 'around one clip', transition: 'from A to B', overlay: 'laid over', 'stand-alone': '' } as const
</script>

<template>
  <CardDialog v-model:show="show" title="Fill with this" :width="660">
    <ol class="given" aria-label="What is filled in, in its order">
      <li v-for="(m, i) in media" :key="m.hash + i">
        <button v-if="i" class="icon-button swap" :aria-label="`Put ${m.name} before ${media[i - 1]!.name}`" title="Change places"
          data-test="swap-media" @click="swap(i)"><IconArrowsExchange :size="16" /></button>
        <span class="view"><MediaThumb :medium="m" :side="200" /></span>
        <span class="name" :title="m.name">{{ m.name }}</span>
        <button v-if="media.length > 1" class="icon-button off" :aria-label="`Without ${m.name}`" title="Without it"
          @click="drop(i)"><IconX :size="14" /></button>
      </li>
      <li class="more"><button class="add" data-test="add-another" @click="adding = true"><IconPlus :size="17" />Another</button></li>
    </ol>
    <p v-if="failure" class="wrong" role="alert">{{ failure }}</p>
    <NSkeleton v-if="!fits" height="64px" :repeat="2" style="margin-bottom: 8px" />
    <p v-else-if="!fits.length && !failure"
      class="quiet">No template on the shelf has a free pocket for {{ media.length > 1 ? 'all of these' : 'it' }}.</p>
    <ul v-else class="fits">
      <li v-for="f in fits" :key="f.id" :data-fit="f.id">
        <img :src="`/api/templates/${f.id}/poster?side=200&release=${f.release}`" alt="" />
        <div class="what">
          <b>{{ f.name }}</b><span v-if="made[f.purpose]" class="made">{{ made[f.purpose] }}</span>
          <p><template v-for="(p, i) in f.pockets" :key="p">{{ i ? ' · ' : '' }}<span
            class="quiet">{{ p }}</span> {{ media[i]?.name }}</template></p>
          <p v-if="f.measure" class="num quiet">{{ f.measure }}</p>
          <p v-if="f.why" class="wrong">{{ f.why }}</p>
          <p v-if="f.left" class="quiet">{{ f.left === 1 ? '1 pocket stays' : `${f.left} pockets stay` }} to be filled</p>
        </div>
        <NButton size="small" type="primary" :loading="busy === f.id" :disabled="!!busy || !!f.why" :aria-label="`Fill ${f.name}`"
          data-test="fill-it" @click="fill(f)">Fill</NButton>
      </li>
    </ul>
  </CardDialog>
  <StorePicker v-model:show="adding" title="Another to fill with" :except="''" :takes="() => true" @use="(m) => { adding = false; add(m) }"
    @files="async (f) => { adding = false; const [b] = await bundles(f); if (b) add(await uploads.add(b).medium) }" />
</template>

<style scoped>
.given { list-style: none; margin: 0 0 14px; padding: 0 0 4px; display: flex; gap: 8px; overflow-x: auto; }
.given li { position: relative; flex: none; width: 118px; display: grid; gap: 3px; }
.given li:has(.swap) { margin-left: 22px; }
.view { display: block; height: 74px; border-radius: 6px; overflow: hidden; }
.name { font-size: 12px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.swap { position: absolute; left: -29px; top: 24px; }
.off { position: absolute; right: 3px; top: 3px; background: rgba(255, 253, 246, 0.86); width: 22px; height: 22px; }
.given .more { align-content: start; }
.add { height: 74px; border: 1.5px dashed var(--rule); border-radius: 6px; background: none; cursor: pointer; color: var(--ivy-deep);
  font: inherit; font-size: 12.5px; font-weight: 500; display: grid; place-items: center; align-content: center; gap: 2px; }
.add:hover { border-color: var(--ivy); background: var(--ivy-wash); }
.fits { list-style: none; margin: 0; padding: 0; display: grid; max-height: 46vh; overflow: auto; }
.fits li { display: grid; grid-template-columns: 92px minmax(0, 1fr) auto; gap: 14px; align-items: center; padding: 9px 2px;
  border-top: 1px solid var(--rule); }
.fits img { width: 92px; height: 56px; object-fit: contain; background: var(--surround); border-radius: 4px; }
.what { font-size: 12.5px; overflow-wrap: anywhere; }
.what b { font-size: 14px; }
.made { margin-left: 8px; background: var(--ivy-wash); color: var(--ivy-deep); border-radius: 5px; padding: 0 7px; font-size: 11.5px;
  font-weight: 600; white-space: nowrap; }
.wrong { color: #8c3518; }
@media (max-width: 520px) { .fits li { grid-template-columns: 64px minmax(0, 1fr) auto; gap: 9px; } .fits img { width: 64px; height: 44px; } }
</style>
