import { expect, test } from 'vitest'
import type { Costs, Schemas } from '@/api/client'
import { columnsOf, costsPlot, historyPlot, oddsPlot, type PlotColours } from './plots'

const colours: PlotColours = { ink: 'ink', soft: 'soft', line: 'line', accent: 'accent', panel: 'panel' }
const sets = (config: { data: { datasets: unknown[] } }): Record<string, unknown>[] =>
  config.data.datasets as Record<string, unknown>[]

const point = (visit_id: number, hour: number, visible: number): Schemas['CountPoint'] => ({
  visit_id,
  frame_id: hour,
  at: `2026-03-0${visit_id}T${String(hour).padStart(2, '0')}:00:00`,
  visible,
  total: visible + 1,
})

test('a history stands as columns, visit by visit, named by the step before each', () => {
  const history = {
    works_at: 16,
    points: [point(1, 9, 8), point(1, 11, 3), point(2, 9, 5)],
    steps: [{ visit_id: 1, at: '2026-03-01T10:00:00', step: 'air' }],
    density: { columns: 1, rows: 1, settled: [], left: [] },
  } as Schemas['History']
  const { labels, visible, hidden } = columnsOf(history)
  expect(labels).toEqual([['1 Mar 2026'], ['Air'], [''], ['2 Mar 2026']])
  expect(visible).toEqual([8, 3, null, 5])
  expect(hidden).toEqual([1, 1, null, 1])
  expect(sets(historyPlot(history, colours)).map((d) => d.data)).toEqual([visible, hidden])
})

test('only the latest columns are drawn', () => {
  const points = Array.from({ length: 60 }, (_, i) => point(1, 9, i))
  expect(columnsOf({ points, steps: [] }).visible.at(-1)).toBe(59)
  expect(columnsOf({ points, steps: [] }).visible).toHaveLength(36)
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
