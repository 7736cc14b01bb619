import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { useDrafts } from './drafts'

/** Document files that are dropped or chosen become drafts; one alone is opened at once. */
export function useDocuments() {
  const drafts = useDrafts()
  const router = useRouter()
  /** Something is dragged over the place where documents are dropped. */
  const over = ref(false)
  async function take(files: File[]) {
    const made: string[] = []
    let failure = ''
    for (const f of files) {
      const id = await drafts.drop(f)
      if (id) made.push(id)
      else failure = [failure, drafts.failure].filter(Boolean).join('\n')
    }
    drafts.failure = failure
    if (made.length && !failure) await router.push(files.length === 1 ? `/bench/${made[0]}` : '/drafts')
    return failure
  }
  async function dropped(e: DragEvent) {
    over.value = e.type === 'dragover'
    return e.type === 'drop' ? take([...(e.dataTransfer?.files ?? [])]) : ''
  }
  return { over, take, dropped }
}
