export interface Point {
  x: number
  y: number
}

/** A projective map, in the order of its letters: x' = (a·x + c·y + e) ÷ (g·x + h·y + i), y' = (b·x + d·y + f) ÷ the same. */
export type Projective = readonly number[]

export const identity: Projective = [1, 0, 0, 1, 0, 0, 0, 0, 1]

export function apply(m: Projective, p: Point): Point {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  const w = g * p.x + h * p.y + i
  return { x: (a * p.x + c * p.y + e) / w, y: (b * p.x + d * p.y + f) / w }
}

/** The map back; of one that is flat beyond use, nothing moves. */
export function inverse(m: Projective): Projective {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  // Rows of the matrix are [a c e], [b d f], [g h i]; its adjugate, by letters.
  const det = a * (d * i - f * h) - c * (b * i - f * g) + e * (b * h - d * g)
  if (!det) return identity
  return [d * i - f * h, f * g - b * i, e * h - c * i, a * i - e * g, c * f - e * d, e * b - a * f, b * h - d * g, c * g - a * h, a * d - b * c].map((v) => v / det)
}

/** The same as CSS has it, after a scale. */
export function css(m: Projective, k: number): string {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  return `scale(${k}) matrix3d(${[a, b, 0, g, c, d, 0, h, 0, 0, 1, 0, e, f, 0, i].join(',')})`
}
