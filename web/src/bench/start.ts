/** What templates are for. */
export const purposes = [
  { id: 'stand-alone', label: 'A piece of its own', about: 'An opener, a card, a slideshow' },
  { id: 'overlay', label: 'An overlay', about: 'On clear ground, laid over something else' },
  { id: 'frame', label: 'A frame around a clip', about: 'One clip fills the first pocket' },
  { id: 'transition', label: 'A transition', about: 'From clip A to clip B' },
] as const
export type Purpose = (typeof purposes)[number]['id']

/** Frame rates, as exact fractions. */
export const rates = [
  { value: '24000/1001', label: '23.976 fps' },
  { value: '24', label: '24 fps' },
  { value: '25', label: '25 fps' },
  { value: '30000/1001', label: '29.97 fps' },
  { value: '30', label: '30 fps' },
  { value: '50', label: '50 fps' },
  { value: '60000/1001', label: '59.94 fps' },
  { value: '60', label: '60 fps' },
]

/** Canvases that are asked for most. */
export const canvases = [
  [1920, 1080],
  [1280, 720],
  [3840, 2160],
  [1080, 1920],
  [1080, 1080],
] as const
export const canvasName = (w: number, h: number) => (w === h ? 'Square' : w > h ? 'Landscape' : 'Vertical')
