import type { Directive } from 'vue'

/** Gives the slider inside an element its name: the library's own has no place for one. */
export const vNamed: Directive<HTMLElement, string> = (el, { value }) => {
  el.querySelectorAll('[role=slider]').forEach((s) => s.setAttribute('aria-label', value))
}
