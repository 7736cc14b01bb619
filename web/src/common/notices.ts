import { defineStore } from 'pinia'
import { ref } from 'vue'

/** What is to be told in passing: the shell shows it and takes it away. */
export const useNotices = defineStore('notices', () => {
  const last = ref<{ kind: 'error' | 'info'; text: string; series: string } | null>(null)
  /** Of a series the last one is told alone: it takes the place of the one before. */
  function say(kind: 'error' | 'info', text: string, series = '') {
    last.value = { kind, text, series }
  }
  return { last, say }
})
