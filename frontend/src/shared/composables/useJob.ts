import { API } from '@/api/root'
import { onScopeDispose, ref } from 'vue'
import type { Job } from '@/api/client'

/** Follow one job by its events until it ends; the stream closes with the component.
 *
 * `onMap` is told once when the frame has its map while the job still goes on. */
export function useJob(onEnd: (job: Job) => void, onMap: () => void = () => undefined) {
  const job = ref<Job | null>(null)
  let stream: EventSource | null = null

  function stop(): void {
    stream?.close()
    stream = null
  }

  function follow(start: Job): void {
    stop()
    job.value = start
    let mapped = start.mapped
    stream = new EventSource(`${API}/jobs/${start.id}/events`)
    stream.addEventListener('job', (event: MessageEvent<string>) => {
      const current = JSON.parse(event.data) as Job
      job.value = current
      if (current.mapped && !mapped) {
        mapped = true
        onMap()
      }
      if (current.state !== 'queued' && current.state !== 'running') {
        stop()
        job.value = null
        onEnd(current)
      }
    })
  }

  onScopeDispose(stop)
  return { job, follow, stop }
}
