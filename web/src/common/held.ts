import { defineStore } from 'pinia'
import { ref } from 'vue'

/** What takes text as it is typed. */
export const TEXT = 'input:not([type=radio], [type=checkbox], [type=range], [type=color], [type=button]), textarea, [contenteditable]'

/** So long a field may take after what opens it was answered, in ms: it asks the server for what it holds. */
const FIELD = 15000

/**
 * Letters that are typed after a press that opens a field and before the field stands. They are kept, are no commands meanwhile, and are put
 * into the field when it has the focus. A press elsewhere ends the typing: then what was typed so far is still put where it was meant.
 */
export const useHeld = defineStore('held', () => {
  /** What was typed so far, for all to see that it is not lost. */
  const text = ref('')
  const waiting = ref(false)
  let end: (() => void) | undefined

  /**
   * Holds what is typed until a field stands. `opened` tells whether it will: false where what was to open it was refused. `live` is whether
   * somebody still waits for it. `left` is kept with what was typed for a field that nobody waits for any longer; with null where the field
   * has it, or it was given up.
   */
  function until(opened: Promise<boolean> = Promise.resolve(true)): { live: () => boolean; left: Promise<string | null> } {
    end?.()
    text.value = ''
    waiting.value = true
    let sealed = false
    const left = new Promise<string | null>((done) => {
      let open = false
      let late: ReturnType<typeof setTimeout> | undefined
      function deaf() {
        sealed = true
        window.removeEventListener('keydown', key, true)
        window.removeEventListener('paste', paste, true)
        window.removeEventListener('pointerdown', seal, true)
        window.removeEventListener('focusin', stands, true)
        if (end !== seal) return
        end = undefined
        text.value = ''
        waiting.value = false
      }
      function stop(what: string | null) {
        deaf()
        clearTimeout(late)
        done(what)
      }
      let typed = ''
      const say = (t: string) => (typed = text.value = t)
      function key(e: KeyboardEvent) {
        if (e.isComposing || (e.target instanceof Element && e.target.closest(TEXT))) return
        if (e.key === 'Tab') return seal()
        if (e.key === 'Escape') return stop(null) // what was opened hears it, too
        const command = (e.ctrlKey || e.metaKey) && !e.getModifierState('AltGraph')
        if (command && e.key.toLowerCase() === 'v') return // it comes as a paste
        e.stopImmediatePropagation()
        // What is the browser's own, such as reading the page anew, is left to it.
        if (/^F\d/.test(e.key) || (command && !/^[adg]$/i.test(e.key))) return
        e.preventDefault()
        if (command) return
        if (e.key === 'Backspace') say([...typed].slice(0, -1).join(''))
        else if (e.key === 'Enter') say(typed + '\n')
        else if ([...e.key].length === 1) say(typed + e.key)
      }
      function paste(e: ClipboardEvent) {
        if (e.target instanceof Element && e.target.closest(TEXT)) return
        e.preventDefault()
        e.stopImmediatePropagation()
        say(typed + (e.clipboardData?.getData('text/plain') ?? ''))
      }
      /** Somebody goes on elsewhere: the field that was asked for does not take the focus from there. */
      function seal() {
        if (sealed) return
        deaf()
        if (open) stop(typed)
      }
      function stands(e: FocusEvent) {
        if (!(e.target instanceof Element) || !e.target.closest(TEXT)) return
        // Who gave it the focus selects what is to be replaced first.
        queueMicrotask(() => {
          if (sealed) return
          if (typed) document.execCommand('insertText', false, typed)
          stop(null)
        })
      }
      end = seal
      window.addEventListener('keydown', key, true)
      window.addEventListener('paste', paste, true)
      window.addEventListener('pointerdown', seal, true)
      window.addEventListener('focusin', stands, true)
      void opened.then(
        (ok) => {
          open = ok
          if (!ok) stop(null)
          else if (sealed) stop(typed)
          else late = setTimeout(() => stop(typed), FIELD)
        },
        () => stop(null),
      )
    })
    return { live: () => !sealed, left }
  }
  return { text, waiting, until }
})
