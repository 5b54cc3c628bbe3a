import { describe, expect, it } from 'vitest'
import { laidWords, witnessWords } from './words'

const fingerprint = { strength: 812.4, limit: 59.2 }

describe('what two frames say of themselves', () => {
  it('tells one sensor, another, and what cannot be told, with the figure', () => {
    expect(witnessWords({ same_sensor: true, fingerprint })).toContain('agreement 812, chance reaches 59')
    const strange = { same_sensor: false, fingerprint: { strength: 24, limit: 59.2 } }
    expect(witnessWords(strange)).toContain('24; one sensor would exceed 59')
    expect(witnessWords({ same_sensor: null, fingerprint })).toContain('cannot be told')
    const begun = { same_sensor: true, fingerprint: { strength: 0, limit: 0 } }
    expect(witnessWords(begun)).toBe('One sensor, by the photosites’ own pattern.')
  })

  it('tells turn and lens correction only where there are any', () => {
    const shift: [number, number] = [3, 4]
    const plain = { scale: 1.002, shift_px: shift, radial: 0, turn_deg: 0, residual_px: 0.31 }
    expect(laidWords(plain)).toBe(
      'Laid on each other by scale 1.0020 and a shift of 5.0 px; they agree within 0.31 px.',
    )
    const more = laidWords({ ...plain, radial: -0.021, turn_deg: 90 })
    expect(more).toContain('turned by 90°')
    expect(more).toContain('corners by -2.1 %')
  })
})
