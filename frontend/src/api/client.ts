import createClient from 'openapi-fetch'
import { ROOT } from './root'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Archive = Schemas['Archive']
export type FrameListing = Schemas['FrameListing']
export type FrameDetail = Schemas['FrameDetail']
export type SpotMap = Schemas['SpotMap']
export type Spot = Schemas['Spot']
export type Check = Schemas['Check']
export type Kind = Spot['kind']
export type Job = Schemas['Job']
export type Prediction = Schemas['Prediction']
export type Accepted = Schemas['Accepted']
export type Body = Schemas['Body']
export type BodyView = Schemas['BodyView']
export type BodyDetail = Schemas['BodyDetail']
export type Visit = Schemas['VisitView']
export type TrailItem = Schemas['TrailItem']
export type FrameOnTrail = Schemas['FrameOnTrail']
export type Conditions = Schemas['VisitConditions']
export type Schools = Schemas['Schools']
export type StepUse = Schemas['StepUse']
export type Step = Schemas['StepOnTrail']['step']
export type Advice = Schemas['Advice']
export type Decision = Advice['decision']
export type MountView = Schemas['MountView']
export type Pose = MountView['pose']
export type GuideLength = Schemas['Guide']['length']
export type HandPlan = Schemas['HandPlan']
export type ShootPlan = Schemas['ShootPlan']
export type DryPlan = Schemas['DryPlan']
export type Guide = Schemas['Guide']
export type Comparison = Schemas['Comparison']
export type StepOnTrail = Schemas['StepOnTrail']
export type FrameComparison = Schemas['FrameComparison']
export type Closed = Schemas['Closed']
export type KitRow = Schemas['KitRow']
export type KitItem = Schemas['KitItem']
export type KitEntry = Schemas['KitEntry']
export type StockMove = Schemas['StockMove']
export type Prices = Schemas['Prices']
export type Costs = Schemas['Costs']
export type Readiness = Schemas['Readiness']
export type JobReady = Schemas['JobReady']
export type ToBuy = Schemas['ToBuy']
export type BookedJob = Schemas['BookedJob']
export type PowerPlan = Schemas['PowerPlan']
export type Settings = Required<Schemas['Settings']>
export type Look = Schemas['Look']
export type OpenVisit = Schemas['OpenVisit']
export type Problem = Schemas['Problem']

export const api = createClient<paths>({ baseUrl: ROOT, fetch: (request) => globalThis.fetch(request) })

/** Who reads: the server makes its sentences in these units. */
export const reader: { units: 'metric' | 'inch' } = { units: 'metric' }
api.use({
  onRequest: ({ request }) => {
    request.headers.set('Neat-Units', reader.units)
  },
})

export const OFFLINE = 'The Neat Patch server does not answer. Start it again; what was saved is kept.'

/** The sentence to show for a failed call. */
export function reasonOf(error: unknown): string {
  if (typeof error === 'object' && error !== null && 'detail' in error) {
    return String(error.detail)
  }
  return OFFLINE
}

/** A refusal; `kind` tells questions from plain errors. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly kind: string,
  ) {
    super(message)
  }
}

/** Headers naming the version a form was opened with: the server refuses to overwrite a newer one. */
export function seen(version: number | string): { 'if-match': string } {
  return { 'if-match': String(version) }
}

/** A key for one request of the user's: sent again under it, it is not done again. */
export function freshKey(): string {
  return crypto.randomUUID()
}

/** As `answer`, with the version that came beside it. */
export async function answerTagged<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<{ value: T; version: string }> {
  let version = ''
  const value = await answer(
    call.then((result) => {
      version = (result.response.headers.get('etag') ?? '').replaceAll('"', '')
      return result
    }),
  )
  return { value, version }
}

export const CHANGED = 'neatpatch:changed'
export const SHORT_STOCK = 'neatpatch:short-stock'

function kindOf(error: unknown): string {
  return typeof error === 'object' && error !== null && 'type' in error ? String(error.type) : 'about:blank'
}

/** Unwrap a call's answer, or throw an Error whose message can be shown; `empty`: it has no body. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown }>, empty = false): Promise<T> {
  let result: { data?: T; error?: unknown }
  try {
    result = await call
  } catch {
    throw new Error(OFFLINE)
  }
  if (empty && result.error === undefined) return undefined as T
  if (result.data === undefined) throw new Refusal(reasonOf(result.error), kindOf(result.error))
  return result.data
}
