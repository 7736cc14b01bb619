import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { DetailedError, Upload } from 'tus-js-client'

import { api, ask, detail, Failure, type Medium, whenIn } from '../api/client'

/** A file, or the pictures of a sequence, on the way into the store. */
export interface Arrival {
  key: number
  name: string
  /** The pocket it was dropped on; '' for the store alone. */
  pocket: string
  size: number
  sent: number
  /** Bytes a second, lately. */
  speed: number
  state: 'waiting' | 'coming' | 'paused' | 'broken' | 'checking' | 'done' | 'refused'
  reason: string
  /** Of a sequence: pictures in all, and those that are there. */
  pictures: number
  there: number
  medium?: Medium
}

/** What one drop brings: single files, and numbered pictures that make a clip. */
export interface Bundle {
  files: File[]
  /** Set for a sequence: its name and the number of each file. */
  sequence?: { name: string; numbers: number[]; apart: boolean }
}

/** Uploads at one time: the server answers frames on the rest of a browser's six connections. */
const AT_ONCE = 2
const FULL = 507
const OUT = 401
const RETRY = [300, 1000, 3000, 6000, 12000]

interface Job {
  arrival: Arrival
  bundle: Bundle
  rate: string
  next: number
  hashes: string[]
  upload?: Upload
  resolve: (m: Medium) => void
  reject: (e: Failure) => void
  sentBefore: number
  marks: { at: number; bytes: number }[]
}

/** Files on their way into the store; each can be paused, goes on after a break, and can be cancelled. */
export const useUploads = defineStore('uploads', () => {
  const list = ref<Arrival[]>([])
  const jobs = new Map<number, Job>()
  let keys = 0
  const busy = computed(() => list.value.filter((a) => a.state === 'coming' || a.state === 'checking').length)
  const open = computed(() => list.value.filter((a) => a.state !== 'done' && a.state !== 'refused').length)

  function live(j: Job): Arrival {
    return list.value.find((a) => a.key === j.arrival.key) ?? j.arrival
  }

  /** Takes a bundle in; the promise is kept when it is in the store. */
  function add(bundle: Bundle, pocket = '', rate = '25'): { arrival: Arrival; medium: Promise<Medium> } {
    const arrival: Arrival = {
      key: ++keys, name: bundle.sequence?.name ?? bundle.files[0]!.name, pocket, size: bundle.files.reduce((n, f) => n + f.size, 0), sent: 0, speed: 0,
      state: 'waiting', reason: '', pictures: bundle.sequence ? bundle.files.length : 0, there: 0,
    }
    list.value.push(arrival)
    const medium = new Promise<Medium>((resolve, reject) => {
      jobs.set(arrival.key, { arrival, bundle, rate, next: 0, hashes: [], resolve, reject, sentBefore: 0, marks: [] })
    })
    medium.catch(() => {}) // whoever waits for it hears of it; nobody has to
    work()
    return { arrival, medium }
  }

  /** Begins what waits, as far as there is room. */
  function work() {
    for (const a of list.value) {
      if (busy.value >= AT_ONCE) return
      const j = jobs.get(a.key)
      if (a.state === 'waiting' && j) {
        a.state = 'coming'
        send(j)
      }
    }
  }

  function send(j: Job) {
    const file = j.bundle.files[j.next]!
    const a = live(j)
    a.state = 'coming'
    const u = new Upload(file, {
      endpoint: '/api/uploads/',
      retryDelays: RETRY,
      // A full disk does not empty itself; that is said at once, and goes on when somebody says so.
      onShouldRetry: (e) => {
        const status = e instanceof DetailedError ? (e.originalResponse?.getStatus() ?? 0) : 0
        return status !== FULL && (status === 0 || status >= 500 || status === 409 || status === 423)
      },
      metadata: { filename: file.name, filetype: file.type },
      removeFingerprintOnSuccess: true,
      onProgress: (sent) => {
        const a = live(j)
        if (j.upload !== u || a.state !== 'coming') return // of one that was paused or has ended
        a.sent = j.sentBefore + sent
        const now = performance.now()
        j.marks.push({ at: now, bytes: a.sent })
        while (j.marks.length > 2 && now - j.marks[0]!.at > 2000) j.marks.shift()
        const first = j.marks[0]!
        a.speed = now > first.at ? ((a.sent - first.bytes) / (now - first.at)) * 1000 : 0
        if (sent >= file.size && !j.bundle.sequence) a.state = 'checking'
      },
      onSuccess: ({ lastResponse }) => void (j.upload === u && arrived(j, u, lastResponse?.getStatus(), lastResponse?.getBody())),
      onError: (e) => {
        if (j.upload !== u || !jobs.has(j.arrival.key)) return
        const r = e instanceof DetailedError ? e.originalResponse : null
        if (!r || r.getStatus() >= 500 || r.getStatus() === OUT) {
          const a = live(j)
          a.state = 'broken'
          a.speed = 0
          a.reason = r ? words(r.getBody(), r.getStatus()) : 'The connection broke. What was sent is safe; it goes on from there.'
          work()
          // It goes on when who sends it is in again.
          if (r?.getStatus() === OUT) void whenIn().then(() => resume(j.arrival.key))
        } else end(j, words(r.getBody(), r.getStatus()), r.getStatus())
      },
    })
    j.upload = u
    void u.findPreviousUploads().then((old) => {
      if (live(j).state !== 'coming') return
      if (old[0]) u.resumeFromPreviousUpload(old[0])
      u.start()
    })
  }

  function words(body: string | undefined, status: number): string {
    try {
      return detail(JSON.parse(body ?? ''), status)
    } catch {
      return body || (status ? `The server answered ${status}.` : 'The connection broke. What was sent is safe; it goes on from there.')
    }
  }

  async function arrived(j: Job, u: Upload, status = 0, body = '') {
    let m: Medium | undefined
    try {
      if (!body.startsWith('{') && u.url) {
        // The answer was not heard; it is kept for a while.
        const r = await fetch(u.url)
        status = r.status
        body = await r.text()
      }
      if (status === 200) m = JSON.parse(body) as Medium
    } catch {
      /* said below */
    }
    const a = live(j)
    if (!m && (status >= 500 || !status)) {
      // All of it is there; it is taken in when it is asked for again.
      a.state = 'broken'
      a.speed = 0
      a.reason = words(body, status)
      return work()
    }
    if (!m) return end(j, words(body, status), status)
    if (!j.bundle.sequence) return finish(j, m)
    j.hashes[j.next] = m.hash
    j.sentBefore += j.bundle.files[j.next]!.size
    a.there = ++j.next
    if (a.state === 'paused') return
    if (j.next < j.bundle.files.length) return send(j)
    a.state = 'checking'
    try {
      finish(j, await ask(api.POST('/api/sequences', { body: { name: j.bundle.sequence.name, rate: j.rate, numbers: j.bundle.sequence.numbers, hashes: j.hashes, apart: j.bundle.sequence.apart } })))
    } catch (e) {
      end(j, (e as Failure).message, (e as Failure).status)
    }
  }

  function finish(j: Job, m: Medium) {
    const a = live(j)
    a.state = 'done'
    a.sent = a.size
    a.medium = m
    jobs.delete(a.key)
    j.resolve(m)
    work()
  }

  function end(j: Job, reason: string, status: number) {
    const a = live(j)
    a.state = 'refused'
    a.reason = reason
    jobs.delete(a.key)
    j.reject(new Failure(status, reason))
    work()
  }

  function pause(key: number) {
    const j = jobs.get(key)
    const a = list.value.find((x) => x.key === key)
    if (!j || !a || (a.state !== 'coming' && a.state !== 'waiting')) return
    a.state = 'paused'
    a.speed = 0
    j.marks = []
    void j.upload?.abort()
    work()
  }

  function resume(key: number) {
    const a = list.value.find((x) => x.key === key)
    const j = jobs.get(key)
    if (!a || !j) return
    a.reason = ''
    a.state = 'waiting'
    work()
  }

  /** Ends an upload and removes what was sent. */
  function cancel(key: number) {
    const j = jobs.get(key)
    if (j) {
      void j.upload?.abort(true).catch(() => {})
      jobs.delete(key)
      j.reject(new Failure(0, 'Cancelled.'))
    }
    dismiss(key)
    work()
  }

  function dismiss(key: number) {
    list.value = list.value.filter((a) => a.key !== key)
  }

  /** Says of a file that is in the store why it could not be used where it was dropped. */
  function refuse(key: number, reason: string) {
    const a = list.value.find((x) => x.key === key)
    if (a) {
      a.state = 'refused'
      a.reason = reason
    }
  }

  return { list, busy, open, add, pause, resume, cancel, dismiss, refuse }
})
