import { API } from '@/api/root'
import { ref } from 'vue'
import { answer, api, type Job } from '@/api/client'

/** The page's one event stream. Browsers allow six connections to a server; a stream each for a dozen
 * frames would leave none for anything else. It is open while anything is followed. */

type Heard = (job: Job) => void
interface VisitHeard {
  visit: (version: number) => void
  hands: (version: number | null) => void
}

const AGAIN_MS = 2000
const jobs = new Map<number, Set<Heard>>()
const ended = new Map<number, Job>()
let visit: { id: number; heard: VisitHeard } | null = null
let stream: EventSource | null = null
let address = ''
let again: ReturnType<typeof setTimeout> | null = null

/** Whether the connection is interrupted; it comes back by itself. */
export const interrupted = ref(false)

const isOver = (job: Job): boolean => job.state !== 'queued' && job.state !== 'running'

/** Tell of a job until it is let go: also of one that ended before anybody asked. */
export function followJob(id: number, heard: Heard): () => void {
  const all = jobs.get(id) ?? new Set()
  jobs.set(id, all.add(heard))
  const known = ended.get(id)
  if (known) queueMicrotask(() => all.has(heard) && heard(known))
  keepOpen()
  return () => {
    all.delete(heard)
    if (!all.size && jobs.get(id) === all) jobs.delete(id)
    keepOpen()
  }
}

/** Tell of the visit that this page has open: one at a time, the last one counts. */
export function followVisit(id: number, heard: VisitHeard): () => void {
  const mine = { id, heard }
  visit = mine
  keepOpen()
  return () => {
    if (visit === mine) visit = null
    keepOpen()
  }
}

function keepOpen(): void {
  const wanted = jobs.size || visit ? `${API}/events${visit ? `?visit=${visit.id}` : ''}` : ''
  if (wanted === address) return
  close()
  address = wanted
  if (wanted) open()
}

function close(): void {
  if (again) clearTimeout(again)
  again = null
  stream?.close()
  stream = null
  interrupted.value = false
}

function open(): void {
  const mine = (stream = new EventSource(address))
  mine.onopen = () => {
    interrupted.value = false
    void catchUp()
  }
  mine.onerror = () => {
    if (stream !== mine) return
    interrupted.value = true
    // A browser asks again by itself, but not after an answer that was no stream.
    if (mine.readyState === EventSource.CLOSED) again = setTimeout(open, AGAIN_MS)
  }
  const on = <Told>(name: string, run: (told: Told) => void): void =>
    mine.addEventListener(name, (event: MessageEvent<string>) => {
      if (stream === mine) run(JSON.parse(event.data) as Told)
    })
  on<Job>('job', tell)
  on<{ version: number }>('visit', (told) => visit?.heard.visit(told.version))
  on<{ version: number | null }>('hands', (told) => visit?.heard.hands(told.version))
}

function tell(job: Job): void {
  if (isOver(job)) ended.set(job.id, job)
  for (const heard of [...(jobs.get(job.id) ?? [])]) heard(job)
}

/** What ended while nothing was heard is asked for. */
async function catchUp(): Promise<void> {
  for (const job_id of [...jobs.keys()]) {
    try {
      tell(await answer(api.GET('/api/jobs/{job_id}', { params: { path: { job_id } } })))
    } catch {
      // Its frame was removed meanwhile, or the connection went again: nothing to tell.
    }
  }
}
