<script setup lang="ts">
import { NButton, NSkeleton } from 'naive-ui'
import { ref } from 'vue'

import type { Code } from '../api/client'
import { useAccess } from '../common/access'
import CardDialog from '../common/CardDialog.vue'
import { ago } from '../common/format'
import DeedList from './DeedList.vue'
import MakeCode from './MakeCode.vue'
import { usePeople } from './people'

const access = useAccess()
const people = usePeople()
void people.load()

const making = ref(false)
const going = ref<Code | null>(null)
async function withdraw() {
  const c = going.value!
  going.value = null
  await people.withdraw(c.id)
}
const naming = ref('')
const name = ref('')
function rename(c: Code) {
  naming.value = c.id
  name.value = c.name
}
async function named(c: Code) {
  if (naming.value !== c.id) return
  naming.value = ''
  if (name.value.trim() && name.value.trim() !== c.name) await people.rename(c.id, name.value)
}
const field = (el: unknown) => (el as HTMLInputElement | null)?.focus()
const shown = ref(false)
</script>

<template>
  <div class="people cloth">
    <header>
      <div>
        <h1>People</h1>
        <p v-if="access.session?.codes"
          class="quiet">Who comes in here shows a code. Designers do everything; editors fill templates, and have media and renders of their own.</p>
        <p v-else
          class="quiet">At this machine nobody logs in. Codes let people in from others, once the server is started with an address of the network.</p>
      </div>
      <NButton type="primary" data-test="make-code" @click="making = true">Make a code</NButton>
    </header>
    <p v-if="people.failure" class="failure" role="alert">{{ people.failure }}</p>
    <NSkeleton v-if="!people.loaded" height="120px" />
    <template v-else>
      <p v-if="!people.good.length" class="none quiet">No code is good. Without a designer's, the server starts on this machine alone.</p>
      <table v-else class="codes">
        <thead><tr><th>Name</th><th>May</th><th>Last came in</th><th>Made</th><td /></tr></thead>
        <tbody>
          <tr v-for="c in people.good" :key="c.id" :data-code="c.name">
            <td>
              <input v-if="naming === c.id" :ref="field" v-model="name" maxlength="60" :aria-label="`Name of the code of ${c.name}`"
                @blur="named(c)" @keydown.enter="named(c)" @keydown.esc="naming = ''" />
              <button v-else class="name" :title="`Rename ${c.name}`" @click="rename(c)">{{ c.name }}</button>
              <span v-if="c.mine" class="quiet">you</span>
            </td>
            <td><span class="role" :class="c.role">{{ c.role }}</span></td>
            <td class="quiet">{{ c.used ? ago(c.used) : 'never' }}</td>
            <td class="quiet">{{ ago(c.created) }}</td>
            <td class="do"><NButton size="tiny" quaternary :aria-label="`Withdraw the code of ${c.name}`" data-test="withdraw"
              @click="going = c">Withdraw</NButton></td>
          </tr>
        </tbody>
      </table>
      <button v-if="people.withdrawn.length" class="fold" :aria-expanded="shown"
        @click="shown = !shown">{{ shown ? 'Hide' : 'Show' }} {{ people.withdrawn.length }} withdrawn</button>
      <ul v-if="shown" class="gone quiet"><li v-for="c in people.withdrawn"
        :key="c.id">{{ c.name }}, {{ c.role }}, withdrawn {{ ago(c.withdrawn) }}</li></ul>
      <DeedList />
    </template>
    <MakeCode v-model:show="making" />
    <CardDialog :show="!!going" title="Withdraw a code" :width="420" @update:show="going = null">
      <p>{{ going?.name }} is out at once, also where something still runs, and the code never lets in again. What they did stays.</p>
      <template #acts>
        <NButton @click="going = null">Keep</NButton>
        <NButton type="error" data-test="withdraw-it" @click="withdraw">Withdraw</NButton>
      </template>
    </CardDialog>
  </div>
</template>

<style scoped>
.people { height: 100%; overflow: auto; padding: 26px 32px 48px; }
header { display: flex; gap: 14px 28px; align-items: end; justify-content: space-between; flex-wrap: wrap; margin-bottom: 20px;
  max-width: 1100px; }
h1 { font-size: 24px; letter-spacing: -0.02em; line-height: 1.2; }
header p { max-width: 72ch; }
.codes { border-collapse: separate; border-spacing: 0; width: 100%; max-width: 1100px; background: var(--linen-raised);
  border: 1px solid var(--rule); border-radius: 12px; overflow: hidden; }
th { text-align: left; font-size: 11.5px; font-weight: 600; color: var(--ink-quiet); padding: 9px 16px 5px; }
tbody td { padding: 5px 16px; border-top: 1px solid var(--rule); height: 40px; }
.name { background: none; border: 0; padding: 2px 6px; margin-left: -6px; border-radius: 5px; font: inherit; font-weight: 600;
  cursor: text; overflow-wrap: anywhere; text-align: left; }
.name:hover { background: var(--linen-deep); }
td input { font: inherit; font-weight: 600; padding: 2px 6px; margin-left: -6px; border: 1px solid var(--ivy); border-radius: 5px;
  background: #fffefa; color: var(--ink); width: 220px; max-width: 100%; }
.role { border-radius: 5px; padding: 1px 8px; font-size: 12px; font-weight: 600; background: var(--linen-deep); color: var(--ink); }
.role.designer { background: var(--ivy-wash); color: var(--ivy-deep); }
.do { text-align: right; }
.fold { margin-top: 8px; border: 0; background: none; font: inherit; font-size: 12px; color: var(--ivy-deep); cursor: pointer;
  text-decoration: underline; text-underline-offset: 3px; padding: 2px; }
.gone { margin: 4px 0 0; padding-left: 4px; list-style: none; font-size: 12px; }
.none { background: var(--amber-wash); color: #5f3d08; border-radius: 8px; padding: 8px 14px; max-width: 1100px; }
.failure { background: var(--rust-wash); color: #8c3518; border-radius: 8px; padding: 9px 14px; margin-bottom: 14px; max-width: 1100px; }
@media (max-width: 720px) {
  .people { padding: 16px 14px 32px; }
  th:nth-child(4), td:nth-child(4) { display: none; }
  td, th { padding-left: 10px; padding-right: 8px; }
}
</style>
