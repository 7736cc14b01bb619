import { stream, type Told } from './stream'

// One for all tabs of a browser: it holds the stream of news and hands on what comes.
const tabs = new Set<MessagePort>()
let state: Told | null = null
let stop: (() => void) | null = null

function hand(t: Told) {
  if ('state' in t) state = t
  tabs.forEach((p) => p.postMessage(t))
}

;(self as unknown as { onconnect: (e: MessageEvent) => void }).onconnect = (e) => {
  const port = e.ports[0]!
  tabs.add(port)
  port.onmessage = () => {
    tabs.delete(port)
    if (tabs.size) return
    stop?.()
    stop = state = null
  }
  if (state) port.postMessage(state)
  stop ??= stream(hand)
}
