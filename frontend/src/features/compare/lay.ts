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

function shown(frame: Laid, orientation: number): { width: number; aspect: number } {
  const upright = quarters(orientation) % 2 === 1
  const width = upright ? frame.height_px : frame.width_px
  const height = upright ? frame.width_px : frame.height_px
  return { width, aspect: height / width }
}

/** What one pane sees, in the other: `back` leads from the later frame to the earlier one. */
export function seenIn(seen: Seen, before: Laid, after: Laid, fit: Fit, back: boolean): Seen {
  const tag = shownAs(before, after, fit)
  const a = shown(before, before.orientation)
  const b = shown(after, tag)
  let [dx, dy] = [fit.shift_px[0] ?? 0, fit.shift_px[1] ?? 0]
  for (let turn = 0; turn < quarters(tag); turn++) [dx, dy] = [-dy, dx]
  const zoom = (fit.scale * a.width) / b.width
  const [sx, sy] = [dx / b.width, dy / b.width]
  if (!back) {
    return {
      x: 0.5 + zoom * (seen.x - 0.5) + sx,
      y: b.aspect / 2 + zoom * (seen.y - a.aspect / 2) + sy,
      zoom: seen.zoom / zoom,
    }
  }
  return {
    x: 0.5 + (seen.x - sx - 0.5) / zoom,
    y: a.aspect / 2 + (seen.y - sy - b.aspect / 2) / zoom,
    zoom: seen.zoom * zoom,
  }
}
