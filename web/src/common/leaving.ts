import { onScopeDispose } from 'vue'
import { useRouter } from 'vue-router'

/**
 * Tells whether this page is being left for another one. The other page may take a moment to arrive; whoever writes
 * into this page's address meanwhile would call the way there off.
 */
export function useLeaving() {
  const router = useRouter()
  let leaving = false
  const offs = [
    router.beforeEach((to, from) => {
      leaving = to.path !== from.path
    }),
    router.afterEach(() => {
      leaving = false
    }),
  ]
  onScopeDispose(() => offs.forEach((off) => off()))
  return () => leaving
}
