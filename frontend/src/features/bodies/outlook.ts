/** How dust comes to a camera, in words. */
import type { Schemas } from '@/api/client'
import { count, day } from '@/shared/lib/format'

type Rate = Schemas['Rate']
const WEEK = 7

function figure(value: number): string {
  return value >= 10 ? value.toFixed(0) : value >= 1 ? value.toFixed(1) : value.toFixed(2)
}

/** As 1.1 visible spots a week (0.8 to 1.3). */
export function rateWords(arrivals: Schemas['ArrivalRates']): string {
  const by = (rate: Rate, times: number): string =>
    `${figure(rate.mean * times)} (${figure(rate.low * times)} to ${figure(rate.high * times)})`
  const week = `${by(arrivals.a_day, WEEK)} visible spots come a week`
  return arrivals.a_change ? `${week}, and ${by(arrivals.a_change, 1)} with each lens change.` : `${week}.`
}

/** What a dusty day is worth, by its place. */
export function placeWords(p: Schemas['PlaceDust']): string {
  const where = p.place ? `A day at ${p.place}` : 'A dusty day without a place'
  return `${where} counts as ${figure(p.worth.mean)} ordinary days (${figure(p.worth.low)} to ${figure(p.worth.high)}), by ${count(p.days, 'such day')} on all cameras.`
}

/** When the owner's limit is passed, and the next look; `today` as 2026-11-27. */
export function chanceWords(forecast: Schemas['Forecast'], today: string): string {
  const limit = count(forecast.limit, 'visible spot')
  if (forecast.over) return `It shows more than ${limit} already: look at it now.`
  if (!forecast.look_on) return `More than ${limit} within two years is unlikely.`
  if (forecast.look_on <= today)
    return `More than ${limit} ${forecast.middle && forecast.middle <= today ? 'are likely' : 'are possible'} by now: look at it. It was due on ${day(forecast.look_on)}.`
  const range =
    forecast.early && forecast.late ? ` (between ${day(forecast.early)} and ${day(forecast.late)})` : ''
  const passes = forecast.middle ? `More than ${limit} by about ${day(forecast.middle)}${range}. ` : ''
  return `${passes}Look at it by ${day(forecast.look_on)}.`
}

export function exposureWords(e: Schemas['LoggedExposure']): string {
  const what = e.kind === 'lens_change' ? 'Lens changed' : 'Dusty day'
  return `${what}, ${day(e.on_day)}${e.place ? `, ${e.place}` : ''}`
}
