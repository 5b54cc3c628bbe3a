import { onScopeDispose, ref } from 'vue'
import type { Job } from '@/api/client'
import { followJob } from '@/shared/lib/stream'

/** Follow one job by its events until it ends; it is let go with the component.
 *
 * `onMap` is told once when the frame has its map while the job still goes on. */
export function useJob(onEnd: (job: Job) => void, onMap: () => void = () => undefined) {
  const job = ref<Job | null>(null)
  let letGo: (() => void) | null = null

  function stop(): void {
    letGo?.()
    letGo = null
  }

  function follow(start: Job): void {
    stop()
    job.value = start
    let mapped = start.mapped
    letGo = followJob(start.id, (current) => {
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
