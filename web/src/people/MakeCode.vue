<script setup lang="ts">
import { NButton, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { ref, watch } from 'vue'

import CardDialog from '../common/CardDialog.vue'
import { usePeople } from './people'

/** Makes a code for somebody and shows it, this once. */
const show = defineModel<boolean>('show', { required: true })
const people = usePeople()
const name = ref('')
const role = ref<'editor' | 'designer'>('editor')
const letters = ref('')
const copied = ref(false)
const busy = ref(false)
watch(show, (on) => {
  if (on) [name.value, role.value, letters.value, copied.value] = ['', 'editor', '', false]
})
async function make() {
  if (!name.value.trim() || busy.value) return
  busy.value = true
  const made = await people.make(name.value, role.value)
  busy.value = false
  letters.value = made?.letters ?? ''
}
async function copy() {
  // Only pages that came over TLS, or from this machine, may write to the clipboard.
  try {
    await navigator.clipboard.writeText(letters.value)
    copied.value = true
  } catch {
    getSelection()?.selectAllChildren(document.querySelector('[data-test=letters]')!)
  }
}
</script>

<template>
  <CardDialog v-model:show="show" :title="letters ? `The code of ${name.trim()}` : 'Make a code'" :width="460">
    <form v-if="!letters" class="form" @submit.prevent="make">
      <label>Who it is for<NInput v-model:value="name" maxlength="60" placeholder="A name"
        :input-props="{ 'aria-label': 'Who it is for' }" /></label>
      <NRadioGroup v-model:value="role" aria-label="May">
        <NRadio value="editor" data-test="as-editor"><b>Editor</b><span
          class="quiet">fills templates; media and renders of their own</span></NRadio>
        <NRadio value="designer" data-test="as-designer"><b>Designer</b><span class="quiet">does everything, codes included</span></NRadio>
      </NRadioGroup>
      <p v-if="people.failure" class="wrong" role="alert">{{ people.failure }}</p>
      <button type="submit" hidden />
    </form>
    <template v-else>
      <p class="letters num" data-test="letters">{{ letters }}</p>
      <p
        class="quiet">It is shown this once and kept nowhere. Hand it over by a way that others don't read; if it is lost, withdraw it and make another.</p>
    </template>
    <template #acts>
      <template v-if="!letters">
        <NButton @click="show = false">Cancel</NButton>
        <NButton type="primary" :disabled="!name.trim()" :loading="busy" data-test="make-it" @click="make">Make it</NButton>
      </template>
      <template v-else>
        <NButton data-test="copy-code" @click="copy">{{ copied ? 'Copied' : 'Copy' }}</NButton>
        <NButton type="primary" data-test="code-done" @click="show = false">Done</NButton>
      </template>
    </template>
  </CardDialog>
</template>

<style scoped>
.form { display: grid; gap: 14px; }
label { display: grid; gap: 4px; font-weight: 500; }
.form :deep(.n-radio-group) { display: grid; gap: 8px; }
.form :deep(.n-radio__label) { display: grid; line-height: 1.35; }
.letters { font-size: 19px; letter-spacing: 0.03em; text-align: center; padding: 14px 8px; border: 1px dashed var(--ivy);
  border-radius: 8px; background: var(--ivy-wash); color: var(--ivy-deep); user-select: all; margin-bottom: 10px; }
.wrong { color: #8c3518; }
@media (max-width: 500px) { .letters { font-size: 15px; } }
</style>
