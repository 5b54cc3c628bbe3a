/** Everything the page asks the server for, each under the key it is cached by. */
import type { QueryKey } from '@tanstack/vue-query'
import {
  answer,
  answerTagged,
  api,
  type Costs,
  type Decision,
  type GuideLength,
  type Pose,
  type Schemas,
  type Step,
} from './client'
import type { paths } from './schema'

export interface Query<T> {
  queryKey: QueryKey
  queryFn: (context: { signal: AbortSignal }) => Promise<T>
}
type Path = { [P in keyof paths]: paths[P]['get'] extends { responses: object } ? P : never }[keyof paths]
type Answer<P extends Path> = paths[P]['get'] extends {
  responses: { 200: { content: { 'application/json': infer T } } }
}
  ? T
  : never
type Parameters<P extends Path> = paths[P]['get'] extends { parameters: infer G }
  ? Omit<G, 'header' | 'cookie'>
  : never
type Call<T> = Promise<{ data?: T; error?: unknown; response: Response }>

/** The client's own answer types lose the lengths of tuples; those of the description are kept here. */
function get<P extends Path>(path: P, params: Partial<Parameters<P>>, signal: AbortSignal): Call<Answer<P>> {
  const ask = api.GET as (path: P, init: object) => Call<Answer<P>>
  return ask(path, { params, signal })
}

function query<P extends Path>(
  queryKey: QueryKey,
  path: P,
  params: Partial<Parameters<P>> = {},
): Query<Answer<P>> {
  return { queryKey, queryFn: ({ signal }) => answer(get(path, params, signal)) }
}

/** As `query`, with the version that a change must name. */
export interface Tagged<T> {
  value: T
  version: string
}
function tagged<P extends Path>(
  queryKey: QueryKey,
  path: P,
  params: Partial<Parameters<P>> = {},
): Query<Tagged<Answer<P>>> {
  return { queryKey, queryFn: ({ signal }) => answerTagged(get(path, params, signal)) }
}

export const FRAMES_A_PAGE = 60
export const BODIES_A_PAGE = 25
export const PICTURES_A_PAGE = 60
export type OnlyPictures = 'all' | 'ready' | 'refused' | 'left' | 'written'

export type BodyOrder = 'name' | 'next_look' | 'last_look' | 'visible' | 'serial'
export type OnlyBodies = 'all' | 'work' | 'open' | 'away'

/** Which frames a list shows, and in what order; `loose`: those on no visit. */
export interface FramesWanted {
  words: string
  only: 'all' | 'unfit' | 'loose'
  order: 'newest' | 'oldest' | 'taken' | 'spots' | 'name'
}
export const ALL_FRAMES: FramesWanted = { words: '', only: 'all', order: 'newest' }

export interface ShootQuery {
  focal_mm: number
  smallest_f: number
  ev100?: number
  trial_frame_id?: number
}
export interface DryQuery {
  temperature: number
  humidity: number
  camera_c?: number
  thin_um: number
  thick_um: number
  still_m_s: number
  moving_m_s: number
}
export interface CostsQuery {
  body_id?: number
  school?: Costs['school']
  earlier: boolean
}
export interface Facing {
  pose: Pose
  works_at: number
  grip: boolean
}

export interface Days {
  since: string
  until?: string
}

export const queries = {
  history: (body_id: number) =>
    query(['bodies', body_id, 'history'], '/api/bodies/{body_id}/history', { path: { body_id } }),
  me: () => query(['me'], '/api/me'),
  sharing: () => query(['sharing'], '/api/sharing'),
  chore: () => query(['backup', 'chore'], '/api/backup/chore'),
  practice: (exercise: Schemas['Progress']['exercise']) =>
    query(['practice', exercise], '/api/practice/progress/{exercise}', { path: { exercise } }),
  tray: (visit_id: number) =>
    query(['tray', visit_id], '/api/visits/{visit_id}/tray', { path: { visit_id } }),
  trayPlans: () => query(['tray', 'plans'], '/api/tray-plans'),
  cleanNow: () => query(['practice', 'clean', 'now'], '/api/practice/cleans'),
  bodyLives: (body_id: number) =>
    query(['bodies', body_id, 'lives'], '/api/bodies/{body_id}/lives', { path: { body_id } }),
  outlook: (body_id: number) =>
    query(['bodies', body_id, 'outlook'], '/api/bodies/{body_id}/outlook', { path: { body_id } }),
  odds: (body_id: number | null, step?: Step) =>
    query(['odds', body_id, step], '/api/odds', { query: { body_id: body_id ?? undefined, step } }),
  calendar: (days: Days) => query(['calendar', days], '/api/calendar', { query: days }),
  letterhead: () => query(['letterhead'], '/api/letterhead'),
  archive: (first = 0, wanted: FramesWanted = ALL_FRAMES) =>
    query(['frames', 'page', first, wanted], '/api/frames', {
      query: { first, count: FRAMES_A_PAGE, ...wanted },
    }),
  frame: (frame_id: number) => query(['frames', frame_id], '/api/frames/{frame_id}', { path: { frame_id } }),
  prediction: (frame_id: number, f: number) =>
    query(['frames', frame_id, 'prediction', f], '/api/frames/{frame_id}/prediction', {
      path: { frame_id },
      query: { f },
    }),
  mount: (frame_id: number, facing: Facing) =>
    query(['frames', frame_id, 'mount', facing], '/api/frames/{frame_id}/mount', {
      path: { frame_id },
      query: facing,
    }),
  laid: (before_id: number, after_id: number, works_at: number) =>
    query(
      ['frames', before_id, 'against', after_id, works_at],
      '/api/frames/{before_id}/against/{after_id}',
      { path: { before_id, after_id }, query: { works_at } },
    ),
  looks: () => query(['visits', 'looks'], '/api/looks'),
  openVisits: () => query(['visits'], '/api/visits'),
  visit: (visit_id: number) => query(['visits', visit_id], '/api/visits/{visit_id}', { path: { visit_id } }),
  /** What became of each spot of a frame along the trail of a visit, which is at this version. */
  lives: (visit_id: number, entry_id: number, version: number) =>
    query(['visits', visit_id, 'lives', entry_id, version], '/api/visits/{visit_id}/trail/{entry_id}/lives', {
      path: { visit_id, entry_id },
    }),
  pictureSets: () => query(['picture-sets'], '/api/picture-sets'),
  pictureMaps: (body_id: number) =>
    query(['picture-sets', 'maps', body_id], '/api/picture-sets/maps', { query: { body_id } }),
  pictureFolder: (folder: string) =>
    query(['picture-sets', 'folder', folder], '/api/picture-sets/folder', { query: { folder } }),
  pictureHabits: (folder: string) =>
    query(['picture-sets', 'habits', folder], '/api/picture-sets/habits', { query: { folder } }),
  demoPictures: () => query(['picture-sets', 'demo'], '/api/picture-sets/demo'),
  pictureSet: (set_id: number) =>
    query(['picture-sets', set_id], '/api/picture-sets/{set_id}', { path: { set_id } }),
  pictures: (set_id: number, only: OnlyPictures, first: number, count = PICTURES_A_PAGE) =>
    query(['picture-sets', set_id, only, first, count], '/api/picture-sets/{set_id}/pictures', {
      path: { set_id },
      query: { only, first, count },
    }),
  arrivals: (set_id: number) =>
    query(['picture-sets', set_id, 'arrivals'], '/api/picture-sets/{set_id}/arrivals', { path: { set_id } }),
  backup: () => query(['backup'], '/api/backup'),
  watched: () => query(['watched'], '/api/watched'),
  hands: (visit_id: number) =>
    query(['visits', visit_id, 'hands'], '/api/visits/{visit_id}/hands', { path: { visit_id } }),
  /** `version`: of the visit, on which the guide depends. */
  guide: (visit_id: number, step: Decision, pose: Pose, version: number, length?: GuideLength) =>
    query(['visits', visit_id, 'guide', step, pose, version, length], '/api/visits/{visit_id}/guidance', {
      path: { visit_id },
      query: { step, pose, length },
    }),
  bodies: (
    first: number,
    words: string,
    count = BODIES_A_PAGE,
    order: BodyOrder = 'name',
    only: OnlyBodies = 'all',
  ) =>
    query(['bodies', 'page', first, words, count, order, only], '/api/bodies', {
      query: { first, count, words, order, only },
    }),
  body: (body_id: number) => query(['bodies', body_id], '/api/bodies/{body_id}', { path: { body_id } }),
  kit: () => query(['kit'], '/api/kit'),
  moves: (item_id: number) =>
    query(['kit', item_id, 'moves'], '/api/kit/{item_id}/moves', { path: { item_id } }),
  prices: () => query(['prices'], '/api/prices'),
  costs: (wanted: CostsQuery) => query(['costs', wanted], '/api/costs', { query: wanted }),
  readiness: () => query(['readiness'], '/api/readiness'),
  settings: () => query(['settings'], '/api/settings'),
  schools: () => tagged(['schools'], '/api/schools'),
  service: () => tagged(['service'], '/api/service'),
  shootPlan: (wanted: ShootQuery) => query(['plans', 'shoot', wanted], '/api/plans/shoot', { query: wanted }),
  dryPlan: (wanted: DryQuery) => query(['plans', 'drying', wanted], '/api/plans/drying', { query: wanted }),
}
