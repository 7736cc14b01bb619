<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed, ref, shallowRef, watch } from 'vue'

import { api, ask, Failure, type Move } from '../api/client'
import BeforeAfter from '../common/BeforeAfter.vue'
import CardDialog from '../common/CardDialog.vue'
import { useDocument } from '../common/document'

/** Moves the piece to another release of its template: what holds, what is put aside, what is new, before and after. */
const show = defineModel<boolean>('show', { required: true })
const doc = useDocument()
const piece = computed(() => doc.piece!)
const move = shallowRef<Move | null>(null)
const failure = ref('')
const busy = ref(false)
/** Whose picture it is: it changes with the piece. */
const at = ref('')
watch([show, () => doc.piece?.revision], async ([on]) => {
  if (!on || !doc.piece || busy.value) return
  failure.value = ''
  const id = piece.value.id
  try {
    const m = await ask(api.GET('/api/pieces/{id}/move', { params: { path: { id }, query: { to: 0 } } }))
    if (doc.piece?.id !== id) return
    move.value = m
    at.value = `${id}@${doc.piece.revision}`
  } catch (e) {
    failure.value = (e as Failure).message
  }
})
const lists = computed(() => {
  const m = move.value
  if (!m) return []
  return [
    { id: 'lost', title: 'Put aside', about: 'The new release does not take these. They wait in the piece, and come back where they are taken again.', lines: m.lost },
    { id: 'back', title: 'Taken again', about: 'Put aside by an earlier move.', lines: m.back },
    { id: 'new', title: 'New on the sheet', about: '', lines: m.new },
    { id: 'kept', title: 'Kept', about: '', lines: m.kept },
  ].filter((l) => l.lines.length)
})
const picture = (side: 'before' | 'after', format: string, cue: string) =>
  `/api/pieces/${piece.value.id}/look?release=${side === 'before' ? move.value!.from : move.value!.to}&format=${format}&cue=${cue}&side=640&at=${at.value}`
async function go() {
  const to = move.value!.to
  busy.value = true
  const id = crypto.randomUUID()
  const done = await doc.carry(async (h, base) => (await ask(api.POST('/api/pieces/{id}/move', { params: { path: { id: h.id } }, body: { id, base, to } }))).piece)
  busy.value = false
  if (done) show.value = false
}
</script>

<template>
  <CardDialog v-model:show="show" :title="move ? `To release ${move.to} of ${piece.template.name}` : 'To the newest release'" :width="720">
    <div v-if="move" class="move">
      <p v-if="move.note" class="note">{{ move.note }}</p>
      <BeforeAfter :looks="move" :before="`Now, release ${move.from}`" :after="`Release ${move.to}`" :picture="picture" />
      <div class="lists">
        <section v-for="l in lists" :key="l.id" :data-moved="l.id" :class="l.id">
          <h3 class="heading">{{ l.title }}<span class="num">{{ l.lines.length }}</span></h3>
          <p v-if="l.about" class="quiet small">{{ l.about }}</p>
          <ul><li v-for="x in l.lines" :key="x.label + x.says"><b>{{ x.label }}</b><span v-if="x.says" class="quiet">{{ x.says }}</span></li></ul>
        </section>
        <p v-if="!lists.length" class="quiet">Nothing of this piece was set; it takes all from the template.</p>
      </div>
    </div>
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <template #acts>
      <NButton @click="show = false">Stay at release {{ piece.template.release }}</NButton>
      <NButton type="primary" :loading="busy" :disabled="!move || move.to === move.from" data-test="move-now" @click="go">Move</NButton>
    </template>
  </CardDialog>
</template>

<style scoped>
.move { display: grid; gap: 14px; }
.note { white-space: pre-line; overflow-wrap: anywhere; }
.lists { display: grid; grid-template-columns: 1fr 1fr; gap: 14px 22px; max-height: 240px; overflow: auto; align-items: start; }
.heading { display: flex; justify-content: space-between; }
.lost .heading { color: var(--rust); }
ul { list-style: none; margin: 4px 0 0; padding: 0; display: grid; gap: 3px; }
li { display: flex; flex-wrap: wrap; gap: 0 7px; overflow-wrap: anywhere; }
li b { font-weight: 600; }
.small { font-size: 12px; }
.failure { color: var(--rust); margin-top: 10px; }
@media (max-width: 620px) { .lists { grid-template-columns: minmax(0, 1fr); max-height: none; } }
</style>
