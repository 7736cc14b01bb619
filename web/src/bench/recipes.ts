import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'

import { api, ask, type Recipe } from '../api/client'
import { useDocument } from '../common/document'
import { useSelection } from '../common/selection'

/** What layers can be built from: kinds of recipes and the numbers they ask for. */
export const useRecipes = defineStore('recipes', () => {
  const list = shallowRef<Recipe[]>([])
  const doc = useDocument()
  const selection = useSelection()
  async function load() {
    if (!list.value.length) list.value = await ask(api.GET('/api/recipes')).catch(() => [])
  }
  const of = (kind: string) => list.value.find((r) => r.kind === kind)
  /** A recipe's numbers until somebody sets others. */
  const usual = (kind: string) => Object.fromEntries((of(kind)?.numbers ?? []).map((n) => [n.name, n.default]))
  /** The recipe that all selected layers were built from. */
  const chosen = computed(() => doc.draft?.recipes.find((r) => selection.layers.length && selection.layers.every((id) => id.startsWith(`${r.id}-`))))
  return { list, load, of, usual, chosen }
})
