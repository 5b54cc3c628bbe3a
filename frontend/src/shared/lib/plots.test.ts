import { expect, test } from 'vitest'
import type { Costs, Schemas } from '@/api/client'
import { costsPlot, historyPlot, oddsPlot, type PlotColours } from './plots'

const colours: PlotColours = { ink: 'ink', soft: 'soft', line: 'line', accent: 'accent', panel: 'panel' }
const sets = (config: { data: { datasets: unknown[] } }): Record<string, unknown>[] =>
  config.data.datasets as Record<string, unknown>[]

test('a history draws all spots, the visible ones and the steps, told apart without colour', () => {
  const history = {
    works_at: 16,
    points: [{ visit_id: 1, frame_id: 1, at: '2026-03-01T09:00:00', visible: 3, total: 4 }],
    steps: [{ visit_id: 1, at: '2026-03-01T09:05:00', step: 'air' }],
    density: { columns: 1, rows: 1, settled: [], left: [] },
  } as Schemas['History']
  const drawn = sets(historyPlot(history, colours))
  expect(drawn.map((d) => (d.data as { y: number }[])[0]?.y)).toEqual([4, 3, 0])
  expect(new Set(drawn.map((d) => d.pointStyle)).size).toBe(3)
})

test('odds are bars from the low to the high end with a mark at the mean', () => {
  const [interval, mean] = sets(oddsPlot([{ name: 'Air', low: 0.62, high: 0.88, mean: 0.77 }], colours))
  expect(interval?.data).toEqual([[62, 88]])
  expect((mean?.data as number[][])[0]?.[0]).toBeCloseTo(76.4)
})

test('costs mark where an own kit becomes the cheaper', () => {
  const against = {
    lasting: 60,
    a_clean: 4,
    rows: [
      { cleans: 1, own: 64, service: 40, membership: null },
      { cleans: 4, own: 76, service: 160, membership: null },
    ],
    beats_service_from: 2,
    beats_membership_from: null,
    words: '',
  } as Costs['against']
  const drawn = sets(costsPlot(against, colours))
  expect(drawn.filter((d) => d.label === 'Break-even').map((d) => d.data)).toEqual([
    [
      { x: 2, y: 0 },
      { x: 2, y: 160 },
    ],
  ])
  expect((drawn[1]?.data as { y: number }[]).map((p) => p.y)).toEqual([4, 16])
})
