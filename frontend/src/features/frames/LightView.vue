<script setup lang="ts">
import { computed, onMounted, onScopeDispose, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { distance } from '@/shared/lib/units'
import { exposure } from '@/shared/lib/format'
import { useLitScreen } from '@/shared/composables/useLitScreen'
import { useSettings } from '@/shared/composables/useSettings'

/** An even page to shoot: it fills the screen and drifts, so that the screen's own dots smear. */
/**
 * A screen at full brightness shows about 250 cd/m² of white, EV 11 at ISO 100 (ISO 2720); the other
 * tones give half and seven eighths of that light (sRGB).
 */
const TONES = [
  { label: 'White', colour: 'var(--light-white)', ev: 11 },
  { label: 'Grey', colour: 'var(--light-grey)', ev: 10 },
  { label: 'Warm', colour: 'var(--light-warm)', ev: 10.8 },
] as const
const TELL_MS = 6000
const props = defineProps<{ focal?: number | null; f?: number | null }>()
useLitScreen()
const router = useRouter()
const tone = shallowRef<(typeof TONES)[number]>(TONES[0])
/** The page gives light without its words, too. */
const { value: plan } = useAsk(
  () => queries.shootPlan({ focal_mm: props.focal ?? 85, smallest_f: props.f ?? 22, ev100: tone.value.ev }),
  { keeps: true },
)
/** The page drifts by a whole of its pattern within one exposure, or a dot would not smear. */
const drift = computed(() => `${Math.min(1.7, plan.value?.exposure_s ?? 0.24)}s`)
const { units, mm } = useSettings()
const away = computed(() => distance(1000 * (plan.value?.target_distance_m ?? 0.3), units.value))
const telling = ref(true)
let timer: ReturnType<typeof setTimeout> | null = null

function tell(): void {
  telling.value = true
  if (timer) clearTimeout(timer)
  timer = setTimeout(() => {
    telling.value = false
  }, TELL_MS)
}

function leave(): void {
  if (document.fullscreenElement) void document.exitFullscreen()
  if (window.history.length > 1) router.back()
  else void router.push({ name: 'bench' })
}

function onKey(event: KeyboardEvent): void {
  if (event.key === 'Escape') leave()
  else tell()
}

function fill(): void {
  void document.documentElement.requestFullscreen?.()
  tell()
}

onMounted(() => {
  window.addEventListener('keydown', onKey)
  window.addEventListener('pointermove', tell)
  tell()
})
onScopeDispose(() => {
  window.removeEventListener('keydown', onKey)
  window.removeEventListener('pointermove', tell)
  if (timer) clearTimeout(timer)
})
</script>

<template>
  <div class="light" role="group" aria-label="Even light page" :style="{ backgroundColor: tone.colour }">
    <div class="dots" :style="{ animationDuration: drift }" />
    <div v-if="telling" class="words">
      <p>
        <strong
          >f/{{ plan?.f_number ?? 22 }}, ISO 100, about {{ exposure(plan?.exposure_s ?? 0.24) }}. Lens
          {{ away }} from the screen, or nearer if its edge shows; focused as far off as it goes.</strong
        >
      </p>
      <p>
        Move the camera about {{ mm(plan?.move_mm ?? 20) }} to and fro while it exposes: that smears the
        screen's dots, and the dust stays sharp.
      </p>
      <p>Screen at full brightness. These words go away by themselves; Escape leaves.</p>
      <div class="choice">
        <button v-for="t in TONES" :key="t.label" :aria-pressed="tone === t" @click="tone = t">
          {{ t.label }}
        </button>
        <button @click="fill">Full screen</button>
        <button @click="leave">Leave <kbd>Esc</kbd></button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.light {
  position: fixed;
  inset: 0;
  z-index: 30;
  overflow: hidden;
  cursor: none;
}
.dots {
  position: absolute;
  inset: -8px;
  background-image: linear-gradient(
    90deg,
    color-mix(in srgb, var(--shade) 1.2%, transparent) 50%,
    transparent 50%
  );
  background-size: 4px 4px;
  animation: drift 0.24s linear infinite;
}
@media (prefers-reduced-motion: reduce) {
  .dots {
    animation: none;
  }
}
@keyframes drift {
  to {
    transform: translate(4px, 4px);
  }
}
.words {
  position: absolute;
  left: 50%;
  bottom: 8%;
  display: grid;
  gap: var(--space-2);
  width: min(640px, 90vw);
  padding: var(--space-3) var(--space-4);
  color: var(--paper-ink);
  background: var(--paper);
  border: 1px solid var(--paper-line);
  border-radius: 6px;
  transform: translateX(-50%);
  cursor: default;
}
.choice {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
button {
  padding: var(--space-2) var(--space-3);
  font: inherit;
  color: var(--paper-ink);
  background: var(--paper-white);
  border: 1px solid var(--paper-soft);
  border-radius: 4px;
  cursor: pointer;
}
button[aria-pressed='true'] {
  border-color: var(--paper-accent);
  box-shadow: inset 0 0 0 2px var(--paper-accent);
}
kbd {
  font: inherit;
  font-size: 0.8em;
  padding: 0 0.3em;
  border: 1px solid currentcolor;
  border-radius: 3px;
}
</style>
