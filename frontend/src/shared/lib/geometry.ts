/** Plain plane geometry between image pixels and the screen. */

export interface Point {
  x: number
  y: number
}

/** Affine matrix in the order of SVG's matrix(a b c d e f). */
export type Matrix = readonly [number, number, number, number, number, number]

/** Matrix that takes (0,0), (width,0) and (0,height) to the three given points. */
export function affineFrom(origin: Point, right: Point, down: Point, width: number, height: number): Matrix {
  return [
    (right.x - origin.x) / width,
    (right.y - origin.y) / width,
    (down.x - origin.x) / height,
    (down.y - origin.y) / height,
    origin.x,
    origin.y,
  ]
}

/** Screen pixels per image pixel. */
export function scaleOf(matrix: Matrix): number {
  return Math.hypot(matrix[0], matrix[1])
}

/** Degrees to turn, and whether to mirror first, so that a stored picture stands upright. */
export function uprightTurn(orientation: number): { degrees: number; flip: boolean } {
  const turns: Record<number, { degrees: number; flip: boolean }> = {
    1: { degrees: 0, flip: false },
    2: { degrees: 0, flip: true },
    3: { degrees: 180, flip: false },
    4: { degrees: 180, flip: true },
    5: { degrees: 270, flip: true },
    6: { degrees: 90, flip: false },
    7: { degrees: 90, flip: true },
    8: { degrees: 270, flip: false },
  }
  return turns[orientation] ?? { degrees: 0, flip: false }
}

/** Full-size level of a deep-zoom pyramid; level 0 is a single pixel. */
export function topLevel(width: number, height: number): number {
  return Math.ceil(Math.log2(Math.max(width, height, 1)))
}

export interface TilePlace {
  url: string
  x: number
  y: number
}

/** Tiles of the full-size level that cover a square window, with their places in it. */
export function tilesUnder(
  base: string,
  left: number,
  top: number,
  size: number,
  width: number,
  height: number,
  tile: number,
): TilePlace[] {
  const level = topLevel(width, height)
  const places: TilePlace[] = []
  const lastColumn = Math.floor((Math.min(left + size, width) - 1) / tile)
  const lastRow = Math.floor((Math.min(top + size, height) - 1) / tile)
  for (let row = Math.max(0, Math.floor(top / tile)); row <= lastRow; row++) {
    for (let column = Math.max(0, Math.floor(left / tile)); column <= lastColumn; column++) {
      places.push({
        url: `${base}/${level}/${column}_${row}.jpg`,
        x: column * tile - left,
        y: row * tile - top,
      })
    }
  }
  return places
}

/** What takes points placed by `from` to where `to` places them. */
export function relativeTo(to: Matrix, from: Matrix): Matrix {
  const [a, b, c, d, e, f] = from
  const size = a * d - b * c
  const inverse = [d / size, -b / size, -c / size, a / size] as const
  const [p, q, r, s] = inverse
  const [A, B, C, D, E, F] = to
  const turned = [A * p + C * q, B * p + D * q, A * r + C * s, B * r + D * s] as const
  return [...turned, E - turned[0] * e - turned[2] * f, F - turned[1] * e - turned[3] * f]
}
