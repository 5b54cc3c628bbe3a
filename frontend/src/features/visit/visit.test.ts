import { flushPromises, mount, RouterLinkStub } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Advice, Body, FrameOnTrail, TrailItem, Visit } from '@/api/client'
import { freshBody } from '@/shared/lib/bodies'
import { freshCache } from '@/app/stage'
import BodyForm from '@/features/bodies/BodyForm.vue'
import CloseVisit from './CloseVisit.vue'
import ConditionsForm from './ConditionsForm.vue'
import MiniMap from './MiniMap.vue'
import NextMove from './NextMove.vue'
import OtherStep from './OtherStep.vue'
import Select from 'primevue/select'
import SchoolPoints from '@/shared/components/SchoolPoints.vue'
import StepUseForm from './StepUseForm.vue'
import StockQuestion from './StockQuestion.vue'
import VisitTrail from './VisitTrail.vue'

const global = {
  get plugins() {
    return [PrimeVue, freshCache()]
  },
  stubs: { RouterLink: RouterLinkStub, teleport: true, transition: false },
}

const frame = (values: Partial<FrameOnTrail> = {}): FrameOnTrail => ({
  frame_id: 7,
  name: 'a.jpg',
  ready: true,
  relevant: 3,
  count: 4,
  fit: true,
  wall: [],
  f_number: 22,
  orientation: 1,
  proportion: 1.5,
  dots: [
    [0.5, 0.5, true],
    [0.1, 0.2, false],
  ] as unknown as FrameOnTrail['dots'],
  doubts: [],
  members: 0,
  trouble: null,
  ...values,
})
const frameItem = (id: number, values: Partial<FrameOnTrail> = {}): TrailItem => ({
  id,
  at: 't',
  frame: frame(values),
  step: null,
})
const stepItem = (id: number, values: Record<string, unknown> = {}): TrailItem =>
  ({
    id,
    at: 't',
    frame: null,
    step: {
      step: 'air',
      took: [],
      places: [
        [0.2, 0.3, 'gone'],
        [0.6, 0.7, 'new'],
      ],
      use: { puffs: 9 },
      against: '',
      tested: true,
      result: 'fewer',
      counts: { before: 9, after: 5, gone: 4, stayed: 5, fainter: 0, moved: 0, new: 0, unseen: 0 },
      ...values,
    },
  }) as unknown as TrailItem

const advice = (values: Partial<Advice> = {}): Advice =>
  ({
    schema: 'neatpatch.advise/1',
    decision: 'air',
    title: 'Blow it out from below',
    why: ['Because.'],
    cautions: Array.from({ length: 8 }, (_, i) => ({ code: 'gravity', text: `Heed ${i}` })).map((c, i) => ({
      ...c,
      code: `c${i}`,
      importance: i + 1,
      said_before: i > 6,
    })),
    barred: [
      { action: 'wet_swab', code: 'air_first', text: 'Air always before contact.', always: false },
      { action: 'dry_swab', code: 'air_first', text: 'Air always before contact.', always: false },
      { action: 'mouth_air', code: 'moisture', text: 'Spit.', always: true },
      { action: 'fluid:mild', code: 'wrong_fluid', text: 'No.', always: false },
    ],
    needs: ['A blower.'],
    alternatives: [{ decision: 'defer', why: 'Later.' }],
    rule: 'next rung',
    ...values,
  }) as unknown as Advice

const visit = (values: Partial<Visit> = {}): Visit =>
  ({
    id: 3,
    body_id: 1,
    body: freshBody(),
    virtual: true,
    state: 'open',
    conditions: {},
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
    advice: advice(),
    jobs: [],
    ...values,
  }) as unknown as Visit

describe('VisitTrail', () => {
  const trail = [
    frameItem(1),
    stepItem(2),
    frameItem(3, { frame_id: 8, relevant: 1 }),
    stepItem(4, { tested: false, result: null }),
  ]
  it('tells each frame, step and result, and lets any of them be removed', async () => {
    const wrapper = mount(VisitTrail, { props: { visit: visit({ trail }), shown: 8 }, global })
    expect(wrapper.findAll('.card')).toHaveLength(2)
    expect(wrapper.find('[aria-pressed=true]').text()).toContain('1 visible')
    expect(wrapper.text()).toContain('Air helped')
    expect(wrapper.text()).toContain('4 of 9 spots removed, 5 stayed')
    expect(wrapper.text()).toContain('not retested yet')
    await wrapper.findAll('.card')[0]?.trigger('click')
    expect(wrapper.emitted('show')).toEqual([[7]])
    for (const b of wrapper.findAll('button').filter((x) => /Remove/.test(x.attributes('aria-label') ?? '')))
      await b.trigger('click')
    expect(wrapper.emitted('remove')).toEqual([[1], [2], [3], [4]])
  })
  it('questions a frame that may not be of this body', async () => {
    const wrapper = mount(VisitTrail, {
      props: { visit: visit({ trail: [frameItem(1, { doubts: ['The file says X.'] })] }), shown: null },
      global,
    })
    expect(wrapper.find('[role=alert]').text()).toContain('The file says X.')
    await wrapper.find('[role=alert] button').trigger('click')
    expect(wrapper.emitted('accept')).toEqual([[1]])
  })
  it('has designed states for nothing yet, measuring, unfit and shooting', () => {
    const text = (v: Visit): string => mount(VisitTrail, { props: { visit: v, shown: null }, global }).text()
    expect(text(visit())).toContain('No frame yet')
    expect(text(visit({ trail: [frameItem(1, { ready: false, relevant: null })] }))).toContain('measuring')
    expect(text(visit({ trail: [frameItem(1, { fit: false })] }))).toContain('not fit')
    expect(text(visit({ jobs: [{ kind: 'shoot' }] as unknown as Visit['jobs'] }))).toContain('shooting')
  })
  it('says why a frame could not be measured, and offers to try again or remove it', async () => {
    const cut = frameItem(1, { ready: false, relevant: null, trouble: 'The JPEG file is cut short.' })
    const wrapper = mount(VisitTrail, { props: { visit: visit({ trail: [cut] }), shown: null }, global })
    expect(wrapper.find('[role=alert]').text()).toContain('cut short')
    expect(wrapper.text()).toContain('not measured')
    const [again, remove] = wrapper.findAll('[role=alert] button')
    await again?.trigger('click')
    await remove?.trigger('click')
    expect(wrapper.emitted('measure')).toEqual([[7]])
    expect(wrapper.emitted('remove')).toEqual([[1]])
  })
  it('lets nothing be removed once closed', () => {
    const wrapper = mount(VisitTrail, {
      props: { visit: visit({ trail: [stepItem(1)], state: 'closed' }), shown: null },
      global,
    })
    expect(wrapper.text()).not.toContain('Remove')
  })
})

describe('MiniMap', () => {
  it('draws what matters apart from the rest, upright', () => {
    const wrapper = mount(MiniMap, { props: { frame: frame({ orientation: 6 }) } })
    expect(wrapper.findAll('circle.relevant')).toHaveLength(1)
    expect(wrapper.find('g').attributes('transform')).toContain('rotate(90)')
    const [, , wide, high] = (wrapper.find('svg').attributes('viewBox') ?? '').split(' ').map(Number)
    expect(wide).toBeLessThan(high ?? 0)
  })
})

describe('NextMove', () => {
  it('leads with the move and offers hands, or done already', async () => {
    const wrapper = mount(NextMove, { props: { visit: visit(), busy: false }, global })
    expect(wrapper.find('h1').text()).toBe('Blow it out from below')
    expect(wrapper.findComponent(RouterLinkStub).props('to')).toMatchObject({
      name: 'hands',
      params: { step: 'air' },
    })
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Already done')
      ?.trigger('click')
    expect(wrapper.emitted('done')).toEqual([['air']])
  })
  it('tells one reason once, names the rest, and folds what is long', () => {
    const wrapper = mount(NextMove, { props: { visit: visit(), busy: false }, global })
    const barred = wrapper.find('.barred').text()
    expect(barred).toContain('Wet swab, Dry swab: Air always before contact.')
    expect(barred).toContain('Mild fluid')
    expect(barred).not.toContain('Spit')
    expect(wrapper.findAll('.barred').at(1)?.text()).toContain('Spit')
    expect(wrapper.text()).toContain('3 more cautions')
  })
  it('tells no caution again where a step is repeated, nor what the trail shows', () => {
    const last_step = 'The last step: 4 removed, 5 stayed.'
    const told = advice({ why: ['Because.', last_step], last_step })
    const again = told.cautions.map((c) => ({ ...c, said_before: true }))
    const wrapper = mount(NextMove, {
      props: { visit: visit({ advice: { ...told, cautions: again } }), busy: false },
      global,
    })
    expect(wrapper.findAll('.heed').map((l) => l.findAll('li').length)).toEqual([8])
    expect(wrapper.text()).not.toContain('4 removed')
  })
  it('closes, prepares or shoots as decided', async () => {
    const pressed = async (decision: Advice['decision'], label: string): Promise<string[]> => {
      const wrapper = mount(NextMove, {
        props: { visit: visit({ advice: advice({ decision, fix_in: ['conditions'] }) }), busy: false },
        global,
      })
      await wrapper
        .findAll('button')
        .find((b) => b.text().includes(label))
        ?.trigger('click')
      return Object.keys(wrapper.emitted())
    }
    expect(await pressed('stop_done', 'Finish: it is clean')).toContain('finish')
    expect(await pressed('prepare', 'Update conditions')).toContain('conditions')
    expect(await pressed('reshoot', 'Shoot now')).toContain('shoot')
    expect(await pressed('air', 'Leave it for now')).toContain('other')
  })
  it('reckons the plan before the camera is opened, and does without when it cannot', async () => {
    vi.stubGlobal('fetch', async (request: Request) => {
      if (!request.url.includes('/guidance?step=air&pose=overhead')) throw new Error('not there')
      return new Response(JSON.stringify({ before: ['Aim upper left.'] }), {
        headers: { 'Content-Type': 'application/json' },
      })
    })
    const wrapper = mount(NextMove, { props: { visit: visit(), busy: false }, global })
    await flushPromises()
    expect(wrapper.text()).toContain('PlanAim upper left.')
    vi.unstubAllGlobals()
    const without = mount(NextMove, { props: { visit: visit(), busy: false }, global })
    await flushPromises()
    expect(without.text()).not.toContain('Plan')
  })
  it('only tells once the visit is closed', () => {
    const wrapper = mount(NextMove, { props: { visit: visit({ state: 'closed' }), busy: false }, global })
    expect(wrapper.find('.act').exists()).toBe(false)
  })
})

describe('OtherStep', () => {
  it('shows the hazard once more and wants a reason', async () => {
    const wrapper = mount(OtherStep, {
      props: { visit: visit(), wanted: 'wet_swab', open: false, 'onUpdate:open': () => undefined },
      global,
      attachTo: document.body,
    })
    await wrapper.setProps({ open: true })
    await flushPromises()
    expect(document.body.textContent).toContain('Advised against now. Air always before contact.')
    const log = [...document.querySelectorAll('button')].find((b) =>
      b.textContent?.includes('Log it as done'),
    )
    expect(log?.hasAttribute('disabled')).toBe(true)
    wrapper.unmount()
  })
})

describe('CloseVisit', () => {
  it('suggests the verdict that follows and tells what to do on leaving', async () => {
    const close = vi
      .fn()
      .mockResolvedValue({ visit: visit(), words: ['Cap on.'], look_again_on: '2027-01-20' })
    const wrapper = mount(CloseVisit, {
      props: {
        visit: visit({ advice: advice({ decision: 'service' }) }),
        close,
        open: false,
        'onUpdate:open': () => undefined,
      },
      global,
      attachTo: document.body,
    })
    await wrapper.setProps({ open: true })
    await flushPromises()
    document.querySelector('form')?.dispatchEvent(new Event('submit'))
    await flushPromises()
    expect(close).toHaveBeenCalledWith({ verdict: 'sent', note: '', until: null })
    expect(document.body.textContent).toContain('Cap on.')
    expect(document.body.textContent).toContain('20 Jan 2027')
    wrapper.unmount()
  })
})

describe('CloseVisit where spots still show', () => {
  it('chooses no verdict for one', async () => {
    const close = vi.fn().mockResolvedValue(null)
    for (const [decision, quick, calls] of [
      ['air', false, 0],
      ['stop_done', false, 1],
      ['air', true, 1],
    ] as const) {
      close.mockClear()
      const wrapper = mount(CloseVisit, {
        props: { visit: visit({ advice: advice({ decision }) }), close, quick, open: false },
        global,
        attachTo: document.body,
      })
      await wrapper.setProps({ open: true })
      await flushPromises()
      if (!quick) document.querySelector('form')?.dispatchEvent(new Event('submit'))
      await flushPromises()
      expect(close, `${decision} ${String(quick)}`).toHaveBeenCalledTimes(calls)
      wrapper.unmount()
    }
  })
})

describe('ConditionsForm', () => {
  beforeEach(() => vi.stubGlobal('fetch', vi.fn().mockRejectedValue(new Error('away'))))
  afterEach(() => vi.unstubAllGlobals())
  it('keeps what was seen and leaves the original alone until saved', async () => {
    const conditions = {
      observed: ['grit'],
      why_now: 'spots',
      temperature_c: 20,
      humidity_percent: 40,
    } as unknown as Visit['conditions']
    const body: Body = { ...freshBody(), access: 'mirror' }
    const save = vi.fn().mockResolvedValueOnce(false).mockResolvedValueOnce(true)
    const wrapper = mount(ConditionsForm, {
      props: {
        conditions,
        version: 3,
        body,
        offered: { temperature_c: 12, moving_air: false, battery_percent: 90 } as Visit['conditions'],
        unknownAperture: true,
        error: '',
        save,
        open: false,
        'onUpdate:open': () => undefined,
      },
      global,
      attachTo: document.body,
    })
    await wrapper.setProps({ open: true })
    await flushPromises()
    expect(document.body.textContent).toContain('Mirror raised')
    expect(document.body.textContent).toContain('Aperture of the test frames')
    const last = [...document.querySelectorAll<HTMLButtonElement>('.again button')][0]
    expect(last?.closest('.again')?.textContent).toContain('air still · battery half')
    last?.click()
    await flushPromises()
    const spit = [...document.querySelectorAll<HTMLButtonElement>('.seen button')].find(
      (b) => b.textContent === 'Spit',
    )
    spit?.click()
    await flushPromises()
    expect(conditions.observed).toEqual(['grit'])
    document.querySelector('form')?.dispatchEvent(new Event('submit'))
    await flushPromises()
    expect(save.mock.calls[0]?.[0]).toMatchObject({ observed: ['grit', 'saliva'], job_on: null })
    expect(save.mock.calls[0]?.[0]).toMatchObject({
      temperature_c: 20,
      moving_air: false,
      battery_percent: 90,
    })
    expect(save.mock.calls[0]?.[1]).toBe(3)
    expect(wrapper.emitted('update:open')).toBeUndefined()
    await wrapper.setProps({ version: 4, error: 'It was changed elsewhere.' })
    expect(document.body.textContent).toContain('It was changed elsewhere.')
    document.querySelector('form')?.dispatchEvent(new Event('submit'))
    await flushPromises()
    expect(save.mock.calls[1]?.[1]).toBe(4)
    expect(wrapper.emitted('update:open')).toEqual([[false]])
    wrapper.unmount()
  })
})

describe('BodyForm', () => {
  it('says what an unknown hold rule means and gives the body as entered', async () => {
    const wrapper = mount(BodyForm, {
      props: { body: { ...freshBody(), name: 'Study' }, error: '', label: 'Save' },
      global,
    })
    expect(wrapper.text()).toContain('nothing may touch the sensor')
    await wrapper.find('form').trigger('submit')
    expect(wrapper.emitted('save')?.[0]?.[0]).toMatchObject({
      name: 'Study',
      guarantee_until: null,
      sensor_mm: [36, 24],
    })
  })
  it('asks for the lock-up path of a mirror body only, and shows an error', () => {
    const text = (body: Body): string =>
      mount(BodyForm, { props: { body, error: 'Choose another name.', label: 'Save' }, global }).text()
    expect(text({ ...freshBody(), access: 'mirror' })).toContain('mirror lock-up')
    expect(text({ ...freshBody(), stabilised: false })).not.toContain('handbook says so')
    expect(text(freshBody())).toContain('Choose another name.')
  })
})

describe('SchoolPoints', () => {
  it('marks the usual side and gives the choice', () => {
    const wrapper = mount(SchoolPoints, { props: { schools: {} }, global })
    const rows = wrapper.findAllComponents(Select)
    expect(rows.length).toBeGreaterThan(10)
    expect(wrapper.text()).toContain('Recommended: ')
    expect(rows.every((r) => r.props('modelValue') !== '')).toBe(true)
    rows[0]?.vm.$emit('update:modelValue', '2')
    expect(wrapper.emitted('choose')?.[0]).toEqual([{ contact_order: ['wet_swab'] }])
  })
  it('can follow all visits on every point', () => {
    const wrapper = mount(SchoolPoints, { props: { schools: { air: 'strong' }, asUsual: true }, global })
    expect(wrapper.text()).toContain('As for all visits')
    expect(wrapper.findAllComponents(Select)[1]?.props('modelValue')).toBe('as-usual')
  })
})

describe('what a step used', () => {
  const item = {
    id: 6,
    at: 't',
    frame: null,
    step: {
      step: 'wet_swab',
      took: [{ kit_id: 1, thing: 'wet swab', amount: 1 }],
      use: { swabs: 1, drops: 2 },
      against: '',
      tested: false,
      result: null,
      sentence: '',
    },
  } as unknown as TrailItem
  it('is put right with the kit, and the trail tells what it took', async () => {
    const kit = [
      { id: 1, left: 3, unit: 'piece', owned: { item: { item: 'wet_swab', width_mm: 24 } } },
      { id: 2, left: 9, unit: 'ml', owned: { item: { item: 'fluid', kind: 'mild' } } },
    ]
    vi.stubGlobal('fetch', async (request: Request) => {
      if (!request.url.endsWith('/api/kit')) throw new Error('not there')
      return new Response(JSON.stringify(kit), { headers: { 'Content-Type': 'application/json' } })
    })
    const form = mount(StepUseForm, { props: { item }, global, attachTo: document.body })
    await flushPromises()
    expect(form.text()).toContain('What it used: Wet swab')
    expect(form.text()).toContain('Wet swab, 24 mm')
    await form.find('form').trigger('submit')
    expect(form.emitted('save')).toEqual([
      [6, { swabs: 1, drops: 2, assumed: null }, [{ kit_id: 1, amount: 1 }]],
    ])
    form.unmount()
    vi.unstubAllGlobals()
  })
  it('asks before more is taken than is counted', async () => {
    const answer = vi.fn()
    const asked = mount(StockQuestion, {
      props: { asked: { text: '0 counted, 1 used', answer } },
      global,
      attachTo: document.body,
    })
    await flushPromises()
    expect(asked.text()).toContain('0 counted, 1 used')
    for (const b of asked.findAll('button').filter((x) => /log it/.test(x.text()))) await b.trigger('click')
    expect(answer.mock.calls).toEqual([[false], [true]])
    asked.unmount()
  })
})
