import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { freshKey, type Guide } from '@/api/client'
import { alarmOf, back, counted, isOpen, isUp, next, START, type Progress } from './hands'

const SAY = 'neatpatch-say'
export const ALARM_WORDS = {
  warn: 'Half of the battery’s time is gone. Finish now.',
  stop: 'Tools out now. Once nothing is inside, switch off: the mirror may fall at any moment.',
} as const

/** Hands-busy mode: place in the instructions, counters, timers, the open-camera clock, speech. */
export function useHands(guide: Ref<Guide | null>, key: string) {
  const kept = sessionStorage.getItem(key)
  const progress = ref<Progress>({ ...START, ...(kept ? (JSON.parse(kept) as Progress) : {}) })
  /** One key for the logging of this step, kept over a reload: sent twice, it is logged once. */
  const logKey = sessionStorage.getItem(`${key}-log`) ?? freshKey()
  sessionStorage.setItem(`${key}-log`, logKey)
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

  function say(text: string): void {
    if (!speaks.value || !canSpeak) return
    window.speechSynthesis.cancel()
    window.speechSynthesis.speak(new SpeechSynthesisUtterance(text))
  }

  watch(alarm, (now) => {
    if (now !== 'none') say(ALARM_WORDS[now])
  })
  watch(progress, (now) => sessionStorage.setItem(key, JSON.stringify(now)))
  watch(
    current,
    (now) => {
      left.value = now?.timer_s ?? 0
      if (now) say(`${now.text} ${now.heed ?? ''}`)
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
    next: () => {
      progress.value = next(progress.value, instructions.value)
    },
    back: () => {
      progress.value = back(progress.value)
    },
    more: () => {
      progress.value = counted(progress.value, 1)
    },
    less: () => {
      progress.value = counted(progress.value, -1)
    },
    restartTimer: () => {
      left.value = current.value?.timer_s ?? 0
    },
    toggleSpeech: () => {
      speaks.value = !speaks.value
      localStorage.setItem(SAY, speaks.value ? 'yes' : 'no')
      if (current.value) say(current.value.text)
    },
    forget: () => {
      sessionStorage.removeItem(key)
      sessionStorage.removeItem(`${key}-log`)
    },
  }
}
