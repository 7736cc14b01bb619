import { defineStore } from 'pinia'
import { ref } from 'vue'

/** What is to be told in passing: the shell shows it and takes it away. */
export const useNotices = defineStore('notices', () => {
  const last = ref<{ kind: 'error' | 'info'; text: string } | null>(null)
  function say(kind: 'error' | 'info', text: string) {
    last.value = { kind, text }
  }
  return { last, say }
})
