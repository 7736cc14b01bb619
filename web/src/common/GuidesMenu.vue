<script setup lang="ts">
import { IconAdjustmentsHorizontal, IconPlus, IconRuler2 } from '@tabler/icons-vue'
import { NButton, NCheckbox, NPopover, NSwitch } from 'naive-ui'
import { computed, ref } from 'vue'

import { useAccess } from './access'
import { tip } from './commands'
import DoneBar from './DoneBar.vue'
import { useGuides } from './guides'

/** Which guides lie over the picture. Who builds adjusts them, too. */
const props = defineProps<{ canvas: { width: number; height: number }; fixed?: boolean }>()
const guides = useGuides()
const access = useAccess()
const sets = computed(() => guides.laid(props.canvas))
const count = computed(() => (guides.on ? sets.value.filter((s) => guides.shown.includes(s.id)).length : 0))
const open = ref(false)
/** Its lines can be dragged then; the list would hide them. */
function adjust(id: string) {
  guides.adjusting = guides.adjusting === id ? '' : id
  open.value = false
}
</script>

<template>
  <NPopover v-model:show="open" trigger="click" placement="bottom-end" :style="{ padding: '10px 12px', width: '290px' }" :to="false">
    <template #trigger>
      <button class="look" :class="{ on: guides.on }" :aria-label="`Guides${count ? `: ${count} shown` : ''}`" :title="tip('guides', 'Guides')" data-test="guides"><IconRuler2 :size="15" /><span class="word">Guides</span></button>
    </template>
    <div class="menu" data-test="guides-menu">
      <label class="head"><b>Guides</b><NSwitch size="small" :value="guides.on" aria-label="Show the guides" @update:value="guides.toggle()" /></label>
      <DoneBar v-model="guides.done" />
      <ul>
        <li v-for="s in sets" :key="s.id" :class="{ off: !s.laid.fits }">
          <NCheckbox size="small" :checked="guides.on && guides.shown.includes(s.id)" :data-guides="s.id" @update:checked="(is: boolean) => guides.show(s.id, is)">{{ s.name }}</NCheckbox>
          <small v-if="s.longest" class="num quiet" :title="`A piece there is ${s.longest} s long at most`">≤ {{ s.longest }} s</small>
          <button v-if="access.builds && !fixed" class="icon-button" :class="{ on: guides.adjusting === s.id }" :aria-label="`Adjust ${s.name}`" title="Adjust: drag its lines" :data-adjust="s.id" @click="adjust(s.id)"><IconAdjustmentsHorizontal :size="15" /></button>
          <p v-if="s.laid.note" class="quiet">{{ s.laid.note }}.</p>
        </li>
      </ul>
      <NButton v-if="access.builds && !fixed" size="tiny" data-test="new-guides" @click="((open = false), guides.add())"><template #icon><IconPlus :size="14" /></template>A set of our own</NButton>
      <p class="quiet foot">No render ever shows them.</p>
    </div>
  </NPopover>
</template>

<style scoped>
.look { display: flex; align-items: center; gap: 7px; border: 0; background: none; color: #dcdbd3; padding: 5px 9px; border-radius: 7px; cursor: pointer; white-space: nowrap; }
.look:hover { background: rgba(0, 0, 0, 0.2); }
.look.on { background: var(--linen); color: var(--ink); }
.look:focus-visible { outline-color: #fff; }
.menu { display: grid; gap: 8px; justify-items: start; color: var(--ink); }
.head { display: flex; justify-content: space-between; align-items: center; width: 100%; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 3px; width: 100%; max-height: 320px; overflow: auto; }
li { display: grid; grid-template-columns: minmax(0, 1fr) auto 26px; align-items: center; gap: 2px 6px; min-height: 26px; }
li p { grid-column: 1 / -1; margin: 0 0 4px 22px; font-size: 11.5px; line-height: 1.3; }
li.off :deep(.n-checkbox__label) { color: var(--ink-quiet); }
.icon-button { width: 26px; height: 24px; grid-column: 3; }
.foot { margin: 0; font-size: 11.5px; }
@container stage (max-width: 620px) { ul { max-height: 150px; } }
@container stage (max-width: 820px) { .word { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); } }
</style>
