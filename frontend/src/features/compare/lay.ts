/** Where two frames look when they are looked at as one: turned, cropped or made smaller. */

export interface Laid {
  width_px: number
  height_px: number
  orientation: number
}

export interface Fit {
  scale: number
  shift_px: readonly number[]
  turn_deg: number
}

export interface Seen {
  x: number
  y: number
  zoom: number
}

/** Orientation tags in order of quarter turns to the right; mirrored ones are shown as they are. */
const TURNS = [1, 6, 3, 8]

function quarters(orientation: number): number {
  return Math.max(0, TURNS.indexOf(orientation))
}

/** Tag that shows the later frame the way the earlier one is shown. */
export function shownAs(before: Laid, after: Laid, fit: Fit): number {
  const turn = fit.turn_deg / 90
  if (turn === 0) return after.orientation
  return TURNS[(quarters(before.orientation) + turn) % 4] ?? after.orientation
}

/** A place off the middle after quarter turns to the left of the stored picture. */
function turned([x, y]: [number, number], turns: number): [number, number] {
  return turns % 4 === 0 ? [x, y] : turned([y, -x], (turns % 4) - 1)
}

function middle(frame: Laid): [number, number] {
  return [0.5, frame.height_px / frame.width_px / 2]
}

/**
 * What one pane sees, in the other: `back` leads from the later frame to the earlier one. Places are
 * of the stored pictures, in widths of each.
 */
export function seenIn(seen: Seen, before: Laid, after: Laid, fit: Fit, back: boolean): Seen {
  const turns = fit.turn_deg / 90
  const zoom = (fit.scale * before.width_px) / after.width_px
  const [a, b] = [middle(before), middle(after)]
  const shift = [(fit.shift_px[0] ?? 0) / after.width_px, (fit.shift_px[1] ?? 0) / after.width_px]
  const [sx, sy] = [shift[0] ?? 0, shift[1] ?? 0]
  if (!back) {
    const [x, y] = turned([seen.x - a[0], seen.y - a[1]], turns)
    return { x: b[0] + zoom * x + sx, y: b[1] + zoom * y + sy, zoom: seen.zoom / zoom }
  }
  const [x, y] = turned([(seen.x - sx - b[0]) / zoom, (seen.y - sy - b[1]) / zoom], 4 - turns)
  return { x: a[0] + x, y: a[1] + y, zoom: seen.zoom * zoom }
}
