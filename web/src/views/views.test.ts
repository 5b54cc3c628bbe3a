import { flushPromises, mount, RouterLinkStub, type VueWrapper } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import { freshBody } from '../lib/bodies'
import FrameArrival from '../components/FrameArrival.vue'
import MoreFrames from '../components/MoreFrames.vue'
import ShootRecipe from '../components/ShootRecipe.vue'
import BodiesView from './BodiesView.vue'
import BodyPage from './BodyPage.vue'
import HandsView from './HandsView.vue'
import CostsView from './CostsView.vue'
import JobsView from './JobsView.vue'
import KitView from './KitView.vue'
import LightView from './LightView.vue'
import SchoolsView from './SchoolsView.vue'
import VisitView from './VisitView.vue'

const push = vi.fn()
vi.mock('vue-router', async (original) => ({
  ...(await original<typeof import('vue-router')>()),
  useRouter: () => ({ push, back: vi.fn() }),
  RouterLink: RouterLinkStub,
}))

type Answer = [number, unknown]
interface Call { method: string; path: string; body: unknown }
let calls: Call[] = []

/** A server that answers by method and path; what is not listed is not there. */
function serving(routes: Record<string, Answer>): void {
  calls = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const path = new URL(request.url, 'http://localhost').pathname
    const text = await request.text()
    calls.push({ method: request.method, path, body: text ? JSON.parse(text) : null })
    const [status, body] = routes[`${request.method} ${path}`] ?? [404, { detail: `nothing at ${path}` }]
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
  })
}

class Silent {
  addEventListener(): void { /* nothing is ever said */ }
  close(): void { /* nothing to close */ }
}

const global = {
  plugins: [PrimeVue], directives: { tooltip: () => undefined },
  stubs: { RouterLink: RouterLinkStub, teleport: true, transition: false, VisitMap: true, SensorMap: true },
}

async function shown(view: Component, props: Record<string, unknown> = {}): Promise<VueWrapper> {
  const wrapper = mount(view, { props, global, attachTo: document.body })
  await flushPromises()
  return wrapper
}

function button(wrapper: VueWrapper, label: string) {
  const found = wrapper.findAll('button').find((b) => b.text().includes(label) || b.attributes('aria-label') === label)
  if (!found) throw new Error(`no button ${label}`)
  return found
}

const listed = (values: Record<string, unknown> = {}) => ({
  id: 4, body: { ...freshBody(), name: 'Study' }, demo: false, virtual: false, open_visit_id: null, visits: 2,
  last_closed_at: '2026-06-08T10:00:00', last_verdict: 'given_up', last_relevant: 3, ...values,
})

beforeEach(() => {
  vi.stubGlobal('EventSource', Silent)
  push.mockReset()
  sessionStorage.clear()
})
afterEach(() => {
  vi.unstubAllGlobals()
  document.body.innerHTML = ''
})

describe('BodiesView', () => {
  it('lists bodies with how the last visit ended, and begins one', async () => {
    serving({ 'GET /api/bodies': [200, { bodies: [listed()], total: 1 }], 'POST /api/visits': [201, { id: 9 }] })
    const view = await shown(BodiesView, { frame: null })
    expect(view.text()).toContain('2 visits, last 8 Jun 2026: given up, 3 left')
    await button(view, 'Begin a visit').trigger('click')
    await flushPromises()
    expect(calls.at(-1)?.body).toEqual({ body_id: 4, frame_id: null })
    expect(push).toHaveBeenCalledWith({ name: 'visit', params: { id: 9 } })
    view.unmount()
  })
  it('brings a frame along to a visit that is open already', async () => {
    serving({ 'GET /api/bodies': [200, { bodies: [listed({ open_visit_id: 3 })], total: 1 }], 'POST /api/visits/3/frames': [200, {}] })
    const view = await shown(BodiesView, { frame: 12 })
    expect(view.text()).toContain('Whose frame is it?')
    await button(view, 'Go on with the visit').trigger('click')
    await flushPromises()
    expect(calls.at(-1)?.body).toEqual({ frame_id: 12 })
    view.unmount()
  })
  it('has words for none, for a refusal and for a server that is away', async () => {
    serving({ 'GET /api/bodies': [200, { bodies: [], total: 0 }] })
    const none = await shown(BodiesView, { frame: null })
    expect(none.text()).toContain('No body yet')
    none.unmount()
    serving({ 'GET /api/bodies': [200, { bodies: [listed()], total: 1 }], 'POST /api/visits': [409, { detail: 'Study has an open visit.' }] })
    const refused = await shown(BodiesView, { frame: null })
    await button(refused, 'Begin a visit').trigger('click')
    await flushPromises()
    expect(refused.text()).toContain('Study has an open visit.')
    refused.unmount()
    vi.stubGlobal('fetch', () => Promise.reject(new Error('refused')))
    const away = await shown(BodiesView, { frame: null })
    expect(away.text()).toContain('does not answer')
    away.unmount()
  })
})

describe('BodyPage', () => {
  it('tells what was learned, what holds the sensor, and each visit', async () => {
    const body = { ...freshBody(), name: 'Study', stabilised: true, hold_rule: 'off', hold_note: 'page 212', pitch_um: 5.123, stack_mm: 1.2 }
    const visits = [{ id: 7, state: 'closed', why_now: 'spots', verdict: 'finished', note: '', first_relevant: 9, last_relevant: 0, opened_at: '2026-01-12T09:00:00', closed_at: 't' }]
    serving({ 'GET /api/bodies/4': [200, { id: 4, body, virtual: false, open_visit_id: null, visits }] })
    const view = await shown(BodyPage, { id: 4 })
    for (const words of ['pixels of 5.12 µm (learned)', '1.20 mm above', 'Held by: Power off', 'page 212', '9 → 0', '12 Jan 2026']) expect(view.text()).toContain(words)
    view.unmount()
  })
  it('says that an unknown hold means no contact', async () => {
    serving({ 'GET /api/bodies/4': [200, { id: 4, body: { ...freshBody(), name: 'S' }, virtual: false, open_visit_id: 3, visits: [] }] })
    const view = await shown(BodyPage, { id: 4 })
    expect(view.text()).toContain('Not known: no contact')
    expect(view.text()).toContain('Go on with the open visit')
    expect(view.text()).toContain('No visit yet.')
    view.unmount()
  })
})

const entry = (id: number, item: Record<string, unknown>, more: Record<string, unknown> = {}, owned: Record<string, unknown> = {}) => ({
  id, left: null, unit: null, unit_price: null, expired: false, owned: { item, note: '', source: '', suits: null, ...owned }, ...more,
})

describe('KitView', () => {
  const kit = [
    entry(1, { item: 'wet_swab', width_mm: 24, quantity: 1 }, { left: 1, unit: 'piece', unit_price: 2.5 }, { note: 'drawer', pack_size: 12, best_before: '2026-11-01' }),
    entry(2, { item: 'carbon_pen' }),
    entry(3, { item: 'gel_stick', fresh_patches: 4 }, { left: 4, unit: 'patch', expired: true }, { best_before: '2026-01-01' }),
    entry(4, { item: 'fluid', kind: 'mild', quantity: 9.95 }, { left: 9.95, unit: 'ml' }, { suits: [7] }),
  ]
  const routes = {
    'GET /api/kit': [200, kit], 'GET /api/bodies': [200, { bodies: [{ id: 7, body: { name: 'Study' } }], total: 1 }],
    'GET /api/prices': [200, { currency: 'kr' }], 'PUT /api/kit/1': [200, kit], 'POST /api/kit/1/packs': [200, kit],
    'DELETE /api/kit/2': [200, [kit[0]]], 'GET /api/kit/1/moves': [200, [{ why: 'used', change: -1, at: '2026-11-20T09:00:00' }]],
  } as Record<string, Answer>
  it('counts in its own unit, warns by name, tells price, day and bodies', async () => {
    serving(routes)
    const view = await shown(KitView)
    for (const words of ['never on a sensor', 'none: coating not matched', '4 patches', '9.9 ml', 'past it', 'kr 2.50', 'Study']) expect(view.text()).toContain(words)
    await button(view, 'One less: Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'PUT', path: '/api/kit/1', body: { item: { quantity: 0 }, note: 'drawer' } })
    await button(view, 'A pack arrived: Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'POST', path: '/api/kit/1/packs' })
    view.unmount()
  })
  it('opens a thing with where its stock went, and removes another', async () => {
    serving(routes)
    const view = await shown(KitView)
    await button(view, 'Change Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('used −1')
    expect(view.text()).toContain('A pack holds')
    await button(view, 'Back').trigger('click')
    await button(view, 'Change Carbon-tip pen').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('barred by name')
    await button(view, 'Remove').trigger('click')
    expect(calls.at(-1)?.method).not.toBe('DELETE')
    await button(view, 'Remove it for good').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'DELETE', path: '/api/kit/2' })
    expect(view.findAll('table').map((t) => t.text()).join()).not.toContain('Carbon-tip pen')
    view.unmount()
  })
  it('adds what was chosen, shows a refusal in its place, and says where to begin', async () => {
    serving({ ...routes, 'GET /api/kit': [200, []], 'POST /api/kit': [422, { detail: 'lead_days: a lead time cannot lie in the past.' }] })
    const view = await shown(KitView)
    expect(view.text()).toContain('Begin with a blower')
    await button(view, 'Add a thing').trigger('click')
    await flushPromises()
    await view.find('form').trigger('submit')
    await flushPromises()
    expect(calls.at(-1)?.body).toMatchObject({ item: { item: 'dry_swab', width_mm: 24 }, suits: null })
    expect(view.find('form').text()).toContain('cannot lie in the past')
    view.unmount()
  })
})

const jobReady = (more: Record<string, unknown> = {}) => ({
  job: { id: 5, name: 'Plates', starts_on: '2026-12-01', note: '', body_ids: [4] }, days: 6, state: 'late', service: 'A service of 4 days would not be back in time.', service_fits: false,
  bodies: [{ body_id: 4, name: 'Study', state: 'look', words: 'Never looked at. Shoot a test frame now.', open_visit_id: null }],
  kit: [{ thing: 'wet swab, 24 mm', unit: 'piece', needed: 1, there: 0, enough: false }, { thing: 'rubber bulb blower', unit: 'one', needed: 1, there: null, enough: true }], ...more,
})
const toBuy = { thing: 'wet swab, 24 mm', unit: 'piece', amount: 1, pack_size: 12, pack_price: 30, packs: 1, cost: 30, order_by: '2026-11-25', late: true, lead_days: 8, lead_assumed: false, source: 'shop', job: 'Plates' }

describe('JobsView', () => {
  const routes = {
    'GET /api/readiness': [200, { jobs: [jobReady()], to_buy: [toBuy, { ...toBuy, thing: 'dry swab, 24 mm', late: false, lead_assumed: true, packs: null, cost: null, source: '' }] }],
    'GET /api/bodies': [200, { bodies: [listed()], total: 1 }], 'GET /api/prices': [200, { currency: 'kr' }],
    'POST /api/visits': [201, { id: 9 }], 'POST /api/bookings': [201, { jobs: [], to_buy: [] }], 'DELETE /api/bookings/5': [200, { jobs: [], to_buy: [] }],
  } as Record<string, Answer>
  it('tells what is not ready, what to buy by when, and begins the visit that is due', async () => {
    serving(routes)
    const view = await shown(JobsView)
    for (const words of ['in 6 days', 'Not all in time', 'Never looked at', '1 thing short: wet swab, 24 mm', 'would not be back in time', 'Too late to order', 'kr 30.00', 'Order by', 'at least 1', '1 thing without a price']) expect(view.text()).toContain(words)
    await button(view, 'Begin a visit').trigger('click')
    await flushPromises()
    expect(push).toHaveBeenCalledWith({ name: 'visit', params: { id: 9 } })
    view.unmount()
  })
  it('books, refuses a day that has passed, and takes a job out', async () => {
    serving({ ...routes, 'POST /api/bookings': [422, { detail: 'The job has passed.' }] })
    const view = await shown(JobsView)
    await button(view, 'Book a job').trigger('click')
    await flushPromises()
    await view.find('#job-form input').setValue('More plates')
    await view.find('#job-form').trigger('submit')
    await flushPromises()
    expect(calls.at(-1)?.body).toMatchObject({ name: 'More plates', body_ids: [] })
    expect(view.find('#job-form').text()).toContain('has passed')
    await button(view, 'Back').trigger('click')
    await button(view, 'Change Plates').trigger('click')
    await flushPromises()
    await button(view, 'Take it out').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('No job ahead')
    view.unmount()
  })
})

describe('CostsView', () => {
  const costs = {
    prices: { currency: 'kr', service_fee: 60 }, body: 'Study', school: 'lift', by_year: [{ body: 'Study', year: '2026', cleans: 2, cost: 9.5, unpriced: 1 }],
    schools: [{ school: 'lift', pieces: ['8 patches of gel stick'], cost: 4, missing: [] }, { school: 'wet_swab', pieces: ['1 × wet swab'], cost: null, missing: ['wet swab'] }],
    against: { lasting: 63, a_clean: 4, rows: [{ cleans: 1, own: 67, service: 60, membership: null }, { cleans: 2, own: 71, service: 120, membership: null }], beats_service_from: 2, beats_membership_from: null, words: 'Your own kit pays from 2 cleans a year against the service.' },
  }
  it('marks the cheaper way, names a missing price, and reckons anew with another school', async () => {
    serving({ 'GET /api/costs': [200, costs], 'GET /api/bodies': [200, { bodies: [listed()], total: 1 }], 'PUT /api/prices': [200, {}] })
    const view = await shown(CostsView)
    for (const words of ['pays from 2 cleans a year', 'kr 4.00', 'no price of wet swab', '+1 unpriced']) expect(view.text()).toContain(words)
    expect(view.findAll('.best').map((c) => c.text())).toEqual(['kr 60.00', 'kr 71.00'])
    await button(view, 'Earlier years, too').trigger('click')
    await flushPromises()
    expect(calls.at(-1)?.path).toBe('/api/costs')
    expect(view.text()).not.toContain('Earlier years')
    const before = calls.length
    await view.findAll('input[type=radio]')[1]?.setValue(true)
    await flushPromises()
    expect(calls.slice(before).map((c) => c.path)).toEqual(['/api/costs'])
    view.unmount()
  })
  it('says what is wrong with a price and where nothing was used yet', async () => {
    serving({ 'GET /api/costs': [200, { ...costs, by_year: [], schools: [] }], 'GET /api/bodies': [200, { bodies: [], total: 0 }], 'PUT /api/prices': [422, { detail: 'currency: too long.' }] })
    const view = await shown(CostsView)
    expect(view.text()).toContain('Nothing used yet')
    expect(view.text()).toContain('Add a body first')
    await view.find('input.short').setValue('crowns')
    await flushPromises()
    expect(view.text()).toContain('currency: too long.')
    view.unmount()
  })
})

describe('SchoolsView', () => {
  it('keeps a choice at once and shows a refusal', async () => {
    serving({ 'GET /api/schools': [200, {}], 'GET /api/service': [200, {}], 'PUT /api/schools': [200, {}] })
    const view = await shown(SchoolsView)
    await view.findAll('input[name=act_on]')[1]?.setValue(true)
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'PUT', body: { act_on: 'visible' } })
    expect(view.text()).toContain('Kept.')
    view.unmount()
    serving({ 'GET /api/schools': [200, {}], 'GET /api/service': [200, {}], 'PUT /api/schools': [422, { detail: 'air: not known.' }] })
    const refused = await shown(SchoolsView)
    await refused.findAll('input[name=air]')[1]?.setValue(true)
    await flushPromises()
    expect(refused.text()).toContain('air: not known.')
    refused.unmount()
  })
})

const visit = (values: Record<string, unknown> = {}) => ({
  id: 3, body_id: 4, body: { ...freshBody(), name: 'Study' }, virtual: true, state: 'open', conditions: { experience: 'practised', observed: [], schools: {} },
  schools: {}, works_at: 16, verdict: null, note: '', until: null, version: 1, opened_at: '2026-11-20T09:00:00', closed_at: null, trail: [],
  latest_frame_id: null, recipe: '', jobs: [], cost: 0, unpriced: 0,
  advice: { schema: 'neatpatch.advise/1', decision: 'air', title: 'Blow it out from below', why: ['So.'], cautions: [], barred: [], needs: [], alternatives: [], rule: '' },
  ...values,
})

describe('VisitView', () => {
  it('opens with the questions only when they were never answered', async () => {
    serving({ 'GET /api/visits/3': [200, visit({ conditions: { observed: [], schools: {} } })] })
    const asked = await shown(VisitView, { id: 3 })
    expect(asked.text()).toContain('Around this visit')
    asked.unmount()
    serving({ 'GET /api/visits/3': [200, visit()] })
    const known = await shown(VisitView, { id: 3 })
    expect(known.text()).not.toContain('Around this visit')
    expect(known.text()).toContain('The map appears here with the first frame.')
    known.unmount()
  })
  it('logs a step as usually done and shows the next move', async () => {
    const next = visit({ version: 2, advice: { ...visit().advice, decision: 'reshoot', title: 'Shoot the test frame again' } })
    serving({ 'GET /api/visits/3': [200, visit()], 'POST /api/visits/3/steps': [201, next] })
    const view = await shown(VisitView, { id: 3 })
    await button(view, 'Done already').trigger('click')
    await flushPromises()
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({ step: 'air', use: { opening: 'down' }, against: '', recount: false })
    expect(view.find('.move h1').text()).toBe('Shoot the test frame again')
    view.unmount()
  })
  it('says why a visit cannot be opened', async () => {
    serving({ 'GET /api/visits/3': [404, { detail: 'There is no such visit.' }] })
    const view = await shown(VisitView, { id: 3 })
    expect(view.text()).toContain('There is no such visit.')
    view.unmount()
  })
})

describe('LightView', () => {
  it('is even, offers tones, and leaves by Escape', async () => {
    const view = await shown(LightView)
    expect(view.attributes('style')).toContain('#ffffff')
    await button(view, 'Grey').trigger('click')
    expect(view.attributes('style')).toContain('#bdbdbd')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    expect(push.mock.calls.length + Number(window.history.length > 1)).toBeGreaterThan(0)
    view.unmount()
  })
  it('takes its words away after a while and gives them back on a move', async () => {
    vi.useFakeTimers()
    const view = mount(LightView, { global })
    expect(view.find('.words').exists()).toBe(true)
    vi.advanceTimersByTime(7000)
    await Promise.resolve()
    expect(view.find('.words').exists()).toBe(false)
    window.dispatchEvent(new Event('pointermove'))
    await Promise.resolve()
    expect(view.find('.words').exists()).toBe(true)
    view.unmount()
    vi.useRealTimers()
  })
})

describe('ShootRecipe', () => {
  it('asks for the recipe of the lens at hand and remembers the lens', async () => {
    localStorage.setItem('neatpatch-lens', JSON.stringify({ focal_mm: 50, smallest_f: 16 }))
    serving({ 'GET /api/plans/shoot': [200, { steps: ['f/16, ISO 100.'] }] })
    const view = await shown(ShootRecipe)
    expect(view.text()).toContain('f/16, ISO 100.')
    expect(JSON.parse(localStorage.getItem('neatpatch-lens') ?? '{}')).toEqual({ focal_mm: 50, smallest_f: 16 })
    view.unmount()
  })
  it('says what is wrong with an impossible lens', async () => {
    serving({ 'GET /api/plans/shoot': [422, { detail: 'The focal length is outside 4 to 2000 mm.' }] })
    const view = await shown(ShootRecipe)
    expect(view.find('[role=alert]').text()).toContain('outside 4 to 2000 mm')
    view.unmount()
    localStorage.clear()
  })
})

describe('FrameArrival', () => {
  it('shoots the virtual camera at the aperture of the frames before', async () => {
    serving({ 'GET /api/plans/shoot': [200, { steps: [] }] })
    const trail = [{ id: 1, at: 't', frame: { f_number: 16 }, step: null }]
    const view = await shown(FrameArrival, { visit: visit({ trail }), busy: false })
    await button(view, 'Shoot').trigger('click')
    expect(view.emitted('shoot')).toEqual([[16]])
    view.unmount()
  })
  it('has no shutter for a real camera', async () => {
    serving({ 'GET /api/plans/shoot': [200, { steps: [] }] })
    const view = await shown(FrameArrival, { visit: visit({ virtual: false }), busy: false })
    expect(view.text()).not.toContain('virtual camera')
    expect(view.text()).toContain('Drop a test frame here')
    view.unmount()
  })
})

describe('MoreFrames', () => {
  it('tells of a series, or offers to make one', async () => {
    const one = await shown(MoreFrames, { frameId: 3, members: 1 })
    expect(one.text()).toContain('Prove the place with more frames')
    one.unmount()
    const three = await shown(MoreFrames, { frameId: 3, members: 3 })
    expect(three.text()).toContain('Measured from 3 frames of one moment.')
    three.unmount()
  })
})

describe('HandsView', () => {
  const guide = (values: Record<string, unknown> = {}) => ({
    step: 'air', title: '', cautions: [], mount: null, plan: { presses: [], strokes: [], note: '' }, frame_id: null,
    instructions: [
      { text: 'Take the lens off.', heed: 'No hurry.', count: null, target: null, timer_s: null, opens: true, closes: false, shows_plan: false },
      { text: 'Blow upward.', heed: '', count: 'puffs', target: 12, timer_s: null, opens: false, closes: false, shows_plan: true },
      { text: 'Cap on.', heed: '', count: null, target: null, timer_s: null, opens: false, closes: true, shows_plan: false },
    ],
    ...values,
  })
  const key = (name: string): void => { window.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true })) }

  async function press(...names: string[]): Promise<void> {
    for (const name of names) {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))
      await flushPromises()
    }
  }

  it('goes by the space bar, counts by Enter, goes back, and logs what was counted', async () => {
    serving({ 'GET /api/visits/3': [200, visit()], 'GET /api/visits/3/guidance': [200, guide()], 'POST /api/visits/3/steps': [201, visit({ version: 2 })] })
    const view = await shown(HandsView, { id: 3, step: 'air' })
    expect(view.find('.now').text()).toBe('Take the lens off.')
    expect(view.find('.clock').text()).toContain('open')
    await press(' ', 'Enter', 'Enter', 'Enter')
    expect(view.find('output').text()).toContain('3 of 12 puffs')
    await press(' ', 'Backspace')
    expect(view.find('.now').text()).toBe('Blow upward.')
    await press(' ', ' ')
    expect(view.text()).toContain('Done. Log this step')
    await press(' ')
    expect(calls.at(-1)?.body).toMatchObject({ step: 'air', use: { puffs: 3, opening: 'down' }, against: '' })
    expect(push).toHaveBeenCalledWith({ name: 'visit', params: { id: 3 } })
    view.unmount()
    key(' ')
  })
  it('shows a hazard from the first instruction on and wants a reason at the end', async () => {
    const advice = { ...visit().advice, barred: [{ action: 'wet_swab', code: 'air_first', text: 'Air always before contact.' }] }
    serving({ 'GET /api/visits/3': [200, visit({ advice })], 'GET /api/visits/3/guidance': [200, guide({ step: 'wet_swab' })] })
    const view = await shown(HandsView, { id: 3, step: 'wet_swab' })
    expect(view.text()).toContain('Advised against now: Air always before contact.')
    await press(' ', ' ', ' ')
    expect(view.find('.next').attributes('disabled')).toBeDefined()
    await view.find('.why input').setValue('The owner insists')
    expect(view.find('.next').attributes('disabled')).toBeUndefined()
    view.unmount()
  })
  it('leaves by Escape and pauses by P', async () => {
    serving({ 'GET /api/visits/3': [200, visit()], 'GET /api/visits/3/guidance': [200, guide()] })
    const view = await shown(HandsView, { id: 3, step: 'air' })
    await press('p')
    expect(view.text()).toContain('Go on')
    await press('Escape')
    expect(push).toHaveBeenCalled()
    view.unmount()
  })
  it('says when a step has nothing for the hands', async () => {
    serving({ 'GET /api/visits/3': [200, visit()], 'GET /api/visits/3/guidance': [200, guide({ instructions: [] })] })
    const view = await shown(HandsView, { id: 3, step: 'service' })
    expect(view.text()).toContain('no instructions for the hands')
    view.unmount()
  })
})
