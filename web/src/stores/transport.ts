import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Where the playhead stands, and whether it runs. */
export const useTransport = defineStore('transport', () => {
  const frame = ref(0)
  const playing = ref(false)
  /** Whether the playhead is being dragged, so that quick pictures do. */
  const scrubbing = ref(false)
  return { frame, playing, scrubbing }
})
