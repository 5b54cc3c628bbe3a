/** Lengths and temperatures as people read them: metric, or inches and degrees Fahrenheit. */

export type Units = 'metric' | 'inch'

const MM_PER_INCH = 25.4
const LENGTHS_MM: Record<string, number> = { mm: 1, cm: 10 }
const NUMBER = String.raw`-?\d+(?:\.\d+)?`
const FIGURE = new RegExp(String.raw`(${NUMBER})(?:(\s(?:to|x|×)\s)(${NUMBER}))?(?:(\s(?:to|x|×)\s)(${NUMBER}))?\s?(°C|mm|cm)(?![\w/])`, 'g')

export const toInches = (mm: number): number => Number((mm / MM_PER_INCH).toFixed(3))
export const toMm = (inches: number): number => Number((inches * MM_PER_INCH).toFixed(2))
export const toFahrenheit = (c: number): number => Number((c * 1.8 + 32).toFixed(1))
export const toCelsius = (f: number): number => Number(((f - 32) / 1.8).toFixed(1))

/** A length in the chosen units. */
export function length(mm: number, units: Units): string {
  return units === 'metric' ? `${Number(mm.toFixed(2))} mm` : `${inches(mm)} in`
}

/** A temperature in the chosen units. */
export function temperature(c: number, units: Units): string {
  return units === 'metric' ? `${Number(c.toFixed(1))} °C` : `${Math.round(toFahrenheit(c))} °F`
}

function inches(mm: number): string {
  const value = mm / MM_PER_INCH
  return String(Number(value >= 10 ? value.toFixed(0) : value.toFixed(2)))
}

/** A sentence with its millimetres, centimetres and degrees told in the chosen units. */
export function inUnits(text: string, units: Units): string {
  if (units === 'metric') return text
  return text.replace(FIGURE, (_, a: string, link1: string | undefined, b: string | undefined, link2: string | undefined, c: string | undefined, unit: string) => {
    const told = (n: string): string => (unit === '°C' ? String(Math.round(toFahrenheit(Number(n)))) : inches(Number(n) * (LENGTHS_MM[unit] ?? 1)))
    const parts = [told(a), link1 && b ? `${link1}${told(b)}` : '', link2 && c ? `${link2}${told(c)}` : '']
    return `${parts.join('')} ${unit === '°C' ? '°F' : 'in'}`
  })
}
