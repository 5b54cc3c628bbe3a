import { VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { fitted } from './photo'
import { blankPlan, blankScrews, LATCHES, nudged, SIDES, toggled } from './plan'
import ScrewPlaces from './ScrewPlaces.vue'
import TrayFields from './TrayFields.vue'
import TrayStep from './TrayStep.vue'
import { useTray } from './useTray'

vi.mock('./photo', async (original) => ({
  ...(await original<object>()),
  smaller: (file: File) => Promise.resolve(file),
}))
afterEach(() => vi.unstubAllGlobals())

const SCREWS: Schemas['TrayStep'] = {
  id: '0-out-A',
  phase: 'out',
  kind: 'screws_out',
  words: 'Take out 2 screws: Underside.',
  stage: 'Back cover',
  count: 2,
  field: 'A',
}
const global = { plugins: [PrimeVue] }
const step = (change: Partial<Schemas['TrayStep']>) =>
  mount(TrayStep, {
    global,
    props: { step: { ...SCREWS, ...change }, photos: 0, visitId: 7, busy: false },
  })

describe('a photograph', () => {
  it('is sent beside a step that is on its way, and a second one after it', async () => {
    const json = () => new Response('{}', { headers: { 'Content-Type': 'application/json' } })
    const posted: string[] = []
    const waiting: (() => void)[] = []
    vi.stubGlobal('fetch', (asked: Request | string) => {
      const url = typeof asked === 'string' ? asked : asked.url
      if (typeof asked !== 'string' && asked.method === 'GET') return Promise.resolve(json())
      posted.push(url.includes('photos') ? url.slice(-1) : 'step')
      return new Promise<Response>((resolve) => waiting.push(() => resolve(json())))
    })
    const Uses = defineComponent({
      setup: (_, { expose }) => {
        expose(useTray(ref(7)))
        return () => h('p')
      },
    })
    const tray = mount(Uses, { global: { plugins: [VueQueryPlugin] } }).vm as unknown as ReturnType<
      typeof useTray
    >
    void tray.done('0-out-A', 2, '')
    void tray.photograph('1', new File(['a'], 'a.jpg'))
    const second = tray.photograph('2', new File(['b'], 'b.jpg'))
    await flushPromises()
    expect(posted).toEqual(['step', '1'])
    waiting[1]?.()
    await vi.waitFor(() => expect(posted).toEqual(['step', '1', '2']))
    waiting[2]?.()
    expect(await second).toBe(true)
  })
  it('is made to fit, and never larger', () => {
    expect(fitted(4000, 3000)).toEqual([1600, 1200])
    expect(fitted(3000, 4000)).toEqual([1200, 1600])
    expect(fitted(800, 600)).toEqual([800, 600])
    expect(fitted(9000, 1)).toEqual([1600, 1])
  })
})

describe('a plan', () => {
  it('begins with one thing that comes off and what holds it', () => {
    const plan = blankPlan()
    expect(plan.stages.map((s) => s.name)).toEqual(['Back cover'])
    expect(plan.stages[0]?.screws).toEqual([blankScrews()])
    expect(plan.outline.x_mm).toBeGreaterThan(plan.outline.y_mm)
    expect([SIDES.length, LATCHES.length]).toEqual([7, 3])
  })
})

describe('places of screws', () => {
  const outline = { x_mm: 100, y_mm: 60 }
  const at = (x_mm: number, y_mm: number) => ({ x_mm, y_mm })
  it('are placed and taken away where they are touched, inside the outline', () => {
    const one = toggled([], at(10.04, 20), outline)
    expect(one).toEqual([at(10, 20)])
    expect(toggled(one, at(50, 99), outline)).toEqual([at(10, 20), at(50, 60)])
    expect(toggled(one, at(11, 21), outline)).toEqual([])
    const many = Array.from({ length: 40 }, (_, i) => at(i * 2.5, 0))
    expect(toggled(many, at(50, 50), outline)).toHaveLength(40)
  })
  it('are aimed at by arrow keys', () => {
    expect(nudged(at(10, 10), 'ArrowRight', outline)).toEqual(at(12, 10))
    expect(nudged(at(10, 0), 'ArrowUp', outline)).toEqual(at(10, 0))
    expect(nudged(at(10, 10), 'a', outline)).toBeNull()
  })
  it('say how many there are', async () => {
    const shown = mount(ScrewPlaces, {
      global,
      props: { modelValue: [], outline, name: 'Underside' },
    })
    await shown.find('svg').trigger('keydown', { key: 'ArrowLeft' })
    await shown.find('svg').trigger('keydown', { key: 'Enter' })
    expect(shown.emitted('update:modelValue')).toEqual([[[at(48, 30)]]])
  })
})

describe('a step on the tray', () => {
  it('goes on only with a count', async () => {
    const shown = step({})
    const done = shown.find('button[type=submit]')
    expect(done.attributes('disabled')).toBeDefined()
    await shown.find('input[type=number]').setValue('2')
    expect(shown.text()).not.toContain('The plan says')
    await shown.find('form').trigger('submit')
    expect(shown.emitted('done')).toEqual([[2, '']])
  })
  it('that comes out short can be corrected, or its loss told', async () => {
    const shown = step({})
    await shown.find('input[type=number]').setValue('1')
    expect(shown.text()).toContain('The plan says 2 screws for field A')
    await shown
      .findAll('button')
      .find((b) => b.text().includes('correct the plan'))
      ?.trigger('click')
    expect(shown.emitted('correct')).toEqual([[1]])
    await shown.find('input[type=text], input:not([type])').setValue('rolled away')
    await shown.find('form').trigger('submit')
    expect(shown.emitted('done')).toEqual([[1, 'rolled away']])
  })
  it('on the way back corrects no plan', async () => {
    const shown = step({ kind: 'screws_in', phase: 'back' })
    await shown.find('input[type=number]').setValue('3')
    expect(shown.text()).not.toContain('correct the plan')
    expect(shown.text()).not.toContain('lost for good')
  })
  it('that warns asks for no more than to be understood', async () => {
    const shown = step({ kind: 'warned', phase: 'before', count: null, stage: '' })
    expect(shown.find('button[type=submit]').text()).toBe('I have understood')
    await shown.find('form').trigger('submit')
    expect(shown.emitted('done')).toEqual([[null, '']])
  })
  it('with photographs shows them', () => {
    const shown = mount(TrayStep, {
      global,
      props: { step: { ...SCREWS, kind: 'photo', count: null }, photos: 2, visitId: 7, busy: false },
    })
    expect(shown.findAll('.thumbs img')).toHaveLength(2)
  })
})

describe('the fields of the mat', () => {
  it('tell what came out and went back, and which is in hand', () => {
    const group = { field: 'A', name: 'Underside', belongs: 'Underside (M1.4, bottom)', count: 2 }
    const now = {
      plan: blankPlan(),
      steps: [SCREWS],
      done: [],
      step: SCREWS,
      groups: [
        { ...group, out: 2, back: null },
        { ...group, field: 'B', out: null, back: null },
      ],
      left: [],
    } as unknown as Schemas['TrayNow']
    const shown = mount(TrayFields, {
      global,
      props: { now, photos: [{ step_id: '0-out-A', count: 1 }], visitId: 7 },
    })
    expect(shown.findAll('tbody tr').map((r) => r.classes('here'))).toEqual([true, false])
    expect(
      shown
        .findAll('tbody tr')[0]
        ?.findAll('td')
        .map((c) => c.text()),
    ).toEqual(['Underside (M1.4, bottom)', '2', '2', ''])
    expect(shown.find('figcaption').text()).toBe('Back cover')
  })
})
