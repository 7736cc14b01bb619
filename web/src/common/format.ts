/** A number as people read it: no more digits than it has, at most `places`. */
export function plain(n: number, places = 2): string {
  return Number(n.toFixed(places)).toString().replace('-', '−')
}

export function bytes(n: number): string {
  if (n < 1000) return `${n} B`
  const units = ['kB', 'MB', 'GB']
  let i = -1
  do {
    n /= 1000
    i++
  } while (n >= 999.5 && i < 2)
  return `${n < 10 ? n.toFixed(1) : Math.round(n)} ${units[i]}`
}

export function seconds(s: number): string {
  if (s < 0) return ''
  if (s < 9.95) return `${s.toFixed(1)} s`
  if (s < 59.5) return `${Math.round(s)} s`
  const m = Math.floor(Math.round(s) / 60)
  return `${m} min ${Math.round(s) % 60} s`
}

/**
 * Timecode by SMPTE ST 12-1, as the server's timing package writes it; it is
 * shown while the playhead moves, too often to be asked for.
 */
export function timecode(frame: number, rateN: number, rateD: number, drop: boolean): string {
  const nominal = Math.round(rateN / rateD)
  let f = frame
  if (drop) {
    const d = nominal / 15
    const perTen = nominal * 600 - 9 * d
    const perOne = nominal * 60 - d
    const m = frame % perTen
    f += 9 * d * Math.floor(frame / perTen)
    if (m >= d) f += d * Math.floor((m - d) / perOne)
  }
  const s = Math.floor(f / nominal)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}${drop ? ';' : ':'}${two(f % nominal)}`
}

export function ago(iso: string): string {
  const s = (Date.now() - Date.parse(iso)) / 1000
  if (s < 60) return 'just now'
  if (s < 3600) return `${Math.floor(s / 60)} min ago`
  if (s < 86400) return `${Math.floor(s / 3600)} h ago`
  return new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short', year: 'numeric' })
}
