import { ref } from 'vue'
import type { Schemas } from '@/api/client'

type Sample = Schemas['HandSample']
export interface Touch {
  face: number
  samples: Sample[]
}
const MOST_SAMPLES = 780
const MOST_STROKES = 80

/** What the hand does: drops, faces, strokes, as they are made. */
export function useHand(now: () => number = () => performance.now()) {
  const strokes = ref<Touch[]>([])
  const drops = ref(0)
  const face = ref(0)
  const used = ref(false)
  const down = ref(false)
  let dropped: number | null = null
  let waited = 0
  let begun = now()

  function reset(): void {
    strokes.value = []
    drops.value = face.value = 0
    used.value = down.value = false
    dropped = null
    waited = 0
    begun = now()
  }
  function drop(): void {
    drops.value += 1
    dropped = now()
  }
  function sample(x_mm: number, y_mm: number, force_n: number, tilt_deg: number | null): Sample {
    return { t_s: (now() - begun) / 1000, x_mm, y_mm, force_n, tilt_deg }
  }
  /** Set the tool down; false once so much was done that no more is taken. */
  function setDown(x: number, y: number, force: number, tilt: number | null): boolean {
    if (down.value || strokes.value.length >= MOST_STROKES) return false
    if (!strokes.value.length && dropped !== null) waited = (now() - dropped) / 1000
    strokes.value.push({ face: face.value, samples: [sample(x, y, force, tilt)] })
    down.value = true
    return true
  }
  function move(x: number, y: number, force: number, tilt: number | null): void {
    const samples = strokes.value.at(-1)?.samples
    if (!down.value || !samples) return
    const next = sample(x, y, force, tilt)
    if (samples.length < MOST_SAMPLES) samples.push(next)
    else samples[samples.length - 1] = next
  }
  function lift(): void {
    down.value = false
  }
  /** Another face of the swab, a fresh swab, or the pad cleaned. */
  function turn(): void {
    face.value += 1
  }
  return {
    strokes,
    drops,
    face,
    used,
    down,
    reset,
    drop,
    setDown,
    move,
    lift,
    turn,
    waited: () => waited,
  }
}
