import SchoolPoints from '@/shared/components/SchoolPoints.vue'
import { flushPromises, mount, RouterLinkStub } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { freshBody } from '@/shared/lib/bodies'
import FrameArrival from '@/features/visit/FrameArrival.vue'
import MoreFrames from '@/features/frames/MoreFrames.vue'
import ShootRecipe from '@/shared/components/ShootRecipe.vue'
import BodiesView from '@/features/bodies/BodiesView.vue'
import BodyPage from '@/features/bodies/BodyPage.vue'
import HandsView from '@/features/hands/HandsView.vue'
import LightView from '@/features/frames/LightView.vue'
import SchoolsView from '@/features/settings/SettingsView.vue'
import VisitView from '@/features/visit/VisitView.vue'
import { button, calls, freshCache, global, listed, serving, shown, Silent } from './stage'

const push = vi.fn()
vi.mock('vue-router', async (original) => ({
  ...(await original<typeof import('vue-router')>()),
  useRouter: () => ({ push, back: vi.fn() }),
  RouterLink: RouterLinkStub,
}))

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
    serving({
      'GET /api/bodies': [200, { bodies: [listed()], total: 1 }],
      'POST /api/visits': [201, { id: 9 }],
    })
    const view = await shown(BodiesView, { frame: null })
    expect(view.find('tbody tr').text()).toMatch(/8 Jun 2026\s*stopped\s*3/)
    await button(view, 'Begin').trigger('click')
    await flushPromises()
    expect(calls.at(-1)?.body).toEqual({ body_id: 4, frame_id: null })
    expect(push).toHaveBeenCalledWith({ name: 'visit', params: { id: 9 } })
    view.unmount()
  })
  it('brings a frame along to a visit that is open already', async () => {
    serving({
      'GET /api/bodies': [200, { bodies: [listed({ open_visit_id: 3 })], total: 1 }],
      'POST /api/visits/3/frames': [200, {}],
    })
    const view = await shown(BodiesView, { frame: 12 })
    expect(view.text()).toContain('Whose frame is it?')
    await button(view, 'Continue').trigger('click')
    await flushPromises()
    expect(calls.at(-1)?.body).toEqual({ frame_id: 12 })
    view.unmount()
  })
  it('has words for none, for a refusal and for a server that is away', async () => {
    serving({ 'GET /api/bodies': [200, { bodies: [], total: 0 }] })
    const none = await shown(BodiesView, { frame: null })
    expect(none.text()).toContain('No camera yet')
    none.unmount()
    serving({
      'GET /api/bodies': [200, { bodies: [listed()], total: 1 }],
      'POST /api/visits': [409, { detail: 'Study has an open visit.' }],
    })
    const refused = await shown(BodiesView, { frame: null })
    await button(refused, 'Begin').trigger('click')
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
    const body = {
      ...freshBody(),
      name: 'Study',
      stabilised: true,
      hold_rule: 'off',
      hold_note: 'page 212',
      pitch_um: 5.123,
      stack_mm: 1.2,
    }
    const visits = [
      {
        id: 7,
        state: 'closed',
        why_now: 'spots',
        verdict: 'finished',
        note: '',
        first_relevant: 9,
        last_relevant: 0,
        opened_at: '2026-01-12T09:00:00',
        closed_at: 't',
      },
    ]
    serving({ 'GET /api/bodies/4': [200, { id: 4, body, virtual: false, open_visit_id: null, visits }] })
    const view = await shown(BodyPage, { id: 4 })
    for (const words of [
      'pixels of 5.12 µm (learned)',
      '1.2 mm above',
      'Locked for cleaning by: Power off',
      'page 212',
      '9 → 0',
      '12 Jan 2026',
    ])
      expect(view.text()).toContain(words)
    view.unmount()
  })
  it('says that an unknown hold means no contact', async () => {
    serving({
      'GET /api/bodies/4': [
        200,
        { id: 4, body: { ...freshBody(), name: 'S' }, virtual: false, open_visit_id: 3, visits: [] },
      ],
    })
    const view = await shown(BodyPage, { id: 4 })
    expect(view.text()).toContain('Not known: no contact')
    expect(view.text()).toContain('Not known whether it closes')
    expect(view.text()).toContain('Continue the open visit')
    expect(view.text()).toContain('No visit yet.')
    view.unmount()
  })
})

describe('SchoolsView', () => {
  it('keeps a choice at once and shows a refusal', async () => {
    serving({ 'GET /api/schools': [200, {}], 'GET /api/service': [200, {}], 'PUT /api/schools': [200, {}] })
    const view = await shown(SchoolsView, { section: null })
    view.findComponent(SchoolPoints).vm.$emit('choose', { act_on: 'visible' })
    await flushPromises()
    expect(calls.at(-1)).toMatchObject({ method: 'PUT', body: { act_on: 'visible' } })
    expect(view.text()).toContain('Saved')
    view.unmount()
    serving({
      'GET /api/schools': [200, {}],
      'GET /api/service': [200, {}],
      'PUT /api/schools': [422, { detail: 'air: not known.' }],
    })
    const refused = await shown(SchoolsView)
    refused.findComponent(SchoolPoints).vm.$emit('choose', { air: 'strong' })
    await flushPromises()
    expect(refused.text()).toContain('air: not known.')
    refused.unmount()
  })
})

const visit = (values: Record<string, unknown> = {}) => ({
  id: 3,
  body_id: 4,
  body: { ...freshBody(), name: 'Study' },
  virtual: true,
  state: 'open',
  conditions: { experience: 'practised', surface: 'bare', observed: [], schools: {} },
  schools: {},
  works_at: 16,
  verdict: null,
  note: '',
  until: null,
  version: 1,
  opened_at: '2026-11-20T09:00:00',
  closed_at: null,
  trail: [],
  latest_frame_id: null,
  recipe: '',
  jobs: [],
  cost: 0,
  unpriced: 0,
  advice: {
    schema: 'neatpatch.advise/1',
    decision: 'air',
    title: 'Blow it out from below',
    why: ['So.'],
    cautions: [],
    barred: [],
    needs: [],
    alternatives: [],
    rule: '',
  },
  ...values,
})

describe('VisitView', () => {
  it('asks nothing by itself, even where nothing was ever answered', async () => {
    serving({ 'GET /api/visits/3': [200, visit({ conditions: { observed: [], schools: {} } })] })
    const known = await shown(VisitView, { id: 3 })
    expect(known.text()).not.toContain('Seen on the sensor')
    expect(known.text()).toContain('The map appears here.')
    known.unmount()
  })
  it('logs a step as usually done and shows the next move', async () => {
    const next = visit({
      version: 2,
      advice: { ...visit().advice, decision: 'reshoot', title: 'Shoot the test frame again' },
    })
    serving({ 'GET /api/visits/3': [200, visit()], 'POST /api/visits/3/steps': [201, next] })
    const view = await shown(VisitView, { id: 3 })
    await button(view, 'Already done').trigger('click')
    await flushPromises()
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({
      step: 'air',
      use: { opening: 'down', assumed: true },
      against: '',
      recount: false,
    })
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
    serving({
      'GET /api/plans/shoot': [200, { f_number: 22, exposure_s: 0.24, target_distance_m: 0.66, move_mm: 20 }],
    })
    const view = await shown(LightView)
    expect(view.attributes('style')).toContain('--light-white')
    expect(view.text()).toContain('f/22, ISO 100, about 1/4 s. Lens 66 cm from the screen')
    expect((view.find('.dots').element as HTMLElement).style.animationDuration).toBe('0.24s')
    await button(view, 'Grey').trigger('click')
    await flushPromises()
    expect(view.attributes('style')).toContain('--light-grey')
    expect(button(view, 'Grey').attributes('aria-pressed')).toBe('true')
    expect(
      calls
        .filter((c) => c.path === '/api/plans/shoot')
        .map((c) => new URLSearchParams(c.search).get('ev100')),
    ).toEqual(['11', '10'])
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    expect(push.mock.calls.length + Number(window.history.length > 1)).toBeGreaterThan(0)
    view.unmount()
  })
  it('takes its words away after a while and gives them back on a move', async () => {
    vi.useFakeTimers()
    const view = mount(LightView, { global: { ...global, plugins: [...global.plugins, freshCache()] } })
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
    expect(JSON.parse(localStorage.getItem('neatpatch-lens') ?? '{}')).toEqual({
      focal_mm: 50,
      smallest_f: 16,
    })
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
    expect(view.text()).toContain('Drop test frames anywhere here')
    view.unmount()
  })
})

describe('MoreFrames', () => {
  it('tells of a series', async () => {
    const one = await shown(MoreFrames, { frameId: 3, members: 1 })
    expect(one.text()).not.toContain('Measured from')
    one.unmount()
    const three = await shown(MoreFrames, { frameId: 3, members: 3 })
    expect(three.text()).toContain('Measured from 3 frames of one moment.')
    three.unmount()
  })
})

describe('HandsView', () => {
  const guide = (values: Record<string, unknown> = {}) => ({
    step: 'air',
    title: '',
    cautions: [],
    mount: null,
    plan: { presses: [], strokes: [], note: '' },
    frame_id: null,
    instructions: [
      {
        text: 'Take the lens off.',
        heed: 'No hurry.',
        count: null,
        target: null,
        timer_s: null,
        opens: true,
        closes: false,
        shows_plan: false,
      },
      {
        text: 'Blow upward.',
        heed: '',
        count: 'puffs',
        target: 12,
        timer_s: null,
        opens: false,
        closes: false,
        shows_plan: true,
      },
      {
        text: 'Cap on.',
        heed: '',
        count: null,
        target: null,
        timer_s: null,
        opens: false,
        closes: true,
        shows_plan: false,
      },
    ],
    ...values,
  })
  const key = (name: string): void => {
    window.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))
  }

  async function press(...names: string[]): Promise<void> {
    for (const name of names) {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))
      await flushPromises()
    }
  }

  it('goes by the space bar, counts by Enter, goes back, and logs what was counted', async () => {
    serving({
      'GET /api/visits/3': [200, visit()],
      'GET /api/visits/3/guidance': [200, guide()],
      'POST /api/visits/3/steps': [201, visit({ version: 2 })],
    })
    const view = await shown(HandsView, { id: 3, step: 'air' })
    expect(view.find('.now').text()).toBe('Take the lens off.')
    expect(view.find('.clock').text()).toContain('open')
    await press(' ', 'Enter', 'Enter', 'Enter')
    expect(view.find('output').text()).toContain('3 of 12 puffs')
    await press(' ', 'Backspace')
    expect(view.find('.now').text()).toBe('Blow upward.')
    const clock = vi.spyOn(performance, 'now').mockReturnValue(1000)
    await press(' ', ' ')
    expect(view.text()).toContain('Done. Log this step')
    clock.mockReturnValue(1499)
    await press(' ')
    expect(calls.some((c) => c.method === 'POST')).toBe(false)
    clock.mockReturnValue(1500)
    await press(' ', ' ')
    clock.mockRestore()
    expect(calls.some((c) => c.method === 'POST')).toBe(false)
    expect(view.text()).toContain('Counted: 3 of 12 puffs. Was it so?')
    await view.find('.heed .small').trigger('click')
    await flushPromises()
    expect(calls.filter((c) => c.method === 'POST')).toHaveLength(1)
    expect(calls.at(-1)?.headers['Idempotency-Key']).toMatch(/^[0-9a-f-]{36}$/)
    expect(calls.at(-1)?.body).toMatchObject({ step: 'air', use: { puffs: 3, opening: 'down' }, against: '' })
    expect(push).toHaveBeenCalledWith({ name: 'visit', params: { id: 3 } })
    view.unmount()
    key(' ')
  })
  it('takes a key held down for one press', async () => {
    serving({ 'GET /api/visits/3': [200, visit()], 'GET /api/visits/3/guidance': [200, guide()] })
    const view = await shown(HandsView, { id: 3, step: 'air' })
    for (let i = 0; i < 12; i++) {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', bubbles: true, repeat: i > 0 }))
      await flushPromises()
    }
    expect(view.find('.now').text()).toBe('Blow upward.')
    expect(calls.some((c) => c.method === 'POST')).toBe(false)
    view.unmount()
  })
  it('shows a hazard from the first instruction on and wants a reason at the end', async () => {
    const advice = {
      ...visit().advice,
      barred: [{ action: 'wet_swab', code: 'air_first', text: 'Air always before contact.' }],
    }
    serving({
      'GET /api/visits/3': [200, visit({ advice })],
      'GET /api/visits/3/guidance': [200, guide({ step: 'wet_swab' })],
    })
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
    expect(view.text()).toContain('Continue')
    await press('Escape')
    expect(push).toHaveBeenCalled()
    view.unmount()
  })
  it('says when a step has nothing for the hands', async () => {
    serving({
      'GET /api/visits/3': [200, visit()],
      'GET /api/visits/3/guidance': [200, guide({ instructions: [] })],
    })
    const view = await shown(HandsView, { id: 3, step: 'service' })
    expect(view.text()).toContain('no instructions for the hands')
    view.unmount()
  })
})
