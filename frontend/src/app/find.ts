import type { RouteLocationRaw } from 'vue-router'
import { answer, api } from '@/api/client'
import { day } from '@/shared/lib/format'
import type { KitItem } from '@/api/client'
import { itemWords } from '@/shared/lib/kit'

export interface Found {
  words: string
  more: string
  to: RouteLocationRaw
}
export interface FoundGroup {
  title: string
  items: Found[]
}
const FEW = 5
const PAGES: Found[] = (
  [
    ['Bench', 'bench'],
    ['Cameras', 'bodies'],
    ['Pictures', 'pictures'],
    ['Jobs', 'jobs'],
    ['Calendar', 'calendar'],
    ['Kit', 'kit'],
    ['Costs', 'costs'],
    ['Practice', 'practice'],
    ['Settings', 'schools'],
    ['Light page', 'light'],
    ['What each step removes', 'odds'],
    ['Phones and tablets', 'share'],
  ] as const
).map(([words, name]) => ({ words, more: '', to: { name } }))

const holds = (text: string, words: string): boolean => text.toLowerCase().includes(words.toLowerCase())

/** All that has these words in its name, a few of each sort; empty groups are left out. */
export async function found(wanted: string): Promise<FoundGroup[]> {
  const words = wanted.trim()
  if (!words) return []
  const query = { first: 0, count: FEW, words }
  const [bodies, frames, ready, kit] = await Promise.all([
    answer(api.GET('/api/bodies', { params: { query } })),
    answer(api.GET('/api/frames', { params: { query } })),
    answer(api.GET('/api/readiness')),
    answer(api.GET('/api/kit')),
  ])
  const groups: FoundGroup[] = [
    {
      title: 'Cameras',
      items: bodies.bodies.map((b) => ({
        words: b.body.name,
        more: b.body.serial ?? '',
        to: { name: 'body', params: { id: b.id } },
      })),
    },
    {
      title: 'Frames',
      items: frames.frames.map((f) => ({
        words: f.name,
        more: day(f.taken_at),
        to: { name: 'frame', params: { id: f.id } },
      })),
    },
    {
      title: 'Jobs',
      items: ready.jobs
        .filter((j) => holds(j.job.name, words))
        .slice(0, FEW)
        .map((j) => ({ words: j.job.name, more: day(j.job.starts_on), to: { name: 'jobs' } })),
    },
    {
      title: 'Kit',
      items: kit
        .map((k) => itemWords(k.owned.item as KitItem, (mm) => `${mm} mm`))
        .filter((name) => holds(name, words))
        .slice(0, FEW)
        .map((name) => ({ words: name, more: '', to: { name: 'kit', query: { find: name } } })),
    },
    { title: 'Pages', items: PAGES.filter((p) => holds(p.words, words)) },
  ]
  return groups.filter((g) => g.items.length)
}
