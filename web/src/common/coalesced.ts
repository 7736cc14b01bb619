/**
 * Work that is asked for more often than it needs to be done: while it is under way further wishes wait, and are all met
 * by doing it once more. What is returned ends when the wish is met.
 */
export function coalesced(work: () => Promise<void>): () => Promise<void> {
  let running: Promise<void> | null = null
  let next: Promise<void> | null = null
  return function run(): Promise<void> {
    if (!running) return (running = work().finally(() => (running = null)))
    return (next ??= running
      .catch(() => {})
      .then(() => {
        next = null
        return run()
      }))
  }
}
