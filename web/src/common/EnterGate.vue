<script setup lang="ts">
import { NButton, NInput } from 'naive-ui'
import { nextTick, onMounted, ref } from 'vue'

import { useAccess } from './access'

/** Asks for an access code. What lies behind stays as it is, and goes on when the same person is back. */
const access = useAccess()
const code = ref('')
const busy = ref(false)
const field = ref<InstanceType<typeof NInput>>()
onMounted(() => nextTick(() => field.value?.focus()))
async function enter() {
  if (!code.value.trim() || busy.value) return
  busy.value = true
  await access.enter(code.value)
  busy.value = false
  if (access.wrong) field.value?.select()
}
</script>

<template>
  <div class="gate cloth" role="dialog" aria-modal="true" aria-labelledby="gate-head" data-test="gate">
    <form class="card" @submit.prevent="enter">
      <img src="/mark.svg" width="54" height="54" alt="" />
      <h1 id="gate-head">Show your access code</h1>
      <p class="quiet">Six groups of four letters and digits, from whoever runs this server. Case and dashes don't matter.</p>
      <NInput ref="field" v-model:value="code" size="large" placeholder="XXXX-XXXX-XXXX-XXXX-XXXX-XXXX"
        :status="access.wrong ? 'error' : undefined"
        :input-props="{ 'aria-label': 'Access code', autocomplete: 'current-password', spellcheck: false, autocapitalize: 'characters', 'aria-describedby': 'gate-wrong' }" class="code" />
      <p id="gate-wrong" class="wrong" role="alert">{{ access.wrong }}</p>
      <NButton type="primary" size="large" attr-type="submit" block :loading="busy" :disabled="!code.trim()"
        data-test="enter">Come in</NButton>
    </form>
  </div>
</template>

<style scoped>
.gate { position: fixed; inset: 0; z-index: 3000; display: grid; place-items: center; overflow: auto; padding: 20px; }
.card { width: min(420px, 100%); background: var(--linen-raised); border: 1px solid var(--rule); border-radius: 14px;
  padding: 30px 32px 32px; display: grid; gap: 12px; }
.card img { margin-bottom: 4px; }
h1 { font-size: 20px; letter-spacing: -0.01em; }
.code :deep(input) { font-family: var(--mono, 'Spline Sans Mono'), monospace; letter-spacing: 0.02em; text-transform: uppercase; }
.code :deep(input::placeholder) { text-transform: none; }
.wrong { color: #8c3518; min-height: 1.4em; }
</style>
