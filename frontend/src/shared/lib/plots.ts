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

/** Visible and all spots over time; steps are marked at the foot. */
export function historyPlot(history: Schemas['History'], c: PlotColours): Config {
  const line = (name: 'visible' | 'total', filled: boolean): object => ({
    label: name === 'visible' ? `Visible at f/${history.works_at}` : 'All spots',
    data: history.points.map((p) => ({ x: time(p.at), y: p[name] })),
    borderColor: filled ? c.accent : c.soft,
    backgroundColor: filled ? c.accent : c.panel,
    pointStyle: filled ? 'circle' : 'rectRot',
    pointRadius: 4,
    borderDash: filled ? [] : [5, 4],
    borderWidth: 2,
    showLine: true,
  })
  const steps = {
    label: 'Steps',
    data: history.steps.map((s) => ({ x: time(s.at), y: 0, step: s.step })),
    pointStyle: 'triangle',
    pointRadius: 6,
    backgroundColor: c.ink,
    borderColor: c.ink,
    showLine: false,
  }
  return {
    type: 'scatter',
    data: { datasets: [line('total', false), line('visible', true), steps] },
    options: {
      scales: {
        x: axis(c, '', {
          title: { display: false },
          ticks: {
            color: c.soft,
            font: TEXT,
            maxTicksLimit: 8,
            callback: (v: number | string) => day(new Date(Number(v)).toISOString()),
          },
        }),
        y: axis(c, 'Spots', { beginAtZero: true, ticks: { precision: 0, color: c.soft, font: TEXT } }),
      },
      plugins: {
        tooltip: {
          callbacks: {
            label: (item) => {
              const at = day(new Date(item.parsed.x ?? 0).toISOString())
              const { step } = item.raw as { step?: keyof typeof STEP_WORDS }
              return step
                ? `${at}: ${STEP_WORDS[step]}`
                : `${at}: ${item.parsed.y} ${item.dataset.label?.toLowerCase()}`
            },
          },
        },
      },
    },
  } as Config
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
