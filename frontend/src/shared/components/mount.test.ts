import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { MountView, Spot } from '@/api/client'
import MountMap from './MountMap.vue'

describe('MountMap', () => {
  const view = {
    pose: 'top_right',
    sentence: 'On its back, top right.',
    matrix: [0, 1, 1, 0],
    width_mm: 24,
    height_mm: 36,
    relevant: ['a'],
    aims: [{ x_mm: -8, y_mm: -12, spots: ['a'], words: 'upper left' }],
  } as unknown as MountView
  const spots = [
    { id: 'a', x_mm: 3, y_mm: 4, site: 'sensor', kind: 'speck', outer_um: 200 },
    { id: 'b', x_mm: 1, y_mm: 1, site: 'lens', kind: 'soft', outer_um: 900 },
  ] as unknown as Spot[]
  it('draws spots through the matrix, the aim and where the top is', () => {
    const wrapper = mount(MountMap, { props: { spots, view } })
    const dots = wrapper.findAll('.dot')
    expect(dots).toHaveLength(1)
    expect(dots[0]?.attributes('cx')).toBe('4')
    expect(dots[0]?.attributes('cy')).toBe('3')
    expect(wrapper.findAll('.aim text')).toHaveLength(1)
    expect(wrapper.find('svg').attributes('aria-label')).toContain('upper left')
    expect(wrapper.find('.flag').attributes('transform')).toContain('rotate(90)')
  })
  it('draws presses and strokes instead of aims, the next one lit', () => {
    const plan = {
      presses: [
        { n: 1, x_mm: 0, y_mm: 0, width_mm: 6, height_mm: 8, covers: ['a'] },
        { n: 2, x_mm: 5, y_mm: 0, width_mm: 6, height_mm: 8, covers: [] },
      ],
      strokes: [1, 2].map((n) => ({
        n,
        swab: 1,
        x1_mm: 0,
        y1_mm: -18,
        x2_mm: 0,
        y2_mm: 18,
        width_mm: 24,
        passes: [],
      })),
      note: '',
      corner: [],
      stroke: 'same_way' as const,
      by_face: false,
      left_out: [],
    }
    const wrapper = mount(MountMap, { props: { spots, view, plan, reached: 1 } })
    expect(wrapper.findAll('.aim')).toHaveLength(0)
    expect(wrapper.findAll('.press.past')).toHaveLength(1)
    expect(wrapper.find('.number.now text').text()).toBe('2')
    expect(wrapper.find('.stroke path').attributes('d')).toMatch(/^M /)
    expect(wrapper.find('.stroke.now .band').attributes('height')).toBe('36')
  })
  it('crosses out what the plan spares', () => {
    const plan = {
      presses: [],
      strokes: [],
      note: '',
      corner: [],
      stroke: 'same_way' as const,
      by_face: false,
    }
    const spared = mount(MountMap, {
      props: { spots, view, plan: { ...plan, left_out: [spots[0]?.id ?? '', 'not there'] } },
    })
    expect(spared.findAll('.spared')).toHaveLength(1)
    expect(mount(MountMap, { props: { spots, view } }).findAll('.spared')).toHaveLength(0)
  })
  it('is one picture unless its marks can be chosen', () => {
    const still = mount(MountMap, { props: { spots, view } })
    expect(still.find('svg').attributes('role')).toBe('img')
    expect(still.find('.dot').attributes('tabindex')).toBeUndefined()
  })
  it('lets arrow keys walk from mark to mark, and Escape let go', async () => {
    const two = [
      ...spots,
      {
        id: 'c',
        x_mm: 3,
        y_mm: -5,
        site: 'sensor',
        kind: 'fibre',
        angle_deg: 20,
        outer_px: 90,
        outer_um: 400,
      },
    ] as unknown as Spot[]
    const wrapper = mount(MountMap, {
      props: {
        spots: two,
        view,
        choosable: true,
        selected: null,
        'onUpdate:selected': (selected) => wrapper.setProps({ selected }),
      },
      attachTo: document.body,
    })
    expect(wrapper.find('svg').attributes('role')).toBe('group')
    const dot = (id: string) => wrapper.find(`[data-spot="${id}"]`)
    expect(dot('a').attributes('tabindex')).toBe('0')
    expect(dot('c').attributes('tabindex')).toBe('-1')
    expect(dot('a').attributes('aria-label')).toContain('Speck')
    await dot('a').trigger('keydown', { key: 'Enter' })
    expect(dot('a').attributes('aria-pressed')).toBe('true')
    await dot('a').trigger('keydown', { key: 'ArrowLeft' })
    await flushPromises()
    expect(dot('c').attributes('aria-pressed')).toBe('true')
    expect(document.activeElement?.getAttribute('data-spot')).toBe('c')
    await dot('c').trigger('keydown', { key: 'Escape' })
    expect(wrapper.find('.dot.selected').exists()).toBe(false)
    wrapper.unmount()
  })
})

describe('MountMap with presses side by side', () => {
  const view = {
    pose: 'top_away',
    matrix: [1, 0, 0, 1],
    width_mm: 36,
    height_mm: 24,
    sentence: 'It lies.',
    aims: [],
  } as unknown as MountView
  const presses = [0, 1, 2, 3, 4, 5].map((i) => ({
    n: i + 1,
    x_mm: -9 + 6 * (i % 3),
    y_mm: i < 3 ? -4 : 4,
    width_mm: 6,
    height_mm: 8,
    covers: [],
  }))
  const plan = {
    presses,
    strokes: [],
    note: '',
    corner: [],
    stroke: 'same_way' as const,
    by_face: false,
    left_out: [],
  }
  it('gives each number a corner of its own, and draws the one that is due over the rest', () => {
    const wrapper = mount(MountMap, { props: { spots: [], view, plan, reached: 1 } })
    const numbers = wrapper.findAll('.number')
    const at = numbers.map((n) => (n.attributes('transform') ?? '').match(/-?[\d.]+/g)?.map(Number) ?? [])
    const apart = at.flatMap(([x = 0, y = 0], i) =>
      at.slice(0, i).map(([u = 0, v = 0]) => Math.hypot(x - u, y - v)),
    )
    expect(Math.min(...apart)).toBeGreaterThan(2)
    expect(numbers.at(-1)?.text()).toBe('2')
  })
})
