import { API } from '@/api/root'
import { onScopeDispose, ref } from 'vue'
import { answer, api, OFFLINE, type Accepted, type Job, type Problem } from '@/api/client'
import { capital } from '@/shared/lib/format'
import { followJob } from '@/shared/lib/stream'

export interface Upload {
  key: number
  name: string
  state: 'waiting' | 'sending' | 'measuring' | 'failed'
  progress: number
  step: string
  error: string
  /** The frame, once the server has acknowledged it: from then on it is kept until it is removed. */
  frameId: number | null
  goal: Goal
  cancel: () => void
  retry: () => void
}

/** Where a frame shall go: onto a visit, to a camera, or to the camera it is recognised as. */
export interface Goal {
  visit?: number
  body?: number
  find?: boolean
}

function goalQuery(goal: Goal): string {
  if (goal.visit !== undefined) return `&visit=${goal.visit}`
  if (goal.body !== undefined) return `&body=${goal.body}`
  return goal.find ? '&find_camera=true' : ''
}

const WAITING = 'Waiting its turn'

export const STEP_WORDS: Record<string, string> = {
  reading: 'Reading the file',
  background: 'Finding the even tone',
  detection: 'Looking for shadows',
  measuring: 'Measuring',
  naming: 'Telling kinds apart',
  done: 'Nearly done',
  picture: 'Making the picture',
}

const AT_ONCE = 2
/** Sent at once; the others wait in their order. More would only share the same line, and leave none of
 * the browser's connections for the page. */

/** Send frames in their order, two at a time, and follow their measuring.
 *
 * The following ends with the view: what is still being sent arrives all the same, and is measured,
 * but leads nowhere any more. */
export function useUploads(onReady: (frameId: number, isNew: boolean, goal: Goal) => void) {
  const uploads = ref<Upload[]>([])
  const followed = new Set<() => void>()
  const queue: { upload: Upload; file: File }[] = []
  let sending = 0
  let nextKey = 1
  let gone = false
  onScopeDispose(() => {
    gone = true
    for (const letGo of followed) letGo()
  })

  function arrived(frameId: number, isNew: boolean, goal: Goal): void {
    if (!gone) onReady(frameId, isNew, goal)
  }

  function dismiss(key: number): void {
    uploads.value = uploads.value.filter((u) => u.key !== key)
  }

  function add(files: Iterable<File>, goal: Goal = {}): void {
    for (const file of files) {
      const upload: Upload = {
        key: nextKey++,
        name: file.name,
        state: 'waiting',
        progress: 0,
        step: WAITING,
        error: '',
        frameId: null,
        goal,
        cancel: () => undefined,
        retry: () => undefined,
      }
      uploads.value.push(upload)
      const live = uploads.value[uploads.value.length - 1]
      if (!live) continue
      live.retry = () => enqueue(live, file)
      enqueue(live, file)
    }
  }

  function enqueue(upload: Upload, file: File): void {
    Object.assign(upload, { state: 'waiting', progress: 0, step: WAITING, error: '' })
    const waiting = { upload, file }
    upload.cancel = () => {
      queue.splice(queue.indexOf(waiting), 1)
      dismiss(upload.key)
    }
    queue.push(waiting)
    sendNext()
  }

  function sendNext(): void {
    while (sending < AT_ONCE) {
      const next = queue.shift()
      if (!next) return
      sending += 1
      send(next.upload, next.file)
    }
  }

  function sent(): void {
    sending -= 1
    sendNext()
  }

  function fail(upload: Upload, reason: string): void {
    upload.state = 'failed'
    upload.error = reason
  }

  function send(upload: Upload, file: File): void {
    const request = new XMLHttpRequest()
    Object.assign(upload, { state: 'sending', progress: 0, step: 'Sending', error: '' })
    upload.cancel = () => {
      request.abort()
      dismiss(upload.key)
      sent()
    }
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) upload.progress = (event.loaded / event.total) * 0.3
    }
    request.onerror = () => {
      fail(upload, OFFLINE)
      sent()
    }
    request.onload = () => {
      sent()
      if (request.status >= 400) fail(upload, problemOf(request.responseText))
      else measured(upload, JSON.parse(request.responseText) as Accepted)
    }
    request.open('POST', `${API}/frames?name=${encodeURIComponent(file.name)}${goalQuery(upload.goal)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.send(file)
  }

  function measured(upload: Upload, accepted: Accepted): void {
    upload.frameId = accepted.frame.id
    upload.retry = () => void measureAgain(upload, accepted)
    if (!accepted.job) {
      dismiss(upload.key)
      arrived(accepted.frame.id, accepted.new, upload.goal)
      return
    }
    follow(upload, accepted.job, accepted)
  }

  async function measureAgain(upload: Upload, accepted: Accepted): Promise<void> {
    try {
      const path = { frame_id: accepted.frame.id }
      follow(upload, await answer(api.POST('/api/frames/{frame_id}/measure', { params: { path } })), accepted)
    } catch (problem) {
      fail(upload, (problem as Error).message)
    }
  }

  /** The one thing that takes an acknowledged frame back: its own Cancel, or Remove. */
  async function takeBack(upload: Upload, accepted: Accepted): Promise<void> {
    try {
      if (accepted.new)
        await answer(
          api.DELETE('/api/frames/{frame_id}', { params: { path: { frame_id: accepted.frame.id } } }),
          true,
        )
      dismiss(upload.key)
    } catch (problem) {
      fail(upload, (problem as Error).message)
    }
  }

  function follow(upload: Upload, job: Job, accepted: Accepted): void {
    Object.assign(upload, { state: 'measuring', error: '' })
    if (gone) return
    const letGo = followJob(job.id, (current) => {
      upload.progress = 0.3 + 0.7 * current.progress
      upload.step = STEP_WORDS[current.step] ?? WAITING
      const open = current.state === 'queued' || current.state === 'running'
      if (open && !current.mapped) return
      stop()
      if (current.state === 'done' || current.mapped) {
        dismiss(upload.key)
        arrived(accepted.frame.id, accepted.new, upload.goal)
      } else {
        fail(upload, capital(current.error ?? 'Stopped.'))
      }
    })
    followed.add(letGo)
    const stop = (): void => {
      letGo()
      followed.delete(letGo)
    }
    upload.cancel = () => {
      stop()
      void takeBack(upload, accepted)
    }
  }

  return { uploads, add, dismiss }
}

function problemOf(text: string): string {
  try {
    return (JSON.parse(text) as Problem).detail
  } catch {
    return OFFLINE
  }
}
