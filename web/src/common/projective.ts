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

/** The map from shares of a box to where its corners stand, clockwise from the top left (Heckbert's unit square to quadrilateral). */
export function onto(q: readonly [Point, Point, Point, Point]): Projective {
  const [p0, p1, p2, p3] = q
  const [sx, sy] = [p0.x - p1.x + p2.x - p3.x, p0.y - p1.y + p2.y - p3.y]
  const [ux, uy, vx, vy] = [p1.x - p2.x, p1.y - p2.y, p3.x - p2.x, p3.y - p2.y]
  const det = ux * vy - vx * uy || 1
  const [g, h] = [(sx * vy - vx * sy) / det, (ux * sy - sx * uy) / det]
  return [p1.x - p0.x + g * p1.x, p1.y - p0.y + g * p1.y, p3.x - p0.x + h * p3.x, p3.y - p0.y + h * p3.y, p0.x, p0.y, g, h, 1]
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
