import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

/** Colours that were used, and one that is read from the picture. */
export const useDropper = defineStore('dropper', () => {
  /** How many pictures there are that can be read from. */
  const stages = ref(0)
  const ready = computed(() => stages.value > 0)
  /** Who waits for a colour; a press on the picture gives it. */
  const wait = shallowRef<((hex: string) => void) | null>(null)
  const recent = useLocalStorage<string[]>('ivy-colours', [])
  function used(hex: string) {
    if (!/^#[0-9a-f]{6}([0-9a-f]{2})?$/i.test(hex)) return
    recent.value = [hex.toLowerCase(), ...recent.value.filter((c) => c !== hex.toLowerCase())].slice(0, 12)
  }
  return { stages, ready, wait, recent, used }
})
