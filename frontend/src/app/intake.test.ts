import { flushPromises, mount, RouterLinkStub } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import { provideIntake, useAim, type Intake } from '@/shared/composables/useIntake'
import { useFileDrop } from '@/shared/composables/useFileDrop'
import { freshCache, serving } from './stage'
import UploadTray from './UploadTray.vue'

const sent: string[] = []
class Sent {
  upload = { onprogress: null }
  status = 201
  responseText = ''
  onload: (() => void) | null = null
  private url = ''
  open(_method: string, url: string): void {
    this.url = url
  }
  setRequestHeader(): void {
    /* goes nowhere */
  }
  send(): void {
    sent.push(this.url)
    this.responseText = JSON.stringify({ frame: { id: sent.length }, new: true, job: null })
    this.onload?.()
  }
}

const file = (name: string): File => new File(['x'], name)
const found = (id: number, visit: number | null) => ({
  frame: { id, name: `${id}.jpg` },
  visits: visit === null ? [] : [{ visit_id: visit, body_id: 1, body_name: 'Study', state: 'open' }],
})

let intake: Intake
let router: Router
function page() {
  const Empty = defineComponent({ setup: () => () => h('div') })
  router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/', name: 'bench', component: Empty },
      { path: '/jobs', name: 'jobs', component: Empty },
      { path: '/frames/:id', name: 'frame', component: Empty },
      { path: '/visits/:id', name: 'visit', component: Empty },
    ],
  })
  return mount(
    defineComponent({
      setup: () => {
        intake = provideIntake()
        return () => h(UploadTray)
      },
    }),
    { global: { plugins: [PrimeVue, router, freshCache()], stubs: { RouterLink: RouterLinkStub } } },
  )
}

beforeEach(() => {
  sent.length = 0
  vi.stubGlobal('XMLHttpRequest', Sent)
})
afterEach(() => vi.unstubAllGlobals())

describe('the intake', () => {
  it('leads one frame to the visit it joined, else to the question whose it is', async () => {
    serving({ 'GET /api/frames/1': [200, found(1, 7)], 'GET /api/frames/2': [200, found(2, null)] })
    const view = page()
    await router.push('/')
    intake.take([file('a.jpg')])
    await flushPromises()
    expect(sent[0]).toContain('find_camera=true')
    expect(router.currentRoute.value.fullPath).toBe('/visits/7')
    intake.take([file('b.jpg')])
    await flushPromises()
    expect(router.currentRoute.value.fullPath).toBe('/frames/2')
    expect(view.text()).toBe('')
  })
  it('tells of several in the tray, and leads nowhere by itself', async () => {
    serving({ 'GET /api/frames/1': [200, found(1, 7)], 'GET /api/frames/2': [200, found(2, null)] })
    const view = page()
    await router.push('/jobs')
    intake.take([file('a.jpg'), file('b.jpg')])
    await flushPromises()
    expect(router.currentRoute.value.fullPath).toBe('/jobs')
    expect(view.text()).toContain('1.jpg is on the visit of Study.')
    expect(view.text()).toContain('2.jpg is measured. Which camera is it?')
    intake.seen(1)
    intake.seen(2)
    await flushPromises()
    expect(view.find('.tray').exists()).toBe(false)
  })
  it('sends to where the page in sight aims, and anywhere once it is left', async () => {
    serving({})
    const view = page()
    await router.push('/')
    const aiming = mount(
      defineComponent({
        setup: () => {
          useAim(() => ({ visit: 5 }))
          return () => h('div')
        },
      }),
      { global: { provide: { ...provided(view) } } },
    )
    intake.take([file('a.jpg')])
    aiming.unmount()
    intake.take([file('b.jpg')])
    await flushPromises()
    expect(sent[0]).toContain('&visit=5')
    expect(sent[1]).toContain('find_camera=true')
  })
})

/** What a mounted page provides to what is within it. */
function provided(view: ReturnType<typeof page>): Record<symbol, unknown> {
  return (view.vm.$ as unknown as { provides: Record<symbol, unknown> }).provides
}

describe('files over the page', () => {
  const event = (name: string, types: string[], files: File[] = []): Event =>
    Object.assign(new Event(name, { cancelable: true }), { dataTransfer: { types, files } })
  it('are seen, held and taken wherever they are dropped; text is not', () => {
    const take = vi.fn()
    let over = { value: false }
    const wrapper = mount(
      defineComponent({
        setup: () => {
          over = useFileDrop(take).over
          return () => h('div')
        },
      }),
    )
    window.dispatchEvent(event('dragenter', ['text/plain']))
    expect(over.value).toBe(false)
    window.dispatchEvent(event('dragenter', ['Files']))
    expect(over.value).toBe(true)
    window.dispatchEvent(event('dragleave', ['Files']))
    expect(over.value).toBe(false)
    const dropped = event('drop', ['Files'], [file('a.jpg')])
    window.dispatchEvent(dropped)
    expect(dropped.defaultPrevented).toBe(true)
    expect(take).toHaveBeenCalledWith([expect.any(File)])
    wrapper.unmount()
    window.dispatchEvent(event('drop', ['Files'], [file('b.jpg')]))
    expect(take).toHaveBeenCalledTimes(1)
  })
})
