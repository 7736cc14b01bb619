import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

import type { Numbered } from '../api/client'

/** What becomes of pictures that are numbered in a row. */
export interface Choice {
  clip: boolean
  /** Of a clip: the pictures are kept on their own, too. */
  apart: boolean
}

/** A question that waits for its answer; null is to bring nothing in. */
export const useAsking = defineStore('asking', () => {
  const question = shallowRef<{ groups: Numbered[]; answer: (c: Choice[] | null) => void } | null>(null)
  function ask(groups: Numbered[]): Promise<Choice[] | null> {
    question.value?.answer(null)
    return new Promise((resolve) => {
      question.value = {
        groups,
        answer: (c) => {
          question.value = null
          resolve(c)
        },
      }
    })
  }
  return { question, ask }
})
