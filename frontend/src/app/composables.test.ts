import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref, type Ref } from 'vue'
import type { Guide, GuideLength, Visit } from '@/api/client'
import { freshCache } from './stage'
import { useArchive } from '@/features/frames/useArchive'
import { placedIn, type Instruction } from '@/features/hands/hands'
import { useHands } from '@/features/hands/useHands'
import { useMount } from '@/shared/composables/useMount'
import { useOpenVisits } from '@/features/frames/useOpenVisits'
import { useUploads } from '@/shared/composables/useUploads'
import { interrupted } from '@/shared/lib/stream'
import { useVisit } from '@/features/visit/useVisit'

/** Run a composable inside a component, so that it is cleaned up with it. */
function within<T>(use: () => T): { result: T; end: () => void } {
  let result!: T
  const wrapper = mount(
    defineComponent({
      setup: () => {
        result = use()
        return () => h('div')
      },
    }),
    { global: { plugins: [freshCache()] } },
  )
  return { result, end: () => wrapper.unmount() }
}

class Stream {
  static all: Stream[] = []
  static readonly CLOSED = 2
  closed = false
  readyState = 0
  onopen: (() => void) | null = null
  onerror: (() => void) | null = null
  private heard = new Map<string, (event: { data: string }) => void>()
  constructor(readonly url: string) {
    Stream.all.push(this)
  }
  addEventListener(name: string, run: (event: { data: string }) => void): void {
    this.heard.set(name, run)
  }
  close(): void {
    this.closed = true
  }
  /** An event of the stream's own kind, or of another. */
  say(data: unknown, name = this.url.includes('visit=') ? 'visit' : 'job'): void {
    this.heard.get(name)?.({ data: JSON.stringify(data) })
  }
}

function answering(...bodies: [number, unknown][]): ReturnType<typeof vi.fn> {
  const calls = vi.fn()
  for (const [status, body] of bodies) {
    calls.mockImplementationOnce(() =>
      Promise.resolve(
        new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } }),
      ),
    )
  }
  calls.mockImplementation(() =>
    Promise.resolve(
      new Response(JSON.stringify(bodies[bodies.length - 1]?.[1]), {
        status: 200,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
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
  it('asks anew when it is told of a change while the first answer is on its way', async () => {
    const reply = (version: number) =>
      new Response(JSON.stringify({ id: 3, version, jobs: [] }), {
        headers: { 'Content-Type': 'application/json' },
      })
    let slow: (answer: Response) => void = () => undefined
    const calls = vi
      .fn()
      .mockImplementationOnce(() => new Promise<Response>((resolve) => (slow = resolve)))
      .mockImplementation(() => Promise.resolve(reply(2)))
    vi.stubGlobal('fetch', calls)
    const { result, end } = within(() => useVisit(ref(3)))
    await flushPromises()
    Stream.all[0]?.say({ version: 2 })
    await flushPromises()
    slow(reply(1))
    await flushPromises()
    expect(calls).toHaveBeenCalledTimes(2)
    expect(result.visit.value?.version).toBe(2)
    end()
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

describe('what is edited in two places', () => {
  it('is not overwritten: the newer one is fetched and the refusal shown', async () => {
    const calls = answering(
      [200, { id: 3, version: 1, jobs: [] }],
      [409, { type: 'neatpatch:changed', detail: 'This was changed elsewhere.' }],
      [200, { id: 3, version: 2, jobs: [] }],
    )
    const { result, end } = within(() => useVisit(ref(3)))
    await flushPromises()
    expect(await result.setConditions({} as Visit['conditions'], 4)).toBe(false)
    expect((calls.mock.calls[1]?.[0] as Request).headers.get('if-match')).toBe('4')
    expect(result.error.value).toBe('This was changed elsewhere.')
    expect(result.visit.value?.version).toBe(2)
    end()
  })
  it('is logged once however often it is pressed', async () => {
    const calls = answering([200, { id: 3, version: 1, jobs: [] }], [201, { id: 3, version: 2, jobs: [] }])
    const { result, end } = within(() => useVisit(ref(3)))
    await flushPromises()
    const both = await Promise.all([result.addStep('air', {}), result.addStep('air', {})])
    expect(both).toEqual([true, false])
    expect(calls).toHaveBeenCalledTimes(2)
    end()
  })
})

describe('useUploads', () => {
  class Sent {
    static all: Sent[] = []
    upload = { onprogress: null }
    status = 201
    responseText = ''
    onload: (() => void) | null = null
    aborted = false
    constructor() {
      Sent.all.push(this)
    }
    open(): void {
      /* goes nowhere */
    }
    setRequestHeader(): void {
      /* goes nowhere */
    }
    send(): void {
      /* goes nowhere */
    }
    abort(): void {
      this.aborted = true
    }
    answer(body: unknown): void {
      this.responseText = JSON.stringify(body)
      this.onload?.()
    }
  }
  const accepted = (isNew: boolean) => ({ frame: { id: 9 }, new: isNew, job: { id: 5, state: 'queued' } })

  function started(isNew = true) {
    Sent.all = []
    vi.stubGlobal('XMLHttpRequest', Sent)
    const ready = vi.fn()
    const run = within(() => useUploads(ready))
    run.result.add([new File(['x'], 'a.jpg')])
    Sent.all[0]?.answer(accepted(isNew))
    return { ...run, ready }
  }

  it('shows the map as soon as it is there, the picture still being made', () => {
    answering([200, {}])
    const { result, ready, end } = started()
    Stream.all[0]?.say({ id: 5, state: 'running', step: 'measuring', progress: 0.4, mapped: false })
    expect(ready).not.toHaveBeenCalled()
    Stream.all[0]?.say({ id: 5, state: 'running', step: 'picture', progress: 0.75, mapped: true })
    expect(ready).toHaveBeenCalledWith(9, true, {})
    expect(result.uploads.value).toEqual([])
    end()
  })
  it('ends with its view: what arrives later leads nowhere', () => {
    answering([200, {}])
    const { ready, end } = started()
    const stream = Stream.all[0]
    end()
    expect(stream?.closed).toBe(true)
    stream?.say({ id: 5, state: 'done', step: 'done', progress: 1, mapped: true })
    expect(ready).not.toHaveBeenCalled()
  })
  it('lets what is still being sent arrive, without following it', () => {
    Sent.all = []
    vi.stubGlobal('XMLHttpRequest', Sent)
    const ready = vi.fn()
    const { result, end } = within(() => useUploads(ready))
    result.add([new File(['x'], 'a.jpg')])
    end()
    Sent.all[0]?.answer(accepted(true))
    expect(Sent.all[0]?.aborted).toBe(false)
    expect(Stream.all).toEqual([])
    expect(ready).not.toHaveBeenCalled()
  })
  it('sends two at a time in their order, the others wait and can be taken back', () => {
    Sent.all = []
    vi.stubGlobal('XMLHttpRequest', Sent)
    const { result, end } = within(() => useUploads(vi.fn()))
    result.add([1, 2, 3, 4, 5].map((n) => new File(['x'], `${n}.jpg`)))
    const states = () => result.uploads.value.map((u) => `${u.name} ${u.state}`)
    expect(Sent.all.length).toBe(2)
    expect(states()).toEqual([
      '1.jpg sending',
      '2.jpg sending',
      '3.jpg waiting',
      '4.jpg waiting',
      '5.jpg waiting',
    ])
    result.uploads.value[2]?.cancel()
    expect(states()).not.toContain('3.jpg waiting')
    Sent.all[0]?.answer({ ...accepted(true), job: null })
    expect(Sent.all.length).toBe(3)
    expect(states()).toEqual(['2.jpg sending', '4.jpg sending', '5.jpg waiting'])
    result.uploads.value[0]?.cancel()
    expect(Sent.all[1]?.aborted).toBe(true)
    expect(states()).toEqual(['4.jpg sending', '5.jpg sending'])
    end()
  })
  it('follows a dozen frames by one stream', () => {
    Sent.all = []
    vi.stubGlobal('XMLHttpRequest', Sent)
    const ready = vi.fn()
    const { result, end } = within(() => useUploads(ready))
    result.add(Array.from({ length: 12 }, (_, n) => new File(['x'], `${n}.jpg`)))
    for (let n = 0; n < 12; n++)
      Sent.all[n]?.answer({ frame: { id: n }, new: true, job: { id: 100 + n, state: 'queued' } })
    expect(Stream.all.length).toBe(1)
    for (let n = 0; n < 12; n++)
      Stream.all[0]?.say({ id: 100 + n, state: 'done', step: 'done', progress: 1, mapped: true })
    expect(ready).toHaveBeenCalledTimes(12)
    expect(result.uploads.value).toEqual([])
    expect(Stream.all[0]?.closed).toBe(true)
    end()
  })
  it('asks again after a break, and for what ended meanwhile', async () => {
    vi.useFakeTimers()
    answering([200, { id: 5, state: 'done', step: 'done', progress: 1, mapped: true }])
    const { ready, end } = started()
    const first = Stream.all[0]
    if (!first) throw new Error('no stream')
    first.readyState = 2
    first.onerror?.()
    expect(interrupted.value).toBe(true)
    vi.advanceTimersByTime(2500)
    expect(Stream.all.length).toBe(2)
    Stream.all[1]?.onopen?.()
    expect(interrupted.value).toBe(false)
    vi.useRealTimers()
    await flushPromises()
    expect(ready).toHaveBeenCalledWith(9, true, {})
    end()
  })
  it('keeps a frame that could not be measured, to be tried again', async () => {
    const calls = answering([200, { id: 6, state: 'queued' }])
    const { result, end } = started()
    Stream.all[0]?.say({ id: 5, state: 'failed', error: 'cut short.', mapped: false })
    expect(result.uploads.value[0]).toMatchObject({ state: 'failed', error: 'Cut short.', frameId: 9 })
    result.uploads.value[0]?.retry()
    await flushPromises()
    expect((calls.mock.calls[0]?.[0] as Request).url).toContain('/api/frames/9/measure')
    expect(result.uploads.value[0]?.state).toBe('measuring')
    end()
  })
  it.each([
    [true, ['DELETE']],
    [false, []],
  ])('takes back by its own Cancel what it brought, new: %s', async (isNew, methods) => {
    const calls = answering([200, {}])
    const { result, end } = started(isNew)
    result.uploads.value[0]?.cancel()
    await flushPromises()
    expect(calls.mock.calls.map(([request]) => (request as Request).method)).toEqual(methods)
    expect(result.uploads.value).toEqual([])
    end()
  })
})

describe('useArchive', () => {
  it('shows older frames page by page and keeps them while the newest are looked at again', async () => {
    const frame = (id: number) => ({ id, name: `${id}.jpg` })
    const calls = answering(
      [200, { frames: [frame(3), frame(2)], total: 3, open_jobs: [], trouble: null }],
      [200, { frames: [frame(1)], total: 3, open_jobs: [] }],
      [200, { frames: [frame(4), frame(3)], total: 4, open_jobs: [], trouble: null }],
    )
    const { result, end } = within(() => useArchive())
    await flushPromises()
    expect(result.left.value).toBe(1)
    await result.more()
    expect((calls.mock.calls[1]?.[0] as Request).url).toContain('first=2')
    expect(result.left.value).toBe(0)
    await result.load()
    expect(result.archive.value?.frames.map((f) => f.id)).toEqual([4, 3, 1])
    end()
  })
  it('asks anew for what is wanted, and forgets the older ones of another order', async () => {
    const page = (ids: number[]) => ({ frames: ids.map((id) => ({ id })), total: 3, open_jobs: [] })
    const calls = answering([200, page([3, 2])], [200, page([1])], [200, page([2])])
    const { result, end } = within(() => useArchive())
    await flushPromises()
    await result.more()
    result.wanted.value = { words: 'stand', only: 'loose', order: 'spots' }
    await flushPromises()
    expect((calls.mock.calls[2]?.[0] as Request).url).toContain('words=stand&only=loose&order=spots')
    expect(result.archive.value?.frames.map((f) => f.id)).toEqual([2])
    end()
  })
})

describe('useHands', () => {
  const guide = (): Ref<Guide | null> =>
    ref({
      length: 'full',
      instructions: [
        { text: 'open', opens: true, timer_s: null, count: null },
        { text: 'wait', timer_s: 3, count: 'runs' },
        { text: 'close', closes: true },
      ],
    } as unknown as Guide)

  it('runs the open-camera clock and the timers, and pauses both', () => {
    vi.useFakeTimers()
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
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
  const placed = (version: number, at: number, more: Record<string, unknown> = {}) => ({
    place: {
      step: 'air',
      version,
      age_s: 30,
      position: { at, counts: { 1: 2 }, open_s: 10, up_s: 0, paused: false, log_key: 'same-key-1', ...more },
    },
  })
  it('goes on where any device left off, its clock having run on', async () => {
    const calls = answering([200, placed(4, 1)], [200, placed(5, 2)])
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
    await flushPromises()
    expect(result.ready.value).toBe(true)
    expect(result.progress.value).toMatchObject({ at: 1, openS: 40 })
    expect(result.count.value).toBe(2)
    expect(result.logKey.value).toBe('same-key-1')
    result.next()
    await flushPromises()
    const sent = calls.mock.calls[1]?.[0] as Request
    expect([sent.method, sent.url]).toEqual(['PUT', expect.stringContaining('/api/visits/3/hands/air')])
    end()
  })
  it('begins anew what was left half a day ago', async () => {
    const old = placed(4, 1)
    answering([200, { place: { ...old.place, age_s: 50_000 } }])
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
    await flushPromises()
    expect(result.progress.value).toEqual({ at: 0, counts: {}, openS: 0, upS: 0 })
    expect(result.ready.value).toBe(true)
    end()
  })
  it('follows another device, and never its own echo', async () => {
    const calls = answering(
      [200, { place: null }],
      [200, placed(1, 1)],
      [200, placed(2, 2, { paused: true })],
    )
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
    await flushPromises()
    result.next()
    await flushPromises()
    result.heard(1)
    await flushPromises()
    expect(calls).toHaveBeenCalledTimes(2)
    result.heard(2)
    await flushPromises()
    expect(result.progress.value.at).toBe(2)
    expect(result.paused.value).toBe(true)
    end()
  })
  it('sends again what could not be told, and says so', async () => {
    vi.useFakeTimers()
    const calls = answering([200, { place: null }], [500, { detail: 'away' }], [200, placed(1, 1)])
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
    await vi.advanceTimersByTimeAsync(0)
    result.next()
    await vi.advanceTimersByTimeAsync(100)
    expect(result.unsaved.value).toBe(true)
    await vi.advanceTimersByTimeAsync(3000)
    expect(result.unsaved.value).toBe(false)
    expect(calls).toHaveBeenCalledTimes(3)
    end()
  })
  it('takes a place over in the length of guide it counts in', async () => {
    answering([200, placed(4, 1, { short: true })])
    const asked = ref<GuideLength>()
    const shown = guide()
    const { result, end } = within(() => useHands(shown, ref(3), 'air', asked))
    await flushPromises()
    expect(asked.value).toBe('short')
    expect(result.ready.value).toBe(false)
    expect(result.progress.value.at).toBe(0)
    const screens = [
      { text: 'open, wait', opens: true },
      { text: 'close', closes: true },
    ]
    shown.value = { length: 'short', instructions: screens } as unknown as Guide
    await flushPromises()
    expect(result.ready.value).toBe(true)
    expect(result.progress.value.at).toBe(1)
    end()
  })
  it('takes over a place that was told before the instructions came', async () => {
    answering([200, placed(4, 1, { short: true })])
    const shown = ref<Guide | null>(null)
    const { result, end } = within(() => useHands(shown, ref(3), 'air', ref(undefined)))
    result.heard(4)
    await flushPromises()
    const screens = [
      { text: 'open, wait', opens: true },
      { text: 'close', closes: true },
    ]
    shown.value = { length: 'short', instructions: screens } as unknown as Guide
    await flushPromises()
    expect(result.progress.value.at).toBe(1)
    expect(result.ready.value).toBe(true)
    end()
  })
  it('keeps its place and its counts when the length changes', () => {
    const air = { count: 'puffs', shows_plan: true, acts: ['air'], first: 0 }
    const full = [
      { acts: ['gather'] },
      { acts: ['open'] },
      air,
      { acts: ['close'] },
    ] as unknown as Instruction[]
    const short = [
      { ...air, acts: ['gather', 'open', 'air'] },
      { acts: ['close'] },
    ] as unknown as Instruction[]
    const at = (n: number) => ({ at: n, counts: { 2: 5 }, openS: 9, upS: 0 })
    expect(placedIn(at(2), full, short)).toEqual({ at: 0, counts: { 0: 5 }, openS: 9, upS: 0 })
    expect(placedIn(at(3), full, short).at).toBe(1)
    expect(placedIn(at(4), full, short).at).toBe(2)
    expect(placedIn({ ...at(1), counts: { 0: 4 } }, short, full)).toMatchObject({ at: 3, counts: { 2: 4 } })
  })
  it('is silent where the browser cannot speak', () => {
    const { result, end } = within(() => useHands(guide(), ref(3), 'air', ref(undefined)))
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
