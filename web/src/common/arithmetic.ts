/** Works out what somebody typed in a number field, such as 1920/4; null when it is no sum. */
export function arithmetic(text: string): number | null {
  const s = text.replace(/−/g, '-').replace(/×/g, '*').replace(/,/g, '.').replace(/[a-z°%\s]/gi, '')
  let i = 0
  function sum(): number {
    let v = product()
    while (s[i] === '+' || s[i] === '-') v = s[i++] === '+' ? v + product() : v - product()
    return v
  }
  function product(): number {
    let v = factor()
    while (s[i] === '*' || s[i] === '/') v = s[i++] === '*' ? v * factor() : v / factor()
    return v
  }
  function factor(): number {
    if (s[i] === '-') {
      i++
      return -factor()
    }
    if (s[i] === '(') {
      i++
      const v = sum()
      return s[i++] === ')' ? v : NaN
    }
    const m = /^\d*\.?\d+|^\d+\.?/.exec(s.slice(i))
    if (!m) return NaN
    i += m[0].length
    return Number(m[0])
  }
  if (!s || s.length > 80) return null
  const v = sum()
  return i === s.length && Number.isFinite(v) ? v : null
}
