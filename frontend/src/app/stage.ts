/** What tests of views stand on: a server that answers, a mounted view, a body in a list. */
import { flushPromises, mount, RouterLinkStub, type VueWrapper } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import PrimeVue from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import { vi } from 'vitest'
import { ref, type Component } from 'vue'
import { INTAKE, type Intake } from '@/shared/composables/useIntake'
import { freshBody } from '@/shared/lib/bodies'

export type Answer = [number, unknown]
export interface Call {
  method: string
  path: string
  search: string
  body: unknown
  headers: Record<string, string>
}
/** What a view asked for, the newest last. */
export const calls: Call[] = []

/** A server that answers by method and path; what is not listed is not there. */
export function serving(routes: Record<string, Answer>): void {
  calls.length = 0
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname: path, search } = new URL(request.url, 'http://localhost')
    const text = await request.text()
    calls.push({
      method: request.method,
      path,
      search,
      body: text ? JSON.parse(text) : null,
      headers: Object.fromEntries(request.headers),
    })
    const [status, body] = routes[`${request.method} ${path}`] ?? [404, { detail: `nothing at ${path}` }]
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
  })
}

/** A stream of events on which nothing is ever said. */
export class Silent {
  addEventListener(): void {
    /* nothing is ever said */
  }
  close(): void {
    /* nothing to close */
  }
}

/** The cache of a page just opened: nothing known yet, and nothing asked twice. */
export function freshCache(): [typeof VueQueryPlugin, { queryClient: QueryClient }] {
  const queries = { retry: false, networkMode: 'always' } as const
  return [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries } }) }]
}

/** An intake that takes nothing in, but tells what it was given. */
export const intake: Intake = {
  uploads: ref([]),
  landed: ref([]),
  aim: ref({}),
  take: vi.fn(),
  dismiss: vi.fn(),
  seen: vi.fn(),
}

export const global = {
  plugins: [PrimeVue, ConfirmationService],
  provide: { [INTAKE as symbol]: intake },
  stubs: { RouterLink: RouterLinkStub, teleport: true, transition: false, VisitMap: true, SensorMap: true },
}

export async function shown(view: Component, props: Record<string, unknown> = {}): Promise<VueWrapper> {
  const plugins = [...global.plugins, freshCache()]
  const wrapper = mount(view, { props, global: { ...global, plugins }, attachTo: document.body })
  await flushPromises()
  return wrapper
}

export function button(wrapper: VueWrapper, label: string) {
  const found = wrapper
    .findAll('button')
    .find((b) => b.text().includes(label) || b.attributes('aria-label') === label)
  if (!found) throw new Error(`no button ${label}`)
  return found
}

/** A body as a list gives it. */
export const listed = (values: Record<string, unknown> = {}) => ({
  id: 4,
  version: 1,
  body: { ...freshBody(), name: 'Study' },
  demo: false,
  virtual: false,
  open_visit_id: null,
  visits: 2,
  last_closed_at: '2026-06-08T10:00:00',
  last_verdict: 'given_up',
  last_relevant: 3,
  ...values,
})
