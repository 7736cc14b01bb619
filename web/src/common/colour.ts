export type Colour = { hex: string } | { why: string }

const two = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 255).toString(16).padStart(2, '0')

/**
 * Reads a colour as CSS writes it (CSS Color 4): a name, hex digits with # or without, rgb(), hsl(), oklch() and the
 * others. What lies outside of sRGB is cut off at its edge. The browser itself does the reading.
 */
export function readColour(text: string, clear: boolean): Colour {
  let s = text.trim().toLowerCase()
  if (/^([\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})$/.test(s)) s = '#' + s
  // These stand for a colour of the page, not for one of their own.
  const borrowed = /var\(|^(inherit|initial|unset|revert|revert-layer|currentcolor)$/.test(s)
  if (!s || borrowed || !CSS.supports('color', s)) return { why: `“${text.trim()}” is no colour; write 2e6b4e, a name such as teal, rgb(46 107 78) or hsl(151 40% 30%)` }
  const probe = document.createElement('i')
  // Also where nothing is seen of it a colour is one: it shows in what it is mixed with.
  const own = `color(from ${s} srgb r g b / alpha)`
  probe.style.color = CSS.supports('color', own) ? own : `color-mix(in srgb, ${s}, ${s})`
  document.body.append(probe)
  const parts = getComputedStyle(probe).color.replaceAll('none', '0').match(/-?[\d.]+(e-?\d+)?/g)!.map(Number)
  probe.remove()
  const [r = 0, g = 0, b = 0, a = 1] = parts
  if (a < 1 && !clear) return { why: 'This colour can’t be seen through; leave the opacity out' }
  return { hex: '#' + two(r) + two(g) + two(b) + (a < 1 ? two(a) : '') }
}
