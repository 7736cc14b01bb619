import { useDebounceFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useLeaving } from '../common/leaving'

/** What is searched for on the shelf. It goes into the address a moment later, so that reloading and going back keep it. */
export function useFind() {
  const route = useRoute()
  const router = useRouter()
  const inAddress = () => (typeof route.query.find === 'string' ? route.query.find : '')
  const find = ref(inAddress())
  const here = route.name
  const leaving = useLeaving()
  const keep = useDebounceFn(() => {
    if (!leaving() && route.name === here && find.value !== inAddress()) void router.replace({ query: { ...route.query, find: find.value || undefined } })
  }, 250)
  watch(find, keep)
  watch(inAddress, (now) => route.name === here && (find.value = now))
  return find
}
