<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, freshKey, type FrameDetail } from '@/api/client'
import MeasureInput from '@/shared/components/MeasureInput.vue'
import { useBegin } from '@/shared/composables/useBegin'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import { FORMAT_NAMES, freshBody, HOLD_WORDS } from '@/shared/lib/bodies'

/** Whose frame this is: a camera that is known, or a new one by three facts; the rest can wait. */
const props = defineProps<{ detail: FrameDetail }>()
const emit = defineEmits<{ alone: [] }>()
const router = useRouter()
const { by } = useSettings()
const { bodies } = useBodyNames()
const { begin, error: notBegun } = useBegin()
const known = ref<number | null>(null)
const fresh = ref(false)
const adding = computed(() => fresh.value || bodies.value.length === 0)

const name = ref('')
const guess = props.detail.guessed_sensor_mm
const OTHER = 'other'
const keyOf = (size: readonly number[]): string => `${size[0]}x${size[1]}`
const shape = computed(() => {
  const f = props.detail.map?.frames[0]
  return f ? Math.max(f.width_px, f.height_px) / Math.min(f.width_px, f.height_px) : 1.5
})
/** Formats of the picture's own shape come first. */
const formats = computed(() => {
  const off = ([w, h]: readonly [number, number]): number => Math.abs(w / h / shape.value - 1)
  const rows = FORMAT_NAMES.map((f) => ({
    label: `${f.name}, ${by(...f.size)}`,
    value: keyOf(f.size),
    off: off(f.size),
  }))
  return [
    ...rows.filter((r) => r.off < 0.03),
    ...rows.filter((r) => r.off >= 0.03),
    { label: 'Other size', value: OTHER },
  ]
})
const guessed = guess ? (FORMAT_NAMES.find((f) => keyOf(f.size) === keyOf(guess)) ?? null) : null
const format = ref<string | null>(guessed ? keyOf(guessed.size) : guess ? OTHER : null)
const own = ref<[number | null, number | null]>(guess && !guessed ? [guess[0], guess[1]] : [null, null])
const holds = [
  { label: 'The sensor does not move', value: 'fixed' },
  ...Object.entries(HOLD_WORDS).map(([value, label]) => ({
    label: `Stabilised, locked by: ${label.toLowerCase()}`,
    value,
  })),
  { label: 'Not known: nothing may touch it until it is', value: 'unknown' },
]
const hold = ref('unknown')
const size = computed<[number, number] | null>(() => {
  if (format.value === OTHER) {
    const [w, h] = own.value
    return w && h ? [w, h] : null
  }
  const found = FORMAT_NAMES.find((f) => keyOf(f.size) === format.value)
  return found ? [found.size[0], found.size[1]] : null
})
const key = freshKey()
const {
  tell,
  busy,
  error: refused,
} = useTell<{ id: number }>((made) => begin(made.id, props.detail.frame.id))

function add(): void {
  if (!size.value) return
  const body = {
    ...freshBody(),
    name: name.value.trim(),
    sensor_mm: size.value,
    stabilised: hold.value === 'unknown' ? null : hold.value !== 'fixed',
    hold_rule: hold.value in HOLD_WORDS ? (hold.value as keyof typeof HOLD_WORDS) : null,
  }
  const params = { header: { 'Idempotency-Key': key } }
  void tell(() => answer(api.POST('/api/bodies', { params, body })))
}

const joining = useTell()
async function join(): Promise<void> {
  const body_id = known.value
  if (body_id === null) return
  const frame_id = props.detail.frame.id
  const detail = await answer(api.GET('/api/bodies/{body_id}', { params: { path: { body_id } } }))
  const visit_id = detail.open_visit_id
  if (visit_id === null) return void (await begin(body_id, frame_id))
  const params = { path: { visit_id } }
  if (
    await joining.tell(() =>
      answer(api.POST('/api/visits/{visit_id}/frames', { params, body: { frame_id } })),
    )
  )
    await router.push({ name: 'visit', params: { id: visit_id } })
}

async function alone(): Promise<void> {
  const path = { frame_id: props.detail.frame.id }
  if (
    await joining.tell(() => answer(api.DELETE('/api/frames/{frame_id}/search', { params: { path } }), true))
  )
    emit('alone')
}
const error = computed(() => refused.value || notBegun.value || joining.error.value)
</script>

<template>
  <section class="question" aria-label="Which camera">
    <h2>Which camera is this?</h2>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <form v-if="!adding" class="row" @submit.prevent="join">
      <Select
        v-model="known"
        :options="bodies"
        option-label="name"
        option-value="id"
        filter
        placeholder="Choose a camera"
        aria-label="Camera"
      />
      <Button type="submit" label="Get advice" :disabled="known === null" />
      <Button label="A new camera" severity="secondary" variant="outlined" @click="fresh = true" />
    </form>
    <form v-else class="new" @submit.prevent="add">
      <label
        >Name<InputText v-model="name" required autofocus maxlength="80" placeholder="Your own name for it"
      /></label>
      <label
        >Sensor<Select
          v-model="format"
          :options="formats"
          option-label="label"
          option-value="value"
          placeholder="Choose its size"
          aria-label="Sensor"
      /></label>
      <div v-if="format === OTHER" class="row">
        <label>Width<MeasureInput v-model="own[0]" of="length" :min="3" :max="120" /></label>
        <label>Height<MeasureInput v-model="own[1]" of="length" :min="3" :max="120" /></label>
      </div>
      <label
        >How the sensor is locked for cleaning (see its handbook)<Select
          v-model="hold"
          :options="holds"
          option-label="label"
          option-value="value"
          aria-label="How the sensor is locked"
      /></label>
      <div class="row">
        <Button type="submit" label="Add, and get advice" :disabled="busy || !name.trim() || !size" />
        <Button
          v-if="bodies.length"
          label="A known camera"
          severity="secondary"
          variant="text"
          @click="fresh = false"
        />
      </div>
    </form>
    <p><button class="link" @click="alone">Only keep the frame</button></p>
  </section>
</template>

<style scoped>
.question {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-2) var(--space-3);
  background: var(--accent-wash);
  border-radius: 5px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: end;
}
.new,
label {
  display: grid;
  gap: var(--space-1);
}
.new {
  gap: var(--space-2);
}
</style>
