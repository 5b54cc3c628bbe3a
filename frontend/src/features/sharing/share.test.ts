import { RouterLinkStub } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { button, serving, shown, Silent, type Answer } from '@/app/stage'
import ShareView from './ShareView.vue'

vi.mock('vue-router', async (original) => ({
  ...(await original<typeof import('vue-router')>()),
  useRouter: () => ({ push: vi.fn(), back: vi.fn() }),
  RouterLink: RouterLinkStub,
}))

const ada = { id: 1, name: 'Ada', label: '', role: 'helper', paired_at: '2026-11-27T12:00:00Z' }
const state = (waiting: boolean, devices: unknown[] = []) => ({
  ...{ on: true, url: 'https://192.0.2.1:1', fingerprint: 'AB', waiting, devices },
})

beforeEach(() => {
  vi.stubGlobal('EventSource', Silent)
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('sees who came in though the code was spent before the device was written down', async () => {
  const offer = {
    ...{ code: '123456', role: 'helper', url: 'https://192.0.2.1:1/pair', qr: 'data:,' },
    expires_at: new Date(Date.now() + 120_000).toISOString(),
  }
  const routes: Record<string, Answer> = {
    'GET /api/sharing': [200, state(false)],
    'POST /api/sharing/offers': [200, offer],
  }
  serving(routes)
  const view = await shown(ShareView, { visit: 1 })
  await button(view, 'Show the code').trigger('click')
  await vi.waitFor(() => {
    expect(view.text()).toContain('123 456')
  })
  routes['GET /api/sharing'] = [200, state(false, [ada])]
  await vi.advanceTimersByTimeAsync(4000)
  expect(view.text()).toContain('Ada is in, as helper.')
  view.unmount()
})
