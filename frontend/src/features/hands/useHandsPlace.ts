import { ref, type Ref } from 'vue'
import { answer, api, type Schemas, type Step } from '@/api/client'

export type Placed = Schemas['HandsPlace']
type Position = Schemas['Position']
const AGAIN_MS = 2000

/** Where the hands stand in a visit, kept by the server: told at every change, followed elsewhere.
 *
 * Words go out one at a time, the newest replacing those that wait; one that could not be sent is
 * sent again until it is. `take` is given what another device said. */
export function useHandsPlace(visitId: Ref<number>, take: (place: Placed) => void) {
  const known = ref(false)
  const unsaved = ref(false)
  const step = ref<Step | null>(null)
  let version = 0
  let waiting: { step: Step; position: Position } | null = null
  let sending = false
  const path = () => ({ visit_id: visitId.value })

  async function load(): Promise<void> {
    try {
      const { place } = await answer(api.GET('/api/visits/{visit_id}/hands', { params: { path: path() } }))
      step.value = place?.step ?? null
      if (place && place.version > version && !waiting && !sending) {
        version = place.version
        take(place)
      }
      known.value = true
    } catch {
      known.value = true // the first word that is said will show whether the server answers
    }
  }

  function say(now: Step, position: Position): void {
    waiting = { step: now, position }
    step.value = now
    void send()
  }

  async function send(): Promise<void> {
    if (sending) return
    sending = true
    while (waiting) {
      const word = waiting
      waiting = null
      try {
        const params = { path: { ...path(), step: word.step } }
        const { place } = await answer(
          api.PUT('/api/visits/{visit_id}/hands/{step}', { params, body: word.position, keepalive: true }),
        )
        version = Math.max(version, place?.version ?? 0)
        unsaved.value = false
      } catch {
        unsaved.value = true
        waiting ??= word
        await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
      }
    }
    sending = false
  }

  /** Another word was said, at this version; None once no step is in hand. */
  function heard(now: number | null): void {
    if (now === null) {
      step.value = null
      version = 0
    } else if (now > version) void load()
  }

  return { known, unsaved, step, load, say, heard }
}
