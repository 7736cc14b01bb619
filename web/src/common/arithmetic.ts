export type Sum = { value: number } | { why: string }

// A number as people write it: thousands set off by spaces, apostrophes, or, where it can't be anything else, by
// commas or points; a decimal point or comma; an exponent.
const GROUPED = /^\d{1,3}(?:[ '’\u00a0\u2009\u202f]\d{3})+(?![\d])/
const NUMBER = /^(?:\d[\d.,]*|[.,]\d+)/
const EXPONENT = /^e[+-]?\d+/i

/** Reads one number, without its exponent. */
function number(text: string): number | string {
  const t = text.replace(/[ '’\u00a0\u2009\u202f]/g, '')
  if (/^\d*\.?\d+$|^\d+\.$/.test(t)) return Number(t)
  if (/^\d{1,3}(,\d{3})+\.\d+$|^\d{1,3}(,\d{3}){2,}$/.test(t)) return Number(t.replace(/,/g, ''))
  if (/^\d{1,3}(\.\d{3})+,\d+$|^\d{1,3}(\.\d{3}){2,}$/.test(t)) return Number(t.replace(/\./g, '').replace(',', '.'))
  if (/^[1-9]\d{0,2},\d{3}$/.test(t)) return `${t} can be ${t.replace(',', '')} or ${Number(t.replace(',', '.'))}; write it without the comma, or with a point`
  if (/^\d*,\d+$|^\d+,$/.test(t)) return Number(t.replace(',', '.'))
  return `${t} is no number`
}

/**
 * Works out what somebody typed in a number field: numbers, + − * × x / and brackets, with the field's own unit behind
 * it or not. What can't be read, or read in two ways, is refused with the reason; nothing is left out.
 */
export function arithmetic(text: string, unit = ''): Sum {
  let s = text.trim()
  if (unit && s.toLowerCase().endsWith(unit.toLowerCase())) s = s.slice(0, -unit.length).trimEnd()
  if (!s) return { why: 'There is no number' }
  if (s.length > 80) return { why: 'That is too long' }
  let i = 0
  let why = ''
  const blank = () => {
    while (/\s/.test(s[i] ?? '')) i++
  }
  const fail = (what: string) => {
    why ||= what
    return NaN
  }
  const sign = (signs: string) => {
    blank()
    return i < s.length && signs.includes(s[i]!.toLowerCase()) ? s[i++] : ''
  }
  function sum(): number {
    let v = product()
    for (let o = sign('+-−'); o; o = sign('+-−')) v = o === '+' ? v + product() : v - product()
    return v
  }
  function product(): number {
    let v = factor()
    for (let o = sign('*×x/÷'); o; o = sign('*×x/÷')) v = '/÷'.includes(o) ? v / factor() : v * factor()
    return v
  }
  function factor(): number {
    if (sign('-−')) return -factor()
    if (sign('(')) {
      const v = sum()
      return sign(')') ? v : fail('A bracket is not closed')
    }
    blank()
    const rest = s.slice(i)
    const grouped = GROUPED.exec(rest)?.[0] ?? ''
    const m = grouped + (NUMBER.exec(grouped ? rest.slice(grouped.length).replace(/^(?![.,])[\s\S]*/, '') : rest)?.[0] ?? '')
    if (!m) return fail(rest ? `“${rest.slice(0, 12)}” is no number` : 'A number is missing at the end')
    i += m.length
    const v = number(m)
    if (typeof v === 'string') return fail(v)
    const e = EXPONENT.exec(s.slice(i))?.[0] ?? ''
    i += e.length
    return e ? Number(`${v}${e}`) : v
  }
  const v = sum()
  blank()
  if (!why && i < s.length) why = `“${s.slice(i, i + 12)}” can't be read here`
  if (!why && !Number.isFinite(v)) why = 'That is no number'
  return why ? { why } : { value: v }
}
