import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, expect, test, vi } from 'vitest'
import { defineComponent } from 'vue'
import { useLitScreen } from './useLitScreen'

const Room = defineComponent({ setup: () => useLitScreen(), template: '<p />' })
const release = vi.fn(() => Promise.resolve())

function browserThat(request: () => Promise<unknown>): void {
  Object.defineProperty(navigator, 'wakeLock', { configurable: true, value: { request } })
}

afterEach(() => {
  Reflect.deleteProperty(navigator, 'wakeLock')
  release.mockClear()
})

test('the screen is held while the view is open, asked anew when seen again, and let go after', async () => {
  const request = vi.fn(() => Promise.resolve({ release }))
  browserThat(request)
  const room = mount(Room)
  await flushPromises()
  expect(request).toHaveBeenCalledWith('screen')
  document.dispatchEvent(new Event('visibilitychange'))
  await flushPromises()
  expect(request).toHaveBeenCalledTimes(2)
  room.unmount()
  expect(release).toHaveBeenCalledTimes(1)
  document.dispatchEvent(new Event('visibilitychange'))
  expect(request).toHaveBeenCalledTimes(2)
})

test('a view left before the browser answered lets go at once', async () => {
  browserThat(() => Promise.resolve({ release }))
  mount(Room).unmount()
  await flushPromises()
  expect(release).toHaveBeenCalledTimes(1)
})

test('a browser that refuses or has no such thing changes nothing', async () => {
  mount(Room).unmount()
  browserThat(() => Promise.reject(new Error('battery low')))
  const room = mount(Room)
  await flushPromises()
  expect(room.html()).toBe('<p></p>')
})
