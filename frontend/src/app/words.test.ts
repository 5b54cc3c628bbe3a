import { describe, expect, it } from 'vitest'

const sources = import.meta.glob<string>(['../**/*.vue', '../shared/lib/*.ts', '!../**/*.test.ts'], {
  query: '?raw',
  import: 'default',
  eager: true,
})
/** What the page once said, and says in plain words now. */
const OLD =
  /\b(Heed|Put right first|Not now|Other ways|Guide my hands|Done already|would be noticed|Looks at|Seen from|Blocks as|As shot|Prove the place|Around this visit|hands not told|Say what has changed|Given up|Put off|Keep as it was|Go on|Take it out|Single use and refills|Pack arrived|counted anew|Where it went|full climb|Post both ways|reckoned?|says the handbook|Guarantee|On the mains|Its own temperature|Chamber, across|Named in files|to see to|Dust height|mattered)\b/
/** What people read: the template without its expressions, and texts in quotes. */
const read = (source: string): string =>
  source
    .replace(/<style[\s\S]*<\/style>/g, '')
    .replace(/\/\*[\s\S]*?\*\//g, '')
    .replace(/^\s*\/\/.*$/gm, '')

describe('words on screen', () => {
  it('are the plain ones', () => {
    expect(Object.keys(sources).length).toBeGreaterThan(40)
    const found = Object.entries(sources).flatMap(([path, source]) => {
      const old = OLD.exec(read(source))
      return old ? [`${path}: ${old[0]}`] : []
    })
    expect(found).toEqual([])
  })
  it('would be noticed, were they there', () => {
    expect(OLD.test(read('<h2>Not now</h2>'))).toBe(true)
    expect(OLD.test(read('/** Not now */'))).toBe(false)
  })
})
