<script setup lang="ts">
import { NButton, NCheckbox, NRadio, NRadioGroup } from 'naive-ui'
import { computed, ref, watch } from 'vue'

import CardDialog from '../common/CardDialog.vue'
import { useAsking, type Choice } from './asking'

/** Asks whether pictures that are numbered in a row are a clip or pictures; the likelier answer is chosen. */
const asking = useAsking()
const groups = computed(() => asking.question?.groups ?? [])
const choices = ref<Choice[]>([])
watch(groups, (g) => g.length && (choices.value = g.map((x) => ({ clip: x.clip, apart: false }))), { immediate: true })
const gaps = (n: number) => (n === 1 ? 'one number is missing' : `${n} gaps in the numbers`)
</script>

<template>
  <CardDialog :show="!!asking.question" title="Numbered pictures" :width="520" @update:show="(s: boolean) => s || asking.question?.answer(null)">
    <form data-test="numbered" @submit.prevent="asking.question?.answer(choices)">
      <section v-for="(g, i) in groups" :key="g.name" :data-group="g.name">
        <h3>{{ g.name }}</h3>
        <p class="quiet">{{ g.why }}<template v-if="g.gaps?.length"> {{ gaps(g.gaps.length) }}.</template></p>
        <NRadioGroup v-if="choices[i]" v-model:value="choices[i]!.clip" :aria-label="`What ${g.name} is`">
          <NRadio :value="true" data-test="as-clip">One clip of {{ g.files?.length }} frames</NRadio>
          <NRadio :value="false" data-test="as-pictures">{{ g.files?.length }} pictures</NRadio>
        </NRadioGroup>
        <NCheckbox v-if="choices[i]?.clip" v-model:checked="choices[i]!.apart" data-test="apart">Keep the single pictures in the store, too</NCheckbox>
      </section>
      <div class="acts">
        <NButton @click="asking.question?.answer(null)">Bring nothing in</NButton>
        <NButton type="primary" attr-type="submit" data-test="bring-numbered" autofocus>Bring in</NButton>
      </div>
    </form>
  </CardDialog>
</template>

<style scoped>
form, section { display: grid; gap: 8px; }
form { gap: 16px; }
section + section { padding-top: 14px; background: repeating-linear-gradient(90deg, var(--rule-strong) 0 5px, transparent 5px 10px) top / 100% 1.2px no-repeat; }
h3 { font-size: 14px; overflow-wrap: anywhere; }
.acts { display: flex; justify-content: flex-end; gap: 8px; }
:deep(.n-radio-group) { display: grid; gap: 5px; }
</style>
