import type { Spot } from '@/api/client'
import type { Point } from './geometry'

/** The middle line of a long thing from end to end, about its place; straight where its bend is not told. */
export function courseOf(spot: Spot): Point[] {
  if (spot.course_px?.length) return spot.course_px.map(([x = 0, y = 0]) => ({ x, y }))
  const along = ((spot.angle_deg ?? 0) * Math.PI) / 180
  const [x, y] = [(Math.cos(along) * spot.outer_px) / 2, (Math.sin(along) * spot.outer_px) / 2]
  return [
    { x: -x, y: -y },
    { x, y },
  ]
}

const digits = (v: number): string => v.toFixed(3)
const at = (p: Point): string => `${digits(p.x)} ${digits(p.y)}`

/** The outline of a band with round ends along a course, as an SVG path. */
export function bandPath(course: readonly Point[], halfWidth: number): string {
  const sides = course.map((p, i) => {
    const before = course[i - 1] ?? p
    const after = course[i + 1] ?? p
    const length = Math.hypot(after.x - before.x, after.y - before.y) || 1
    const [nx, ny] = [(before.y - after.y) / length, (after.x - before.x) / length]
    return [
      { x: p.x + nx * halfWidth, y: p.y + ny * halfWidth },
      { x: p.x - nx * halfWidth, y: p.y - ny * halfWidth },
    ] as const
  })
  const there = sides.map(([left]) => at(left))
  const back = sides.map(([, right]) => at(right)).reverse()
  const end = `A ${digits(halfWidth)} ${digits(halfWidth)} 0 0 0`
  return `M ${there.join(' L ')} ${end} ${back.join(' L ')} ${end} ${there[0]} Z`
}
