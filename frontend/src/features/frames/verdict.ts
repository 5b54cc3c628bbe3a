import type { SpotMap } from '@/api/client'
import { count } from '@/shared/lib/format'

/** What a frame says before any figure: whether it can tell at all, and what shows. */
export interface Verdict {
  tone: 'stop' | 'shows' | 'clear' | 'unknown'
  headline: string
  rest: string
}

const lower = (text: string): string =>
  /^[A-Z][a-z]/.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text

/** The verdict on a frame for who works at an aperture: nothing shows only where the frame could tell. */
export function verdictOf(map: SpotMap, worksAt: number): Verdict {
  const bad = map.checks.find((c) => c.level === 'retake')
  const found = map.summary.count
  if (bad)
    return {
      tone: 'stop',
      headline: `Not fit: ${lower(bad.message).replace(/\.$/, '')}`,
      rest: `${bad.remedy}${found ? ` ${count(found, 'spot')} found; more may be hidden.` : ' Nothing can be told from this frame.'}`,
    }
  const shows = map.summary.relevant
  if (shows === null)
    return {
      tone: 'unknown',
      headline: `${count(found, 'spot')} found; what shows is not known`,
      rest: 'The file has no aperture recorded. Enter the one it was taken at.',
    }
  if (shows > 0)
    return {
      tone: 'shows',
      headline: `${shows === 1 ? '1 spot shows' : `${shows} spots show`} at f/${worksAt}`,
      rest: found > shows ? `${found - shows} fainter ones were found, too.` : '',
    }
  if (!map.fit)
    return { tone: 'stop', headline: 'Nothing can be told from this frame', rest: 'Shoot it again.' }
  return {
    tone: 'clear',
    headline: `Nothing shows at f/${worksAt}`,
    rest: found
      ? `${found === 1 ? '1 faint spot was' : `${found} faint spots were`} found.`
      : 'No spot was found.',
  }
}
