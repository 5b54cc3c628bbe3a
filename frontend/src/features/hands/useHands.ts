import { useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { freshKey, type Decision, type Guide, type GuideLength, type Step } from '@/api/client'
import { alarmOf, back, counted, isOpen, isUp, next, placedIn, START, type Progress } from './hands'
import { useHandsPlace, type Placed } from './useHandsPlace'

const SAY = 'neatpatch-say'
const LENGTH = 'neatpatch-guide-length'
const LONGEST_S = 99_999
/** A step left for so long is begun anew: nobody stands with an open camera half a day. */
const FORGOTTEN_S = 12 * 3600
export const ALARM_WORDS = {
  warn: 'Half of the battery’s time is gone. Finish now.',
  stop: 'Tools out now. Once nothing is inside, switch off: the mirror may fall at any moment.',
} as const

/** The length chosen last on this device; none leaves it to the experience told of. */
export function usualLength(): GuideLength | undefined {
  const kept = localStorage.getItem(LENGTH)
  return kept === 'short' || kept === 'full' ? kept : undefined
}

/** Hands-busy mode: place in the instructions, counters, timers, the open-camera clock, speech.
 *
 * The place is the visit's: it is told to the server at every step, and followed from there. */
export function useHands(
  guide: Ref<Guide | null>,
  visitId: Ref<number>,
  step: Decision,
  length: Ref<GuideLength | undefined>,
) {
  const client = useQueryClient()
  const progress = ref<Progress>({ ...START })
  /** One key for the logging of this step, the same on all devices: sent twice, it is logged once. */
  const logKey = ref(freshKey())
  const paused = ref(false)
  const left = ref(0)
  const canSpeak = 'speechSynthesis' in window
  const speaks = ref(canSpeak && localStorage.getItem(SAY) === 'yes')

  const instructions = computed(() => guide.value?.instructions ?? [])
  const current = computed(() => instructions.value[progress.value.at] ?? null)
  const open = computed(() => isOpen(instructions.value, progress.value.at))
  const up = computed(() => isUp(instructions.value, progress.value.at))
  const alarm = computed(() => (up.value ? alarmOf(guide.value?.power ?? null, progress.value.upS) : 'none'))
  const count = computed(() => progress.value.counts[String(progress.value.at)] ?? 0)

  const place = useHandsPlace(visitId, take)
  /** Known where the hands stand: until then nothing is shown that would be taken back. */
  const ready = computed(() => place.known.value && guide.value !== null && fits())
  /** Whether the instructions are those that the place counts in. */
  const fits = (): boolean => length.value === undefined || guide.value?.length === length.value
  let waiting: Placed | null = null
  const elsewhere = computed(() => (place.step.value && place.step.value !== step ? place.step.value : null))

  /** Take over where the hands stand; the clocks went on while nobody said anything. */
  function take(now: Placed): void {
    if (now.step !== step || now.age_s > FORGOTTEN_S) return
    const wanted = now.position.short ? 'short' : 'full'
    if (guide.value?.length !== wanted) length.value = wanted
    waiting = fits() ? null : now
    if (waiting) return // its instructions are on their way
    const { at, counts, open_s = 0, up_s = 0, paused: halted = false } = now.position
    logKey.value = now.position.log_key
    paused.value = halted
    const isOpenThere = isOpen(instructions.value, at) && !halted
    progress.value = {
      at,
      counts: counts ?? {},
      openS: Math.round((open_s ?? 0) + (isOpenThere ? now.age_s : 0)),
      upS: Math.round((up_s ?? 0) + (isUp(instructions.value, at) ? now.age_s : 0)),
    }
  }

  watch(
    () => guide.value !== null,
    (known) => {
      if (known) void place.load()
    },
    { immediate: true },
  )

  function stand(): void {
    place.say(step as Step, {
      at: progress.value.at,
      counts: progress.value.counts,
      open_s: Math.min(progress.value.openS, LONGEST_S),
      up_s: Math.min(progress.value.upS, LONGEST_S),
      paused: paused.value,
      short: guide.value?.length === 'short',
      log_key: logKey.value,
    })
  }

  /** Instructions of the other length: of the place that waits for them, or from where one stood. */
  watch(guide, (now, was) => {
    if (now && waiting && fits()) take(waiting)
    else if (now && was && now.length !== was.length)
      move(placedIn(progress.value, was.instructions, now.instructions))
  })

  function move(to: Progress): void {
    progress.value = to
    stand()
  }

  const ticking = setInterval(() => {
    if (up.value) progress.value = { ...progress.value, upS: progress.value.upS + 1 }
    if (paused.value || !guide.value) return
    if (open.value) progress.value = { ...progress.value, openS: progress.value.openS + 1 }
    if (left.value > 0) left.value -= 1
  }, 1000)
  onScopeDispose(() => {
    clearInterval(ticking)
    if (canSpeak) window.speechSynthesis.cancel()
  })

  function speak(text: string): void {
    if (!speaks.value || !canSpeak) return
    window.speechSynthesis.cancel()
    window.speechSynthesis.speak(new SpeechSynthesisUtterance(text))
  }

  watch(alarm, (now) => {
    if (now !== 'none') speak(ALARM_WORDS[now])
  })
  watch(
    current,
    (now) => {
      left.value = now?.timer_s ?? 0
      if (now) speak(`${now.text} ${now.heed ?? ''}`)
    },
    { immediate: true },
  )

  return {
    progress,
    logKey,
    paused,
    left,
    canSpeak,
    speaks,
    instructions,
    current,
    open,
    up,
    alarm,
    count,
    ready,
    elsewhere,
    unsaved: place.unsaved,
    heard: place.heard,
    next: () => move(next(progress.value, instructions.value)),
    back: () => move(back(progress.value)),
    more: (at = progress.value.at) => move(counted(progress.value, 1, at)),
    less: (at = progress.value.at) => move(counted(progress.value, -1, at)),
    countTo: (target: number, at: number) =>
      move(counted(progress.value, target - (progress.value.counts[String(at)] ?? 0), at)),
    pause: () => {
      paused.value = !paused.value
      stand()
    },
    /** From the first instruction, counters and clocks at nothing. */
    again: () => {
      logKey.value = freshKey()
      move({ ...START })
    },
    restartTimer: () => {
      left.value = current.value?.timer_s ?? 0
    },
    changeLength: () => {
      length.value = guide.value?.length === 'short' ? 'full' : 'short'
      localStorage.setItem(LENGTH, length.value)
    },
    toggleSpeech: () => {
      speaks.value = !speaks.value
      localStorage.setItem(SAY, speaks.value ? 'yes' : 'no')
      if (current.value) speak(current.value.text)
    },
    forget: () => void client.invalidateQueries({ queryKey: ['visits', visitId.value, 'hands'] }),
  }
}
