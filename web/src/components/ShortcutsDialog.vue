<script setup lang="ts">
import { NModal } from 'naive-ui'

const show = defineModel<boolean>('show', { required: true })
const groups = [
  { title: 'Play', keys: [['Space', 'Play and stop'], ['J K L', 'Backwards, stop, forwards; again: faster'], ['A B', 'Loop from here, to here; Shift: all again'], ['← →', 'One frame back or on'], ['Shift ← →', 'Ten frames'], ['Home End', 'First and last frame'], [', .', 'Cue before and after']] },
  { title: 'Layers and pockets', keys: [['Tab', 'From layer to layer'], ['Drag', 'Move the layer; Shift: along one axis'], ['Enter', 'Frame the selected pocket'], ['O', 'Choose media for it'], ['Esc', 'Leave framing; select nothing']] },
  { title: 'Framing', keys: [['Drag', 'Pan'], ['Wheel', 'Zoom'], ['Arrows', 'Pan a little; Shift: more'], ['+ −', 'Zoom'], ['[ ]', 'Turn by 1°; Shift: 15°'], ['X Y', 'Flip'], ['F', 'Set the focus'], ['0', 'Reset']] },
  { title: 'Everywhere', keys: [['Ctrl Z', 'Undo'], ['Ctrl Shift Z', 'Redo'], ['V', 'Next format'], ['1', 'True size, or fit'], ['Shift F', 'Full screen'], ['?', 'These keys']] },
]
</script>

<template>
  <NModal v-model:show="show" preset="card" title="Keys" style="width: 640px" :bordered="false">
    <div class="groups">
      <section v-for="g in groups" :key="g.title">
        <h3>{{ g.title }}</h3>
        <dl><template v-for="[k, what] in g.keys" :key="k"><dt><kbd class="num">{{ k }}</kbd></dt><dd>{{ what }}</dd></template></dl>
      </section>
    </div>
  </NModal>
</template>

<style scoped>
.groups { display: grid; grid-template-columns: 1fr 1fr; gap: 18px 28px; }
h3 { font-size: 13px; margin-bottom: 6px; color: var(--ivy-deep); }
dl { display: grid; grid-template-columns: 104px 1fr; gap: 4px 10px; margin: 0; align-items: center; }
dd { margin: 0; }
kbd { background: var(--linen-deep); border: 1px solid var(--rule-strong); border-radius: 5px; padding: 1px 6px; }
</style>
