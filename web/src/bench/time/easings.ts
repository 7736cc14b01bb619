/** An easing: the four numbers of CSS cubic-bezier. */
export type Bezier = [number, number, number, number]

/** Our own easings, from soft to violent; out of rest and into it, one, the other or both. */
export const shelf: { name: string; list: { id: string; name: string; ease: Bezier }[] }[] = [
  { name: 'Both', list: [
    { id: 'breath', name: 'Breath', ease: [0.4, 0, 0.6, 1] },
    { id: 'stride', name: 'Stride', ease: [0.6, 0, 0.3, 1] },
    { id: 'swing', name: 'Swing', ease: [0.75, 0, 0.15, 1] },
    { id: 'gust', name: 'Gust', ease: [0.9, 0, 0.05, 1] },
    { id: 'squall', name: 'Squall', ease: [1, 0, 0, 1] },
  ] },
  { name: 'Into rest', list: [
    { id: 'settle', name: 'Settle', ease: [0.2, 0.4, 0.4, 1] },
    { id: 'land', name: 'Land', ease: [0.1, 0.7, 0.2, 1] },
    { id: 'slam', name: 'Slam', ease: [0.02, 0.95, 0.05, 1] },
    { id: 'over', name: 'Overshoot', ease: [0.2, 1.3, 0.4, 1] },
    { id: 'spring', name: 'Spring', ease: [0.1, 2.2, 0.3, 1] },
  ] },
  { name: 'Out of rest', list: [
    { id: 'lean', name: 'Lean', ease: [0.6, 0, 0.8, 0.6] },
    { id: 'leap', name: 'Leap', ease: [0.8, 0, 0.9, 0.3] },
    { id: 'bolt', name: 'Bolt', ease: [0.95, 0, 0.98, 0.05] },
    { id: 'recoil', name: 'Recoil', ease: [0.6, -0.6, 0.8, 0.4] },
    { id: 'whip', name: 'Whip', ease: [0.8, -1.4, 0.2, 2] },
  ] },
]

/** Where a Bézier curve from 0,0 to 1,1 goes, as the path of a drawing in a box of 1 by 1, y down. */
export const drawn = (e: Bezier) => `M0 1 C${e[0]} ${1 - e[1]} ${e[2]} ${1 - e[3]} 1 0`
