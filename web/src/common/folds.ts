import { useLocalStorage, useMediaQuery } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'

/** Below this the desk is one column, as on a telephone held upright; the style has the same number. */
const NARROW = '(max-width: 620px)'
/** Below this there is no room for the stage between two open panels. */
const SLIM = '(max-width: 900px)'

/** What is folded away beside the stage: as somebody said, else as there is room. */
export const useFolds = defineStore('folds', () => {
  const narrow = useMediaQuery(NARROW)
  const slim = useMediaQuery(SLIM)
  const said = useLocalStorage<{ rail?: boolean; panel?: boolean }>('ivy-folds', {})
  const fold = (what: 'rail' | 'panel', otherwise: () => boolean) =>
    computed({
      get: () => !narrow.value && (said.value[what] ?? otherwise()),
      set: (folded: boolean) => (said.value = { ...said.value, [what]: folded }),
    })
  return { narrow, rail: fold('rail', () => slim.value), panel: fold('panel', () => false) }
})
