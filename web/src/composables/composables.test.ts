import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref, type Ref } from 'vue'
import type { Guide } from '../api/client'
import { useHands } from './useHands'
import { useMount } from './useMount'
import { useOpenVisits } from './useOpenVisits'
import { useVisit } from './useVisit'

/** Run a composable inside a component, so that it is cleaned up with it. */
function within<T>(use: () => T): { result: T; end: () => void } {
  let result!: T
  const wrapper = mount(defineComponent({ setup: () => { result = use(); return () => h('div') } }))
  return { result, end: () => wrapper.unmount() }
}

class Stream {
  static all: Stream[] = []
  closed = false
  private heard: ((event: { data: string }) => void) | null = null
  constructor(readonly url: string) { Stream.all.push(this) }
  addEventListener(_name: string, run: (event: { data: string }) => void): void { this.heard = run }
  close(): void { this.closed = true }
  say(data: unknown): void { this.heard?.({ data: JSON.stringify(data) }) }
}

function answering(...bodies: [number, unknown][]): ReturnType<typeof vi.fn> {
  const calls = vi.fn()
  for (const [status, body] of bodies) {
    calls.mockImplementationOnce(() => Promise.resolve(new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })))
  }
  calls.mockImplementation(() => Promise.resolve(new Response(JSON.stringify(bodies[bodies.length - 1]?.[1]), { status: 200, headers: { 'Content-Type': 'application/json' } })))
  vi.stubGlobal('fetch', calls)
  return calls
}

beforeEach(() => {
  Stream.all = []
  vi.stubGlobal('EventSource', Stream)
  sessionStorage.clear()
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

describe('useVisit', () => {
  it('loads, follows the version of other pages, and lets go with its page', async () => {
    const calls = answering([200, { id: 3, version: 1, jobs: [] }])
    const { result, end } = within(() => useVisit(ref(3)))
    await flushPromises()
    expect(result.visit.value?.version).toBe(1)
    const before = calls.mock.calls.length
    Stream.all[0]?.say({ version: 1 })
    await flushPromises()
    expect(calls.mock.calls.length).toBe(before)
    Stream.all[0]?.say({ version: 2 })
    await flushPromises()
    expect(calls.mock.calls.length).toBe(before + 1)
    end()
    expect(Stream.all[0]?.closed).toBe(true)
  })
  it('shows the reason of a refusal and keeps what it had', async () => {
    answering([200, { id: 3, version: 1, jobs: [] }], [409, { detail: 'Give the reason.' }])
    const { result, end } = within(() => useVisit(ref(3)))
    await flushPromises()
    expect(await result.addStep('wet_swab', {})).toBe(false)
    expect(result.error.value).toBe('Give the reason.')
    expect(result.visit.value?.version).toBe(1)
    expect(result.busy.value).toBe(false)
    end()
  })
})

describe('useHands', () => {
  const guide = (): Ref<Guide | null> => ref({
    instructions: [
      { text: 'open', opens: true, timer_s: null, count: null }, { text: 'wait', timer_s: 3, count: 'runs' }, { text: 'close', closes: true },
    ],
  } as unknown as Guide) as Ref<Guide | null>

  it('runs the open-camera clock and the timers, and pauses both', () => {
    vi.useFakeTimers()
    const { result, end } = within(() => useHands(guide(), 'k1'))
    expect(result.open.value).toBe(true)
    vi.advanceTimersByTime(2000)
    expect(result.progress.value.openS).toBe(2)
    result.next()
    return Promise.resolve().then(() => {
      expect(result.left.value).toBe(3)
      result.paused.value = true
      vi.advanceTimersByTime(5000)
      expect(result.left.value).toBe(3)
      result.paused.value = false
      vi.advanceTimersByTime(4000)
      expect(result.left.value).toBe(0)
      end()
    })
  })
  it('goes on where a closed page left off', async () => {
    const first = within(() => useHands(guide(), 'k2'))
    first.result.next()
    first.result.more()
    await flushPromises()
    first.end()
    const second = within(() => useHands(guide(), 'k2'))
    expect(second.result.progress.value.at).toBe(1)
    expect(second.result.count.value).toBe(1)
    second.result.forget()
    second.end()
    expect(sessionStorage.getItem('k2')).toBeNull()
  })
  it('is silent where the browser cannot speak', () => {
    const { result, end } = within(() => useHands(guide(), 'k3'))
    expect(result.canSpeak && result.speaks.value).toBe(false)
    end()
  })
})

describe('useMount and useOpenVisits', () => {
  it('asks again for another pose, and tells why there is none', async () => {
    answering([200, { pose: 'top_away', aims: [] }], [409, { detail: 'The sensor size is not known.' }])
    const pose = ref<'top_away' | 'standing'>('top_away')
    const { result, end } = within(() => useMount(ref(1), pose, ref(16), ref(true)))
    await flushPromises()
    expect(result.mount.value?.pose).toBe('top_away')
    pose.value = 'standing'
    await flushPromises()
    expect(result.mount.value).toBeNull()
    expect(result.error.value).toContain('not known')
    end()
  })
  it('keeps the last list when the server is away', async () => {
    answering([200, [{ id: 1, body_name: 'A' }]])
    const { result, end } = within(() => useOpenVisits())
    await flushPromises()
    expect(result.visits.value).toHaveLength(1)
    end()
  })
})
