/** Places of drawn dust: even, the same each time. */
const G1 = 0.7548776662
const G2 = 0.5698402909
export type Spread = 'spread' | 'edges' | 'middle' | 'single' | null

/** `n` places in a box of 1 by 1, lying as the words say. */
export function scattered(n: number, where: Spread): { x: number; y: number }[] {
  return Array.from({ length: n }, (_, i) => {
    const [u, v] = [(0.5 + G1 * (i + 1)) % 1, (0.5 + G2 * (i + 1)) % 1]
    if (where === 'middle') return { x: 0.35 + 0.3 * u, y: 0.35 + 0.3 * v }
    if (where === 'edges') return onEdge(u, v)
    return { x: 0.07 + 0.86 * u, y: 0.1 + 0.8 * v }
  })
}

function onEdge(along: number, depth: number): { x: number; y: number } {
  const inset = 0.04 + 0.08 * depth
  const at = 4 * along
  const part = 0.08 + 0.84 * (at % 1)
  if (at < 1) return { x: part, y: inset }
  if (at < 2) return { x: 1 - inset, y: part }
  if (at < 3) return { x: part, y: 1 - inset }
  return { x: inset, y: part }
}
