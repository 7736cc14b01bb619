<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import { api, ask, type Failure } from '../../api/client'
import type { components } from '../../api/schema'
import CardDialog from '../../common/CardDialog.vue'
import { useDocument } from '../../common/document'
import { timecode } from '../../common/format'
import { useNotices } from '../../common/notices'
import { useSelection } from '../../common/selection'
import { useTransport } from '../../common/transport'
import { useLength } from './length'

/** The template at its shortest, its longest and between, as rows of pictures over the time that its parts take. */
const show = defineModel<boolean>('show', { required: true })
const doc = useDocument()
const selection = useSelection()
const transport = useTransport()
const length = useLength()
const rows = ref<components['schemas']['LengthView'][]>([])
watch(show, async (on) => {
  if (!on || !doc.draft) return
  rows.value = []
  try {
    rows.value = await ask(api.GET('/api/drafts/{id}/lengths', { params: { path: { id: doc.draft.id }, query: { format: selection.format, side: 160 } } }))
  } catch (e) {
    useNotices().say('error', (e as Failure).message)
    show.value = false
  }
})
const most = computed(() => rows.value.at(-1)?.frames ?? 1)
const draft = computed(() => doc.draft!)
const tc = (n: number) => timecode(n, draft.value.rateN, draft.value.rateD, draft.value.dropFrame)
const round = (n: number) => Math.round(n * 10) / 10
async function look(frames: number, at: number) {
  show.value = false
  await length.tryOut(frames)
  transport.seek(at)
}
</script>

<template>
  <CardDialog v-model:show="show" title="Lengths" :width="1080">
    <p class="quiet">Held time is smooth and the same in every row. A picture leads to its frame at that length; nothing of the template changes.</p>
    <div class="lengths" data-test="lengths">
      <div v-for="(r, i) in rows" :key="r.frames" class="length" :data-length="r.frames">
        <button class="name" @click="look(r.frames, 0)"><strong class="num">{{ r.frames }}</strong><span class="num quiet">{{ tc(r.frames) }}</span><span class="quiet">{{ r.frames === draft.frames ? 'its own' : i === 0 ? 'shortest' : i === rows.length - 1 ? 'longest' : '' }}</span></button>
        <div class="room">
          <div class="strip" :style="{ width: `${(r.frames / most) * 100}%` }">
            <div class="cells"><button v-for="c in r.cells" :key="c.frame" :title="`Frame ${c.frame}: the template’s ${round(c.shows)}`" @click="look(r.frames, c.frame)"><img :src="`/frames/${c.address}.jpg?ground=checker`" :alt="`Frame ${c.frame}`" /><span class="num">{{ round(c.shows) }}</span></button></div>
            <div class="parts"><i v-for="p in r.time" :key="p.from" :class="p.kind" :style="{ left: `${(p.at / r.frames) * 100}%`, width: `${((p.until - p.at) / r.frames) * 100}%` }" /></div>
          </div>
        </div>
      </div>
      <p v-if="!rows.length" class="quiet">Drawing…</p>
    </div>
    <template #acts><NButton @click="show = false">Close</NButton></template>
  </CardDialog>
</template>

<style scoped>
.lengths { display: grid; gap: 10px; min-height: 300px; align-content: start; }
.length { display: grid; grid-template-columns: 92px minmax(0, 1fr); gap: 12px; align-items: center; }
.name { border: 0; background: none; text-align: left; cursor: pointer; display: grid; font-size: 11px; color: inherit; padding: 4px 6px; border-radius: 6px; }
.name:hover { background: var(--linen-deep); }
.name strong { font-size: 15px; font-weight: 500; }
.cells { display: flex; gap: 3px; }
.cells button { flex: 1 1 0; min-width: 0; border: 0; padding: 0; background: none; cursor: pointer; position: relative; display: grid; }
.cells img { width: 100%; height: 58px; object-fit: contain; border-radius: 3px; display: block; }
.cells button:hover img { outline: 2px solid var(--ivy); }
.cells span { font-size: 9.5px; line-height: 13px; color: var(--ink-quiet); text-align: center; }
.parts { position: relative; height: 9px; border-radius: 3px; overflow: hidden; background: #efe6d0; }
.parts i { position: absolute; top: 0; bottom: 0; }
.parts .elastic { background: repeating-linear-gradient(105deg, #dccca3 0 5px, #c3ae7c 5px 8px); }
.parts .held { background: #fffdf6; border: solid #b39d68; border-width: 1px; box-sizing: border-box; }
</style>
