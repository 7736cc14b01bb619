import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import { useDocument } from './document'
import { seenAt, shownAt } from './stage/elastic'
import { useTransient } from './transient'

/** What is told of playing: every n-th frame is shown, and how many were due and not shown in the last pass. */
export interface Playing {
  stride: number
  dropped: number
  /** All frames of the range are at hand. */
  hot: boolean
}

/** Where the playhead stands, and whether and how it runs. */
export const useTransport = defineStore('transport', () => {
  const document = useDocument()
  const transient = useTransient()
  const frame = ref(0)
  const playing = ref(false)
  /** Whether the playhead is being dragged, so that quick pictures do. */
  const scrubbing = ref(false)
  /** A factor; below 0 backwards. */
  const speed = ref(1)
  /** How fast it plays when nobody says otherwise: whole, half or quarter speed. */
  const pace = ref(1)
  /** How many frames lie between those that are seen as an onion skin; 0 is none. */
  const onion = ref(0)
  watch(() => document.key, () => (onion.value = 0))
  /** What is looped, the end excluded; null is all of it. */
  const range = ref<{ from: number; to: number } | null>(null)
  /** The part of the time that the strip shows; null is all of it. */
  const window = ref<{ from: number; to: number } | null>(null)
  watch(() => document.key, () => (window.value = null))
  const state = shallowRef<Playing>({ stride: 1, dropped: 0, hot: false })
  /** Runs of frames whose pictures are at hand, the end excluded. */
  const cached = shallowRef<{ from: number; to: number }[]>([])

  /** J K L: the same way again doubles the speed, the other way turns round. */
  function shuttle(way: 1 | -1) {
    if (playing.value && Math.sign(speed.value) === way) speed.value = way * Math.min(8, Math.abs(speed.value) * 2)
    else speed.value = way * pace.value
    playing.value = true
  }
  function toggle() {
    if (!playing.value) speed.value = pace.value
    playing.value = !playing.value
  }
  /** Whole, half and quarter speed in turn; what plays goes on so. */
  function slower() {
    pace.value = pace.value > 0.3 ? pace.value / 2 : 1
    if (playing.value) speed.value = Math.sign(speed.value) * pace.value
  }
  const frames = () => document.face?.frames ?? 1
  function seek(n: number) {
    playing.value = false
    transient.look = null
    frame.value = Math.max(0, Math.min(frames() - 1, n))
  }
  /** The instant of the template that is shown, in its frames: another one where the piece is longer or shorter. */
  const shows = computed(() => shownAt(document.face?.time ?? [], frame.value))
  const seekTo = (t: number) => seek(Math.round(seenAt(document.face?.time ?? [], t)))
  function mark(from: number, to: number) {
    range.value = to > from ? { from, to } : null
  }
  /** What is looped begins or ends where the playhead stands. */
  function loopFrom() {
    mark(frame.value, range.value && range.value.to > frame.value ? range.value.to : frames())
  }
  function loopTo() {
    mark(range.value && range.value.from <= frame.value ? range.value.from : 0, frame.value + 1)
  }
  return { seek, seekTo, shows, loopFrom, loopTo, frame, playing, scrubbing, speed, range, window, state, cached, shuttle, toggle, mark, pace, slower, onion }
})
