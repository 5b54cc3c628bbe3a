/** Everything the page asks the server for, each under the key it is cached by. */
import type { QueryKey } from '@tanstack/vue-query'
import {
  answer,
  answerTagged,
  api,
  type Archive,
  type BodyDetail,
  type BodyView,
  type Costs,
  type Decision,
  type DryPlan,
  type FrameDetail,
  type Guide,
  type KitRow,
  type FrameComparison,
  type MountView,
  type Look,
  type OpenVisit,
  type Pose,
  type Prediction,
  type Prices,
  type Readiness,
  type Schemas,
  type Schools,
  type Settings,
  type Step,
  type ShootPlan,
  type StockMove,
  type Visit,
} from './client'

export interface Query<T> {
  queryKey: QueryKey
  queryFn: (context: { signal: AbortSignal }) => Promise<T>
}
type Call = (signal: AbortSignal) => Promise<{ data?: unknown; error?: unknown }>

function query<T>(queryKey: QueryKey, call: Call): Query<T> {
  return { queryKey, queryFn: ({ signal }) => answer(call(signal)) as Promise<T> }
}

/** As `query`, with the version that a change must name. */
type TaggedCall = (signal: AbortSignal) => Promise<{ data?: unknown; error?: unknown; response: Response }>
export interface Tagged<T> {
  value: T
  version: string
}
function tagged<T>(queryKey: QueryKey, call: TaggedCall): Query<Tagged<T>> {
  return { queryKey, queryFn: ({ signal }) => answerTagged(call(signal)) as Promise<Tagged<T>> }
}

export const FRAMES_A_PAGE = 60
export const BODIES_A_PAGE = 25
export const PICTURES_A_PAGE = 60
export type OnlyPictures = 'all' | 'ready' | 'refused' | 'left'

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
    query<Schemas['History']>(['bodies', body_id, 'history'], (signal) =>
      api.GET('/api/bodies/{body_id}/history', { signal, params: { path: { body_id } } }),
    ),
  me: () => query<Schemas['Me']>(['me'], (signal) => api.GET('/api/me', { signal })),
  sharing: () => query<Schemas['SharingState']>(['sharing'], (signal) => api.GET('/api/sharing', { signal })),
  chore: () =>
    query<Schemas['LastChore']>(['backup', 'chore'], (signal) => api.GET('/api/backup/chore', { signal })),
  practice: (exercise: Schemas['Progress']['exercise']) =>
    query<Schemas['Progress']>(['practice', exercise], (signal) =>
      api.GET('/api/practice/progress/{exercise}', { signal, params: { path: { exercise } } }),
    ),
  tray: (visit_id: number) =>
    query<Schemas['TrayView']>(['tray', visit_id], (signal) =>
      api.GET('/api/visits/{visit_id}/tray', { signal, params: { path: { visit_id } } }),
    ),
  trayPlans: () =>
    query<Schemas['TrayPlan'][]>(['tray', 'plans'], (signal) => api.GET('/api/tray-plans', { signal })),
  cleanNow: () =>
    query<Schemas['CleanNow']>(['practice', 'clean', 'now'], (signal) =>
      api.GET('/api/practice/cleans', { signal }),
    ),
  bodyLives: (body_id: number) =>
    query<Schemas['SpotHistory'][]>(['bodies', body_id, 'lives'], (signal) =>
      api.GET('/api/bodies/{body_id}/lives', { signal, params: { path: { body_id } } }),
    ),
  outlook: (body_id: number) =>
    query<Schemas['Outlook']>(['bodies', body_id, 'outlook'], (signal) =>
      api.GET('/api/bodies/{body_id}/outlook', { signal, params: { path: { body_id } } }),
    ),
  odds: (body_id: number | null, step?: Step) =>
    query<Schemas['Odds']>(['odds', body_id, step], (signal) =>
      api.GET('/api/odds', { signal, params: { query: { body_id: body_id ?? undefined, step } } }),
    ),
  calendar: (days: Days) =>
    query<Schemas['CalendarEntry'][]>(['calendar', days], (signal) =>
      api.GET('/api/calendar', { signal, params: { query: days } }),
    ),
  letterhead: () =>
    query<Schemas['LetterheadKept']>(['letterhead'], (signal) => api.GET('/api/letterhead', { signal })),
  archive: (first = 0, wanted: FramesWanted = ALL_FRAMES) =>
    query<Archive>(['frames', 'page', first, wanted], (signal) =>
      api.GET('/api/frames', { signal, params: { query: { first, count: FRAMES_A_PAGE, ...wanted } } }),
    ),
  frame: (frame_id: number) =>
    query<FrameDetail>(['frames', frame_id], (signal) =>
      api.GET('/api/frames/{frame_id}', { signal, params: { path: { frame_id } } }),
    ),
  prediction: (frame_id: number, f: number) =>
    query<Prediction>(['frames', frame_id, 'prediction', f], (signal) =>
      api.GET('/api/frames/{frame_id}/prediction', {
        signal,
        params: { path: { frame_id }, query: { f } },
      }),
    ),
  mount: (frame_id: number, facing: Facing) =>
    query<MountView>(['frames', frame_id, 'mount', facing], (signal) =>
      api.GET('/api/frames/{frame_id}/mount', { signal, params: { path: { frame_id }, query: facing } }),
    ),
  laid: (before_id: number, after_id: number, works_at: number) =>
    query<FrameComparison>(['frames', before_id, 'against', after_id, works_at], (signal) =>
      api.GET('/api/frames/{before_id}/against/{after_id}', {
        signal,
        params: { path: { before_id, after_id }, query: { works_at } },
      }),
    ),
  looks: () => query<Look[]>(['visits', 'looks'], (signal) => api.GET('/api/looks', { signal })),
  openVisits: () => query<OpenVisit[]>(['visits'], (signal) => api.GET('/api/visits', { signal })),
  visit: (visit_id: number) =>
    query<Visit>(['visits', visit_id], (signal) =>
      api.GET('/api/visits/{visit_id}', { signal, params: { path: { visit_id } } }),
    ),
  /** What became of each spot of a frame along the trail of a visit, which is at this version. */
  lives: (visit_id: number, entry_id: number, version: number) =>
    query<Record<string, Schemas['SpotTrail']>>(['visits', visit_id, 'lives', entry_id, version], (signal) =>
      api.GET('/api/visits/{visit_id}/trail/{entry_id}/lives', {
        signal,
        params: { path: { visit_id, entry_id } },
      }),
    ),
  pictureSets: () =>
    query<Schemas['SetView'][]>(['picture-sets'], (signal) => api.GET('/api/picture-sets', { signal })),
  pictureMaps: (body_id: number) =>
    query<Schemas['MapChoice'][]>(['picture-sets', 'maps', body_id], (signal) =>
      api.GET('/api/picture-sets/maps', { signal, params: { query: { body_id } } }),
    ),
  demoPictures: () =>
    query<Schemas['DemoPictures'] | null>(['picture-sets', 'demo'], (signal) =>
      api.GET('/api/picture-sets/demo', { signal }),
    ),
  pictureSet: (set_id: number) =>
    query<Schemas['SetView']>(['picture-sets', set_id], (signal) =>
      api.GET('/api/picture-sets/{set_id}', { signal, params: { path: { set_id } } }),
    ),
  pictures: (set_id: number, only: OnlyPictures, first: number) =>
    query<Schemas['PicturePage']>(['picture-sets', set_id, only, first], (signal) =>
      api.GET('/api/picture-sets/{set_id}/pictures', {
        signal,
        params: { path: { set_id }, query: { only, first, count: PICTURES_A_PAGE } },
      }),
    ),
  arrivals: (set_id: number) =>
    query<Schemas['Arrivals']>(['picture-sets', set_id, 'arrivals'], (signal) =>
      api.GET('/api/picture-sets/{set_id}/arrivals', { signal, params: { path: { set_id } } }),
    ),
  backup: () => query<Schemas['BackupState']>(['backup'], (signal) => api.GET('/api/backup', { signal })),
  watched: () => query<Schemas['Watched'][]>(['watched'], (signal) => api.GET('/api/watched', { signal })),
  hands: (visit_id: number) =>
    query<Schemas['InHand']>(['visits', visit_id, 'hands'], (signal) =>
      api.GET('/api/visits/{visit_id}/hands', { signal, params: { path: { visit_id } } }),
    ),
  /** `version`: of the visit, on which the guide depends. */
  guide: (visit_id: number, step: Decision, pose: Pose, version: number) =>
    query<Guide>(['visits', visit_id, 'guide', step, pose, version], (signal) =>
      api.GET('/api/visits/{visit_id}/guidance', {
        signal,
        params: { path: { visit_id }, query: { step, pose } },
      }),
    ),
  bodies: (
    first: number,
    words: string,
    count = BODIES_A_PAGE,
    order: BodyOrder = 'name',
    only: OnlyBodies = 'all',
  ) =>
    query<{ bodies: BodyView[]; total: number }>(
      ['bodies', 'page', first, words, count, order, only],
      (signal) => api.GET('/api/bodies', { signal, params: { query: { first, count, words, order, only } } }),
    ),
  body: (body_id: number) =>
    query<BodyDetail>(['bodies', body_id], (signal) =>
      api.GET('/api/bodies/{body_id}', { signal, params: { path: { body_id } } }),
    ),
  kit: () => query<KitRow[]>(['kit'], (signal) => api.GET('/api/kit', { signal })),
  moves: (item_id: number) =>
    query<StockMove[]>(['kit', item_id, 'moves'], (signal) =>
      api.GET('/api/kit/{item_id}/moves', { signal, params: { path: { item_id } } }),
    ),
  prices: () => query<Prices>(['prices'], (signal) => api.GET('/api/prices', { signal })),
  costs: (wanted: CostsQuery) =>
    query<Costs>(['costs', wanted], (signal) => api.GET('/api/costs', { signal, params: { query: wanted } })),
  readiness: () => query<Readiness>(['readiness'], (signal) => api.GET('/api/readiness', { signal })),
  settings: () => query<Settings>(['settings'], (signal) => api.GET('/api/settings', { signal })),
  schools: () => tagged<Schools>(['schools'], (signal) => api.GET('/api/schools', { signal })),
  service: () =>
    tagged<Schemas['ServiceFacts']>(['service'], (signal) => api.GET('/api/service', { signal })),
  shootPlan: (wanted: ShootQuery) =>
    query<ShootPlan>(['plans', 'shoot', wanted], (signal) =>
      api.GET('/api/plans/shoot', { signal, params: { query: wanted } }),
    ),
  dryPlan: (wanted: DryQuery) =>
    query<DryPlan>(['plans', 'drying', wanted], (signal) =>
      api.GET('/api/plans/drying', { signal, params: { query: wanted } }),
    ),
}
