/** What a stream of news tells: news themselves as JSON, and how it is with the server. */
export type Told = { news: string } | { state: 'open' | 'broken' }

/**
 * Reads the server's stream of news, until it is told to stop. A browser has six connections to a server, so one stream
 * is all that its tabs may hold between them.
 */
export function stream(tell: (t: Told) => void): () => void {
  const source = new EventSource('/api/events')
  source.onopen = () => tell({ state: 'open' })
  source.onerror = () => {
    tell({ state: 'broken' })
    // A refusal ends it for good; the page goes on asking.
    if (source.readyState === EventSource.CLOSED) again = setTimeout(() => (stop = stream(tell)), 2000)
  }
  source.onmessage = (e) => tell({ news: e.data as string })
  let again: ReturnType<typeof setTimeout> | undefined
  let stop: (() => void) | undefined
  return () => {
    clearTimeout(again)
    stop?.()
    source.close()
  }
}
