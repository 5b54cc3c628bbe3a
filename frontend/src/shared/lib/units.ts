/** Lengths and temperatures as people read them: metric, or inches and degrees Fahrenheit.
 *
 * The server makes its own sentences in the same way, see the core's words. */

export type Units = 'metric' | 'inch'

const MM_PER_INCH = 25.4
const LARGE_INCHES = 10

export const toInches = (mm: number): number => Number((mm / MM_PER_INCH).toFixed(3))
export const toMm = (inches: number): number => Number((inches * MM_PER_INCH).toFixed(2))
export const toFahrenheit = (c: number): number => Number((c * 1.8 + 32).toFixed(1))
export const toCelsius = (f: number): number => Number(((f - 32) / 1.8).toFixed(1))

/** A length in the chosen units. */
export function length(mm: number, units: Units): string {
  return lengths([mm], '', units)
}

/** Lengths that belong together, before one unit: 36 × 24 mm. */
export function lengths(mm: number[], link: string, units: Units): string {
  if (units === 'metric') return `${mm.map((v) => Number(v.toFixed(2))).join(link)} mm`
  return `${mm.map(inches).join(link)} in`
}

/** A distance to a target, in whole centimetres or inches. */
export function distance(mm: number, units: Units): string {
  return units === 'metric' ? `${Math.round(mm / 10)} cm` : `${inches(mm)} in`
}

/** A temperature in the chosen units. */
export function temperature(c: number, units: Units): string {
  return units === 'metric' ? `${Number(c.toFixed(1))} °C` : `${Math.round(toFahrenheit(c))} °F`
}

function inches(mm: number): string {
  const value = mm / MM_PER_INCH
  return String(Number(value.toFixed(value >= LARGE_INCHES ? 0 : 2)))
}

const same = (value: number): number => value
export type Measure = 'length' | 'temperature'
/** How a kept value is entered and shown in a field. */
export const MEASURES: Record<
  Measure,
  Record<
    Units,
    { suffix: string; digits: number; from: (kept: number) => number; to: (shown: number) => number }
  >
> = {
  length: {
    metric: { suffix: 'mm', digits: 2, from: same, to: same },
    inch: { suffix: 'in', digits: 3, from: toInches, to: toMm },
  },
  temperature: {
    metric: { suffix: '°C', digits: 1, from: same, to: same },
    inch: { suffix: '°F', digits: 1, from: toFahrenheit, to: toCelsius },
  },
}
