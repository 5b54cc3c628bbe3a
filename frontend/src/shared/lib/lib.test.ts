import { describe, expect, it } from 'vitest'
import type { Spot } from '@/api/client'
import { asPredicted, nearestStop, noticedIn } from './apertures'
import { count, day, exposure, fStop, micrometres, percent } from './format'
import { affineFrom, scaleOf, tilesUnder, topLevel, uprightTurn } from './geometry'
import { markOf } from './marks'
import { countKinds, filterSpots } from './spots'
import { toneFilter } from './tones'
import { distance, length, lengths, temperature, toCelsius, toFahrenheit, toInches, toMm } from './units'

function spot(values: Partial<Spot>): Spot {
  return {
    id: 's1',
    x_px: 100,
    y_px: 50,
    x_mm: null,
    y_mm: null,
    zone: 'centre',
    kind: 'speck',
    site: 'sensor',
    snr: 40,
    depth: 0.1,
    outer_px: 20,
    outer_um: null,
    length_um: null,
    particle_um: null,
    height_mm: null,
    shows_from_f: 8,
    seen_in: 1,
    ...values,
  } as Spot
}

describe('numbers for people', () => {
  it('keeps sensible digits and units', () => {
    expect(percent(0.9876)).toBe('99 %')
    expect(percent(0.0123)).toBe('1.2 %')
    expect(percent(0.004)).toBe('0.40 %')
    expect(micrometres(8.24)).toBe('8.2 µm')
    expect(micrometres(1234)).toBe('1.23 mm')
    expect(micrometres(null)).toBe('–')
    expect(fStop(5.6)).toBe('f/5.6')
    expect(fStop(null)).toBe('–')
    expect(exposure(0.004)).toBe('1/250 s')
    expect(exposure(1.3)).toBe('1.3 s')
    expect(count(1, 'spot')).toBe('1 spot')
    expect(count(0, 'spot')).toBe('0 spots')
  })
  it('says when a date is unknown', () => {
    expect(day(null)).toBe('date unknown')
    expect(day('soon')).toBe('date unknown')
    expect(day('2026-09-14T10:00:00')).toMatch(/14 Sept? 2026/)
  })
})

describe('filters', () => {
  const spots = [
    spot({}),
    spot({ id: 's2', kind: 'fibre', shows_from_f: null }),
    spot({ id: 's3', shows_from_f: 16 }),
  ]
  it('passes everything by default', () => {
    expect(filterSpots(spots, { kinds: [], showsAt: null })).toHaveLength(3)
  })
  it('keeps chosen kinds and what shows', () => {
    expect(filterSpots(spots, { kinds: ['fibre'], showsAt: null }).map((s) => s.id)).toEqual(['s2'])
    expect(filterSpots(spots, { kinds: [], showsAt: 8 }).map((s) => s.id)).toEqual(['s1'])
    expect(filterSpots(spots, { kinds: ['fibre'], showsAt: 32 })).toEqual([])
  })
  it('counts kinds that are there', () => {
    expect(countKinds(spots)).toEqual([
      { kind: 'speck', count: 2 },
      { kind: 'fibre', count: 1 },
    ])
  })
})

describe('geometry', () => {
  it('takes three corners to a matrix', () => {
    const turned = affineFrom({ x: 10, y: 20 }, { x: 10, y: 120 }, { x: -40, y: 20 }, 200, 100)
    expect(turned).toEqual([0, 0.5, -0.5, 0, 10, 20])
    expect(scaleOf(turned)).toBe(0.5)
  })
  it('stands every orientation upright', () => {
    expect(uprightTurn(1)).toEqual({ degrees: 0, flip: false })
    expect(uprightTurn(6)).toEqual({ degrees: 90, flip: false })
    expect(uprightTurn(99)).toEqual({ degrees: 0, flip: false })
  })
  it('lists the tiles under a window', () => {
    expect(topLevel(6000, 4000)).toBe(13)
    const places = tilesUnder('/t', 500, 10, 40, 6000, 4000, 512)
    expect(places).toEqual([
      { url: '/t/13/0_0.jpg', x: -500, y: -10 },
      { url: '/t/13/1_0.jpg', x: 12, y: -10 },
    ])
  })
  it('asks for no tile outside the picture', () => {
    const places = tilesUnder('/t', -20, -20, 60, 100, 80, 512)
    expect(places).toEqual([{ url: '/t/7/0_0.jpg', x: 20, y: 20 }])
  })
})

describe('marks', () => {
  it('tells kinds by shape and doubt by line', () => {
    expect(markOf(spot({}), 1)).toMatchObject({ shape: 'circle', inner: null, dash: '' })
    expect(markOf(spot({ kind: 'fibre', angle_deg: 30 }), 1)).toMatchObject({ shape: 'band' })
    expect(markOf(spot({ kind: 'droplet' }), 1).inner).not.toBeNull()
    expect(markOf(spot({ site: 'unsure' }), 1).dash).not.toBe('')
    expect(markOf(spot({ kind: 'soft', site: 'lens' }), 1).dash).not.toBe(
      markOf(spot({ kind: 'residue' }), 1).dash,
    )
  })
  it('keeps small spots visible when zoomed out', () => {
    expect(markOf(spot({ outer_px: 4 }), 0.1).radius * 0.1).toBeGreaterThanOrEqual(6)
  })
})

it('raises the gain in relief only', () => {
  expect(toneFilter('relief', 3)).toBe('contrast(3)')
  expect(toneFilter('shot', 3)).toBe('none')
})

describe('other apertures', () => {
  const prediction = {
    schema: 'neatpatch.predict/1' as const,
    f_number: 8,
    spots: [
      { id: 's1', depth: 0.02, outer_px: 30, noticed: true },
      { id: 's2', depth: 0.001, outer_px: 40, noticed: false },
    ],
  }
  it('finds the stop nearest to an aperture', () => {
    expect(nearestStop(2)).toBe(0)
    expect(nearestStop(6)).toBe(3)
    expect(nearestStop(45)).toBe(8)
  })
  it('replaces depth and width, and leaves out what is not predicted', () => {
    const spots = [
      spot({}),
      spot({ id: 's2', kind: 'fibre', width_px: 8 }),
      spot({ id: 's3', site: 'scene' }),
    ]
    const there = asPredicted(spots, prediction)
    expect(there.map((s) => [s.id, s.depth, s.outer_px])).toEqual([
      ['s1', 0.02, 30],
      ['s2', 0.001, 40],
    ])
    expect(there[1]?.width_px).toBe(28)
    expect([...noticedIn(prediction)]).toEqual(['s1'])
  })
})

describe('units', () => {
  it('tells lengths and temperatures both ways', () => {
    expect([length(24, 'metric'), length(24, 'inch')]).toEqual(['24 mm', '0.94 in'])
    expect([temperature(20.04, 'metric'), temperature(20, 'inch')]).toEqual(['20 °C', '68 °F'])
    for (const mm of [0.5, 8, 24, 46.5]) expect(toMm(toInches(mm))).toBeCloseTo(mm, 1)
    for (const c of [-40, 0, 20.5, 37]) expect(toCelsius(toFahrenheit(c))).toBeCloseTo(c, 1)
  })
  it('tells lengths that belong together before one unit', () => {
    expect(lengths([36, 24], ' × ', 'metric')).toBe('36 × 24 mm')
    expect(lengths([36, 24], ' × ', 'inch')).toBe('1.42 × 0.94 in')
    expect([distance(910, 'metric'), distance(910, 'inch')]).toEqual(['91 cm', '36 in'])
  })
})
