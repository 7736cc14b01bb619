import { stream, type Told } from './stream'

const CHANNEL = 'ivy-news'

/** Tells of the news by one stream for all tabs: a worker's, or where there is none, that of the tab that leads. */
export function shared(tell: (t: Told) => void) {
  if ('SharedWorker' in window) byWorker(tell)
  else if ('locks' in navigator && 'BroadcastChannel' in window) byLeader(tell)
  else stream(tell)
}

function byWorker(tell: (t: Told) => void) {
  let port: MessagePort | null = null
  function join() {
    port = new SharedWorker(new URL('./worker.ts', import.meta.url), { type: 'module', name: CHANNEL }).port
    port.onmessage = (e) => tell(e.data as Told)
  }
  join()
  window.addEventListener('pagehide', () => {
    port?.postMessage('left')
    port = null
  })
  // A page that comes back from the browser's store has missed what came meanwhile.
  window.addEventListener('pageshow', (e) => {
    if (!e.persisted) return
    join()
    tell({ state: 'broken' })
    tell({ state: 'open' })
  })
}

/** The tab that gets the lock leads, and keeps it until it is closed; then the next one does. */
function byLeader(tell: (t: Told) => void) {
  const channel = new BroadcastChannel(CHANNEL)
  channel.onmessage = (e) => tell(e.data as Told)
  void navigator.locks.request(CHANNEL, () => {
    let first = true
    stream((t) => {
      // Between two leaders something may have been missed.
      if (first && 'state' in t && t.state === 'open') hand({ state: 'broken' })
      first = false
      hand(t)
    })
    return new Promise(() => {})
  })
  function hand(t: Told) {
    tell(t)
    channel.postMessage(t)
  }
}
