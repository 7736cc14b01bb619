import { api, ask } from '../api/client'

/**
 * Pastes text into a field without its stray blanks and line ends, on at most so many lines. The field tells of it as of
 * what is typed, and its own undo takes it back.
 */
export async function pasteClean(e: ClipboardEvent, lines: number) {
  const raw = e.clipboardData?.getData('text/plain')
  const f = e.target as HTMLInputElement | HTMLTextAreaElement
  if (!raw || f.selectionStart === null) return
  e.preventDefault()
  const was = f.value
  const [a, b] = [f.selectionStart, f.selectionEnd ?? f.selectionStart]
  // Where nobody answers it comes in as it is: what can't be kept is told then.
  const { text } = await ask(api.POST('/api/words/tidy', { body: { text: raw.slice(0, 20000), lines } })).catch(() => ({ text: raw }))
  if (!f.isConnected) return // it was left, and is gone
  if (document.activeElement === f) {
    if (f.value === was) f.setSelectionRange(a, b)
    // The one way in which a page can write that the field's own undo knows of.
    if (text ? document.execCommand('insertText', false, text) : a === b || document.execCommand('delete')) return
  }
  f.setRangeText(text, Math.min(a, f.value.length), Math.min(b, f.value.length), 'end')
  f.dispatchEvent(new Event('input', { bubbles: true }))
}
