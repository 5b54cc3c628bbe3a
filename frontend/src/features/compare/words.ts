/** What two frames laid on each other say of themselves, in words. */
import type { FrameComparison } from '@/api/client'

type Comparison = FrameComparison['comparison']

/** What the photosites' own pattern says. */
export function witnessWords(c: Pick<Comparison, 'same_sensor' | 'fingerprint'>): string {
  const { strength, limit } = c.fingerprint
  const figure = strength > 0 ? ` (agreement ${strength.toFixed(0)}, chance reaches ${limit.toFixed(0)})` : ''
  if (c.same_sensor === true) return `One sensor, by the photosites’ own pattern${figure}.`
  if (c.same_sensor === false) {
    return `Agreement of the patterns: ${strength.toFixed(0)}; one sensor would exceed ${limit.toFixed(0)}.`
  }
  return 'Whether it is one sensor cannot be told from the photosites’ own pattern.'
}

/** How the later frame lies on the earlier one. */
export function laidWords(fit: Comparison['alignment']): string {
  const shift = Math.hypot(Number(fit.shift_px[0]), Number(fit.shift_px[1])).toFixed(1)
  const turn = fit.turn_deg ? `turned by ${fit.turn_deg}°, ` : ''
  const lens = fit.radial
    ? ` A lens correction in the camera moved the corners by ${(100 * fit.radial).toFixed(1)} %; that is allowed for.`
    : ''
  return `Laid on each other ${turn}by scale ${fit.scale.toFixed(4)} and a shift of ${shift} px; they agree within ${fit.residual_px.toFixed(2)} px.${lens}`
}
