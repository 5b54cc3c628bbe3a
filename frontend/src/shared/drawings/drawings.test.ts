import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import SceneDrawing from './SceneDrawing.vue'
import { GLASS, reach, SHAPES, type Access, type Scene } from './camera'
import { TOOLS } from './tools'

const scene = (values: Partial<Scene>): Scene => ({
  act: 'touch',
  access: 'mirrorless',
  lies: 'back',
  was: 'cap',
  mouth: 'open',
  mirror: null,
  covered: false,
  power: 'off',
  tool: 'wet_swab',
  fluid: 'even',
  count: 2,
  stroke: 'same_way',
  words: 'The camera on its back: the swab, tilted.',
  ...values,
})
const ACTS: Scene['act'][] = [
  ...(['wash', 'gather', 'power_on', 'power_off', 'battery_out', 'menu_open', 'latch_up'] as const),
  ...(['latch_down', 'lens_to_cap', 'lay_back', 'turn_down', 'clear', 'charge', 'ready_tip'] as const),
  ...(['unwrap', 'fold', 'open', 'look', 'wet', 'even', 'air', 'touch', 'sheen', 'close'] as const),
  ...(['lens_look', 'lens_air', 'lens_brush', 'lens_wipe', 'lens_on', 'shake', 'retest'] as const),
]
const ACCESSES = Object.keys(SHAPES) as Access[]

describe('SceneDrawing', () => {
  it('draws every act on every kind of camera, and says what it shows', () => {
    for (const access of ACCESSES)
      for (const act of ACTS) {
        const mirror = access === 'mirror' ? 'up' : null
        const view = mount(SceneDrawing, { props: { scene: scene({ act, access, mirror }) } })
        expect(view.attributes('aria-label')).toBe('The camera on its back: the swab, tilted.')
        expect(view.findAll('path').length, `${act} ${access}`).toBeGreaterThan(2)
        expect(view.html()).not.toMatch(/NaN|undefined/)
        view.unmount()
      }
  })
  it('draws every tool of the kit', () => {
    for (const tool of Object.keys(TOOLS) as NonNullable<Scene['tool']>[]) {
      const view = mount(SceneDrawing, { props: { scene: scene({ act: 'gather', tool }) } })
      expect(view.html()).not.toMatch(/NaN|undefined/)
      view.unmount()
    }
  })
  it('shows a mirror up or down as the camera has it, and a shutter only where one covers', () => {
    const down = mount(SceneDrawing, {
      props: { scene: scene({ act: 'wash', access: 'mirror', mirror: 'down' }) },
    })
    const up = mount(SceneDrawing, {
      props: { scene: scene({ act: 'wash', access: 'mirror', mirror: 'up' }) },
    })
    expect(down.find('.mirror').attributes('d')).not.toBe(up.find('.mirror').attributes('d'))
    expect(up.find('.shutter').exists()).toBe(false)
    const shut = mount(SceneDrawing, { props: { scene: scene({ act: 'wash', covered: true }) } })
    expect(shut.find('.shutter').exists()).toBe(true)
  })
  it('puts as many drops as are meant', () => {
    for (const count of [1, 3]) {
      const view = mount(SceneDrawing, { props: { scene: scene({ act: 'wet', count }) } })
      expect(view.findAll('.drop')).toHaveLength(count)
    }
  })
})

describe('reach', () => {
  it('keeps a tilted handle off the mount, the more so the deeper the glass lies', () => {
    for (const access of ACCESSES) {
      const [from, to] = reach(access, 30)
      const { glass, throat } = SHAPES[access]
      expect(from).toBeGreaterThanOrEqual(-GLASS.along)
      expect(to + glass * Math.tan(Math.PI / 6)).toBeLessThan(throat)
    }
    expect(reach('mirror', 30)[1]).toBeLessThan(reach('mirrorless', 30)[1])
    expect(reach('mirror', 0)[1]).toBeGreaterThan(reach('mirror', 30)[1])
  })
})
