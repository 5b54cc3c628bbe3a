import { flushPromises, RouterLinkStub } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import CostsView from '@/features/kit/CostsView.vue'
import JobsView from '@/features/jobs/JobsView.vue'
import KitView from '@/features/kit/KitView.vue'
import { button, calls, listed, serving, shown, type Answer } from './stage'

const push = vi.fn()
vi.mock('vue-router', async (original) => ({
  ...(await original<typeof import('vue-router')>()),
  useRouter: () => ({ push, back: vi.fn() }),
  RouterLink: RouterLinkStub,
}))

beforeEach(() => push.mockReset())
afterEach(() => {
  vi.unstubAllGlobals()
  document.body.innerHTML = ''
})

const entry = (
  id: number,
  item: Record<string, unknown>,
  more: Record<string, unknown> = {},
  owned: Record<string, unknown> = {},
) => ({
  id,
  left: null,
  unit: null,
  unit_price: null,
  expired: false,
  owned: { item, note: '', source: '', suits: null, ...owned },
  ...more,
})

describe('KitView', () => {
  const kit = [
    entry(
      1,
      { item: 'wet_swab', width_mm: 24, quantity: 1 },
      { left: 1, unit: 'piece', unit_price: 2.5 },
      { note: 'drawer', pack_size: 12, best_before: '2026-11-01' },
    ),
    entry(2, { item: 'carbon_pen' }),
    entry(
      3,
      { item: 'gel_stick', fresh_patches: 4 },
      { left: 4, unit: 'patch', expired: true },
      { best_before: '2026-01-01' },
    ),
    entry(4, { item: 'fluid', kind: 'mild', quantity: 9.95 }, { left: 9.95, unit: 'ml' }, { suits: [7] }),
  ]
  const routes = {
    'GET /api/kit': [200, kit],
    'GET /api/bodies': [200, { bodies: [{ id: 7, body: { name: 'Study' } }], total: 1 }],
    'GET /api/prices': [200, { currency: 'kr' }],
    'PUT /api/kit/1': [200, kit],
    'POST /api/kit/1/packs': [200, kit],
    'DELETE /api/kit/2': [200, [kit[0]]],
    'GET /api/kit/1/moves': [200, [{ why: 'used', change: -1, at: '2026-11-20T09:00:00' }]],
  } as Record<string, Answer>
  it('counts in its own unit, warns by name, tells price, day and bodies', async () => {
    serving(routes)
    const view = await shown(KitView)
    for (const words of [
      'never on a sensor',
      'none: coating not matched',
      '4 patches',
      '9.9 ml',
      'expired',
      'kr 2.50',
      'Study',
    ])
      expect(view.text()).toContain(words)
    await button(view, 'One less: Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({
      method: 'PUT',
      path: '/api/kit/1',
      body: { item: { quantity: 0 }, note: 'drawer' },
    })
    await button(view, 'Add a pack: Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'POST', path: '/api/kit/1/packs' })
    view.unmount()
  })
  it('opens a thing with where its stock went, and removes another', async () => {
    serving(routes)
    const view = await shown(KitView)
    await button(view, 'Edit Wet swab, 24 mm').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('used −1')
    expect(view.text()).toContain('A pack holds')
    await button(view, 'Cancel').trigger('click')
    await button(view, 'Edit Carbon-tip pen').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('barred by name')
    await button(view, 'Remove').trigger('click')
    expect(calls.at(-1)?.method).not.toBe('DELETE')
    await button(view, 'Remove it for good').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'DELETE', path: '/api/kit/2' })
    expect(
      view
        .findAll('table')
        .map((t) => t.text())
        .join(),
    ).not.toContain('Carbon-tip pen')
    await button(view, 'Undo').trigger('click')
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'POST', body: { item: { item: 'carbon_pen' } } })
    view.unmount()
  })
  it('adds what was chosen, shows a refusal in its place, and says where to begin', async () => {
    serving({
      ...routes,
      'GET /api/kit': [200, []],
      'POST /api/kit': [422, { detail: 'lead_days: a lead time cannot lie in the past.' }],
    })
    const view = await shown(KitView)
    expect(view.text()).toContain('Begin with a blower')
    await button(view, 'Add an item').trigger('click')
    await flushPromises()
    await view.find('form').trigger('submit')
    await flushPromises()
    expect(calls.at(-1)?.body).toMatchObject({ item: { item: 'dry_swab', width_mm: 24 }, suits: null })
    expect(view.find('form').text()).toContain('cannot lie in the past')
    view.unmount()
  })
})

const jobReady = (more: Record<string, unknown> = {}) => ({
  job: { id: 5, name: 'Plates', starts_on: '2026-12-01', note: '', body_ids: [4] },
  days: 6,
  state: 'late',
  service: 'A service of 4 days would not be back in time.',
  service_fits: false,
  bodies: [
    {
      body_id: 4,
      name: 'Study',
      state: 'look',
      words: 'Never looked at. Shoot a test frame now.',
      open_visit_id: null,
    },
  ],
  kit: [
    { thing: 'wet swab, 24 mm', unit: 'piece', needed: 1, there: 0, enough: false },
    { thing: 'rubber bulb blower', unit: 'one', needed: 1, there: null, enough: true },
  ],
  ...more,
})
const toBuy = {
  thing: 'wet swab, 24 mm',
  unit: 'piece',
  amount: 1,
  pack_size: 12,
  pack_price: 30,
  packs: 1,
  cost: 30,
  order_by: '2026-11-25',
  late: true,
  lead_days: 8,
  lead_assumed: false,
  source: 'shop',
  job: 'Plates',
}

describe('JobsView', () => {
  const routes = {
    'GET /api/readiness': [
      200,
      {
        jobs: [jobReady()],
        to_buy: [
          toBuy,
          {
            ...toBuy,
            thing: 'dry swab, 24 mm',
            late: false,
            lead_assumed: true,
            packs: null,
            cost: null,
            source: '',
          },
        ],
      },
    ],
    'GET /api/bodies': [200, { bodies: [listed()], total: 1 }],
    'GET /api/prices': [200, { currency: 'kr' }],
    'POST /api/visits': [201, { id: 9 }],
    'POST /api/bookings': [201, { jobs: [], to_buy: [] }],
    'DELETE /api/bookings/5': [200, { jobs: [], to_buy: [] }],
  } as Record<string, Answer>
  it('tells what is not ready, what to buy by when, and begins the visit that is due', async () => {
    serving(routes)
    const view = await shown(JobsView)
    for (const words of [
      'in 6 days',
      'Not all in time',
      'Never looked at',
      'Kit short of wet swab, 24 mm',
      'would not be back in time',
      'Too late to order',
      'kr 30.00',
      'Order by',
      'at least 1',
      '1 thing without a price',
    ])
      expect(view.text()).toContain(words)
    await button(view, 'Begin').trigger('click')
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
    await button(view, 'Cancel').trigger('click')
    await button(view, 'Change Plates').trigger('click')
    await flushPromises()
    await button(view, 'Remove').trigger('click')
    await flushPromises()
    expect(view.text()).toContain('No job ahead')
    view.unmount()
  })
})

describe('CostsView', () => {
  const costs = {
    prices: { currency: 'kr', service_fee: 60 },
    body: 'Study',
    school: 'lift',
    by_year: [{ body: 'Study', year: '2026', cleans: 2, cost: 9.5, unpriced: 1 }],
    schools: [
      { school: 'lift', pieces: ['8 patches of gel stick'], cost: 4, missing: [] },
      { school: 'wet_swab', pieces: ['1 × wet swab'], cost: null, missing: ['wet swab'] },
    ],
    against: {
      lasting: 63,
      a_clean: 4,
      rows: [
        { cleans: 1, own: 67, service: 60, membership: null },
        { cleans: 2, own: 71, service: 120, membership: null },
      ],
      beats_service_from: 2,
      beats_membership_from: null,
      words: 'Your own kit pays from 2 cleans a year against the service.',
    },
  }
  it('marks the cheaper way, names a missing price, and reckons anew with another school', async () => {
    serving({
      'GET /api/costs': [200, costs],
      'GET /api/bodies': [200, { bodies: [listed()], total: 1 }],
      'PUT /api/prices': [200, {}],
    })
    const view = await shown(CostsView)
    for (const words of ['pays from 2 cleans a year', 'kr 4.00', 'no price of wet swab', '+1 unpriced'])
      expect(view.text()).toContain(words)
    expect(view.findAll('.best').map((c) => c.text())).toEqual(['kr 60.00', 'kr 71.00'])
    await button(view, 'Earlier years').trigger('click')
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
    serving({
      'GET /api/costs': [200, { ...costs, by_year: [], schools: [] }],
      'GET /api/bodies': [200, { bodies: [], total: 0 }],
      'PUT /api/prices': [422, { detail: 'currency: too long.' }],
    })
    const view = await shown(CostsView)
    expect(view.text()).toContain('Nothing used yet')
    expect(view.text()).toContain('Add a camera first')
    await view.find('input.short').setValue('crowns')
    await flushPromises()
    expect(view.text()).toContain('currency: too long.')
    view.unmount()
  })
})
