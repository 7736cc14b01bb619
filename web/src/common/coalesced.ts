/**
 * Work that is asked for more often than it needs to be done: while it is under
 * way further wishes wait, and are all met by doing it once more.
 */
export function coalesced(work: () => Promise<void>): () => Promise<void> {
  let busy = false
  let again = false
  return async function run() {
    if (busy) {
      again = true
      return
    }
    busy = true
    try {
      await work()
    } finally {
      busy = false
      if (again) {
        again = false
        void run()
      }
    }
  }
}
