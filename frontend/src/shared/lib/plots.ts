/** Plots as configurations of the charting library, made from what the API tells. */
import type { ChartConfiguration } from 'chart.js'
import type { Costs, Schemas } from '@/api/client'
import { day } from './format'
import { STEP_WORDS } from './steps'

export interface PlotColours {
  ink: string
  soft: string
  line: string
  accent: string
  panel: string
}
type Config = ChartConfiguration

const TEXT = { size: 12 }
const time = (at: string): number => new Date(at).getTime()

function axis(c: PlotColours, title: string, more: object = {}): object {
  return {
    title: { display: true, text: title, color: c.soft, font: TEXT },
    ticks: { color: c.soft, font: TEXT },
    grid: { color: c.line },
    ...more,
  }
}

const MOST_COLUMNS = 36

/** What each fit frame of a camera counted, visit by visit: a column a frame, room for what happened. */
export function columnsOf(history: Pick<Schemas['History'], 'points' | 'steps'>): {
  labels: string[][]
  visible: (number | null)[]
  hidden: (number | null)[]
} {
  const labels: string[][] = []
  const visible: (number | null)[] = []
  const hidden: (number | null)[] = []
  let before: Schemas['CountPoint'] | null = null
  for (const p of history.points.slice(-MOST_COLUMNS)) {
    const begins = before?.visit_id !== p.visit_id
    if (begins && before) {
      labels.push([''])
      visible.push(null)
      hidden.push(null)
    }
    const from = begins ? -Infinity : time(before?.at ?? p.at)
    const steps = history.steps.filter(
      (s) => s.visit_id === p.visit_id && time(s.at) > from && time(s.at) <= time(p.at),
    )
    const since = begins ? [] : steps.map((s) => STEP_WORDS[s.step as keyof typeof STEP_WORDS])
    labels.push([...(begins ? [day(p.at)] : since.length ? since : ['again'])])
    visible.push(p.visible)
    hidden.push(Math.max(0, p.total - p.visible))
    before = p
  }
  return { labels, visible, hidden }
}

/** Columns of counts, visit by visit; what does not show in the work stands hatched above. */
export function historyPlot(history: Schemas['History'], c: PlotColours): Config {
  const { labels, visible, hidden } = columnsOf(history)
  return {
    type: 'bar',
    data: {
      labels,
      datasets: [
        {
          label: `Visible at f/${history.works_at}`,
          data: visible,
          backgroundColor: c.accent,
          borderColor: c.accent,
          borderWidth: 1,
          maxBarThickness: 44,
        },
        {
          label: 'Not visible there',
          data: hidden,
          backgroundColor: c.panel,
          borderColor: c.soft,
          borderWidth: 1,
          maxBarThickness: 44,
        },
      ],
    },
    options: {
      scales: {
        x: axis(c, '', {
          stacked: true,
          title: { display: false },
          grid: { display: false },
          ticks: { color: c.ink, font: TEXT, autoSkip: false, maxRotation: 60 },
        }),
        y: axis(c, 'Spots', {
          stacked: true,
          beginAtZero: true,
          ticks: { precision: 0, color: c.soft, font: TEXT },
        }),
      },
      plugins: {
        tooltip: {
          callbacks: {
            title: (items) => (labels[items[0]?.dataIndex ?? 0] ?? []).join(', '),
            label: (item) => `${String(item.parsed.y)} ${item.dataset.label?.toLowerCase() ?? ''}`,
          },
        },
      },
    },
  }
}

export interface OddsLine {
  name: string
  low: number
  high: number
  mean: number
}

/** Shares with their intervals, one bar a line. */
export function oddsPlot(lines: readonly OddsLine[], c: PlotColours): Config {
  return {
    type: 'bar',
    data: {
      labels: lines.map((l) => l.name),
      datasets: [
        {
          label: 'Interval',
          order: 1,
          data: lines.map((l) => [100 * l.low, 100 * l.high] as [number, number]),
          backgroundColor: c.line,
          borderColor: c.soft,
          borderWidth: 1,
          barThickness: 14,
          grouped: false,
        },
        {
          label: 'Middle',
          order: 0,
          data: lines.map((l) => [100 * l.mean - 0.6, 100 * l.mean + 0.6] as [number, number]),
          backgroundColor: c.accent,
          barThickness: 22,
          grouped: false,
        },
      ],
    },
    options: {
      indexAxis: 'y',
      scales: {
        x: axis(c, 'Removed, %', { min: 0, max: 100 }),
        y: axis(c, '', { title: { display: false }, ticks: { color: c.ink, font: TEXT } }),
      },
      plugins: {
        tooltip: {
          callbacks: {
            label: (item) => {
              const l = lines[item.dataIndex]
              return l
                ? `${Math.floor(100 * l.low)} to ${Math.ceil(100 * l.high)} %, middle ${Math.round(100 * l.mean)} %`
                : ''
            },
          },
        },
      },
    },
  }
}

/** What a year costs by cleans a year: the own kit's first and later years, a service, a membership. */
export function costsPlot(against: Costs['against'], c: PlotColours): Config {
  const line = (label: string, values: (number | null | undefined)[], more: object): object => ({
    label,
    data: values.map((v, i) => ({ x: against.rows[i]?.cleans ?? 0, y: v ?? NaN })),
    borderColor: c.soft,
    backgroundColor: c.panel,
    borderWidth: 2,
    pointRadius: 4,
    showLine: true,
    ...more,
  })
  const own = { borderColor: c.accent, backgroundColor: c.accent }
  const top = Math.max(...against.rows.flatMap((r) => [r.own ?? 0, r.service ?? 0, r.membership ?? 0]))
  const evens = [against.beats_service_from, against.beats_membership_from].flatMap((n) =>
    n
      ? [
          {
            label: 'Break-even',
            data: [
              { x: n, y: 0 },
              { x: n, y: top },
            ],
            borderColor: c.ink,
            borderWidth: 1,
            borderDash: [2, 4],
            pointRadius: 0,
            showLine: true,
          },
        ]
      : [],
  )
  return {
    type: 'scatter',
    data: {
      datasets: [
        line(
          'Own kit, first year',
          against.rows.map((r) => r.own),
          { ...own, pointStyle: 'circle' },
        ),
        line(
          'Own kit, later years',
          against.rows.map((r) => (r.own == null ? null : r.own - (against.lasting ?? 0))),
          { ...own, borderDash: [5, 4], pointStyle: 'circle' },
        ),
        line(
          'Service',
          against.rows.map((r) => r.service),
          { pointStyle: 'rect' },
        ),
        line(
          'Membership',
          against.rows.map((r) => r.membership),
          {
            pointStyle: 'triangle',
            borderDash: [2, 3],
          },
        ),
        ...evens,
      ],
    },
    options: {
      scales: { x: axis(c, 'Cleans a year'), y: axis(c, 'Cost', { beginAtZero: true }) },
    },
  } as Config
}
