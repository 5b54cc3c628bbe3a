import type { Component } from 'vue'
import { flushPromises, mount, RouterLinkStub } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import ChoiceField from '@/shared/components/ChoiceField.vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { Spot, Visit } from '@/api/client'
import { freshCache } from '@/app/stage'
import BodyForm from '@/features/bodies/BodyForm.vue'
import NextLooks from '@/shared/components/NextLooks.vue'
import SpotMark from '@/shared/components/SpotMark.vue'
import { freshBody } from '@/shared/lib/bodies'
import { markOf } from '@/shared/lib/marks'
import { POINTS } from '@/shared/lib/schools'
import ClosedVisit from './ClosedVisit.vue'
import NextMove from './NextMove.vue'
import NothingInCommon from './NothingInCommon.vue'

const global = {
  get plugins() {
    return [PrimeVue, freshCache()]
  },
  stubs: { RouterLink: RouterLinkStub, teleport: true, transition: false },
}

const move = (values: Record<string, unknown>, fix_in: string[] = []): string => {
  const advice = {
    decision: 'prepare',
    title: 'Get ready first',
    why: ['Why.'],
    cautions: [],
    barred: [],
    needs: ['Do it.'],
    alternatives: [],
    fix_in,
  }
  const body = { ...freshBody(), access: 'mirrorless' }
  const visit = { id: 3, body_id: 4, body, version: 1, state: 'open', advice, place: null, ...values }
  const wrapper = mount(NextMove, { props: { visit: visit as unknown as Visit, busy: false }, global })
  return wrapper.text()
}

describe('a visit that is closed', () => {
  it('shows its verdict and can be opened again', async () => {
    const frame = (relevant: number) => ({ id: relevant, frame: { ready: true, fit: true, relevant } })
    const visit = {
      trail: [frame(9), { id: 2, step: {} }, frame(0)],
      verdict: 'deferred',
      note: 'after the fair',
      until: '2031-01-02',
      look_again_on: '2031-01-01',
    } as unknown as Visit
    const wrapper = mount(ClosedVisit, { props: { visit, busy: false }, global })
    expect(wrapper.find('h1').text()).toBe('Postponed')
    expect(wrapper.text()).toContain('9 spots visible at first, none at the end. 1 step taken.')
    expect(wrapper.text()).toContain('Look again on 1 Jan 2031.')
    await wrapper.find('button').trigger('click')
    expect(wrapper.emitted('reopen')).toHaveLength(1)
  })
})

describe('a compact that does not open', () => {
  it('is led to the tray, and no other camera is', () => {
    expect(move({ body: { ...freshBody(), access: 'fixed_lens' } })).toContain('The tray: take it apart')
    expect(move({})).not.toContain('tray')
  })
})

describe('a frame that is not fit', () => {
  it('says why and what to do in place of the plain reason', () => {
    const advice = {
      decision: 'reshoot',
      title: 'Again',
      why: ['Plain.'],
      cautions: [],
      barred: [],
      needs: [],
      alternatives: [],
      fix_in: [],
    }
    const told = move({ advice, unfit: ['f/4 hides dust. Shoot at f/16.'] })
    expect(told).toContain('f/4 hides dust. Shoot at f/16.')
    expect(told).not.toContain('Plain.')
    expect(move({ advice, unfit: [] })).toContain('Plain.')
  })
})

describe('NextMove and the place', () => {
  const place = { state: 'not_moved', words: 'The camera was not moved.', on_sensor: [], wall: [] }
  it('says what the frames prove, and nothing where there is nothing to prove', () => {
    expect(move({ place })).toContain('The camera was not moved.')
    expect(move({ place: { ...place, state: 'nothing', words: 'No spot.' } })).not.toContain('No spot.')
    expect(move({ place: { ...place, state: 'nothing', words: '3 marks', wall: ['a'] } })).toContain(
      '3 marks',
    )
  })
  it('leads from what is to be put right to where it is entered, the first one first', () => {
    const buttons = (fix_in: string[]): string => move({}, fix_in)
    expect(buttons(['camera', 'kit'])).toMatch(/Edit the camera.*Open the kit/)
    expect(buttons(['camera'])).not.toContain('Update conditions')
  })
})

describe('BodyForm and what is known of a body', () => {
  const shown = (values: Record<string, unknown> = {}) =>
    mount(BodyForm, {
      props: { body: { ...freshBody(), name: 'S', stabilised: false, ...values }, error: '', label: 'Save' },
      global,
    })
  const choose = async (wrapper: ReturnType<typeof shown>, group: string, value: unknown) => {
    const found = wrapper.findAllComponents(ChoiceField as Component).find((f) => f.text().startsWith(group))
    found?.vm.$emit('update:modelValue', value)
    await flushPromises()
  }
  it('says that an unknown warranty bars contact, and keeps what is chosen', async () => {
    const wrapper = shown()
    expect(wrapper.text()).toContain('While the warranty is not known')
    await choose(wrapper, 'Warranty', 'none')
    expect(wrapper.text()).not.toContain('While the warranty is not known')
    await choose(wrapper, 'Closes over the sensor when off', 'yes')
    await wrapper.find('form').trigger('submit')
    expect(wrapper.emitted('save')?.[0]?.[0]).toMatchObject({
      no_guarantee: true,
      guarantee_until: null,
      closes_when_off: true,
    })
  })
  it('tells where two rules of the body collide', () => {
    const collides = shown({ stabilised: true, hold_rule: 'off', closes_when_off: true, no_guarantee: true })
    expect(collides.text()).toContain('only its handbook or a service')
    expect(shown({ no_guarantee: true }).text()).not.toContain('only its handbook')
  })
  it('asks the modifier’s answer only of a body without its filter', async () => {
    const wrapper = shown({ filter_removed: true })
    await choose(wrapper, 'Contact allowed by whoever removed it', 'no')
    await wrapper.find('form').trigger('submit')
    expect(wrapper.emitted('save')?.[0]?.[0]).toMatchObject({ modifier_allows: false })
    expect(shown().text()).not.toContain('whoever removed it')
  })
})

describe('NextLooks', () => {
  afterEach(() => vi.unstubAllGlobals())
  it('lists what is due first, and who is away', async () => {
    const looks = [
      { body_id: 1, name: 'Tarn', on: '2020-01-02', away: false },
      { body_id: 2, name: 'Halden', on: '2999-01-02', away: true },
    ]
    vi.stubGlobal('fetch', () =>
      Promise.resolve(
        new Response(JSON.stringify(looks), { headers: { 'Content-Type': 'application/json' } }),
      ),
    )
    const wrapper = mount(NextLooks, { global })
    await flushPromises()
    expect(wrapper.find('.due').text()).toBe('due since 2 Jan 2020')
    expect(wrapper.text()).toContain('away at a service')
  })
})

describe('marks of the target', () => {
  it('are crosses, whatever their kind', () => {
    const spot = { id: 's', x_px: 9, y_px: 9, outer_px: 20, kind: 'fibre', site: 'scene' } as Spot
    const mark = markOf(spot, 1)
    expect(mark.shape).toBe('cross')
    expect(
      mount(SpotMark, { props: { mark, selected: false, label: '', reached: false } }).findAll('path'),
    ).toHaveLength(2)
  })
})

describe('methods', () => {
  it('offer every way that changes the advice', () => {
    const values = (key: string) => POINTS.find((p) => p.key === key)?.sides.map((s) => s.value)
    expect(values('air')).toEqual(['soft_first', 'strong', 'skip'])
    expect(values('brush')).toContain('clean_lens_brush')
    expect(values('pad_on_finger')).toEqual([false, true])
    expect(values('edges_by_face')).toEqual([false, true])
    expect(POINTS.find((p) => p.key === 'damp_air')?.usual).toBe('dry_work_only')
  })
})

describe('two frames with nothing in common', () => {
  const shot = (id: number) => ({
    id,
    at: '',
    step: null,
    frame: { frame_id: 10 + id, name: `${id}.jpg`, count: 9, f_number: 22 },
  })
  const visit = (unexplained: number[] | null) =>
    ({
      trail: [shot(1), shot(2), shot(3)],
      place: { state: 'unexplained', words: '', on_sensor: [], wall: [], unexplained },
    }) as never

  it('shows both and sends the reason for the right one', async () => {
    const wrapper = mount(NothingInCommon, { props: { visit: visit([2, 3]), busy: false }, global })
    expect(wrapper.findAll('img').map((i) => i.attributes('src'))).toEqual([
      '/api/frames/12/thumb/relief.jpg',
      '/api/frames/13/thumb/relief.jpg',
    ])
    for (const button of wrapper.findAll('button')) await button.trigger('click')
    expect(wrapper.emitted('explain')).toEqual([
      [2, 'camera'],
      [3, 'camera'],
      [3, 'session'],
      [3, 'target'],
    ])
  })
  it('is silent where there is nothing to ask', () => {
    expect(mount(NothingInCommon, { props: { visit: visit(null), busy: false }, global }).text()).toBe('')
  })
})
