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
import { FORMAT_NAMES, freshBody } from '@/shared/lib/bodies'

/** Whose frame this is, in one line: a known camera, or a new one with what its file tells filled in.
 *
 * How its sensor is locked and the like are asked when something is to touch it. */
const props = defineProps<{ detail: FrameDetail }>()
const emit = defineEmits<{ alone: [] }>()
const router = useRouter()
const { by } = useSettings()
const { bodies } = useBodyNames()
const { begin, error: notBegun } = useBegin()
const known = ref<number | null>(null)
const told = props.detail.map?.frames[0]?.camera ?? ''
const chosen = ref<'fresh' | 'known' | null>(null)
/** A camera that names itself and was not recognised is a new one. */
const adding = computed(
  () => bodies.value.length === 0 || (chosen.value ?? (told ? 'fresh' : 'known')) === 'fresh',
)

const name = ref(told.slice(0, 80))
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
    <form v-if="!adding" class="row" @submit.prevent="join">
      <Select
        v-model="known"
        :options="bodies"
        option-label="name"
        option-value="id"
        filter
        size="small"
        placeholder="Choose a camera"
        aria-label="Camera"
      />
      <Button type="submit" label="Continue" size="small" :disabled="known === null" />
      <button type="button" class="link" @click="chosen = 'fresh'">A new camera</button>
    </form>
    <form v-else class="row" @submit.prevent="add">
      <InputText
        v-model="name"
        required
        maxlength="80"
        size="small"
        placeholder="Your own name for it"
        aria-label="Name"
      />
      <Select
        v-model="format"
        :options="formats"
        option-label="label"
        option-value="value"
        size="small"
        placeholder="Its sensor's size"
        aria-label="Sensor"
      />
      <template v-if="format === OTHER">
        <label>Width<MeasureInput v-model="own[0]" of="length" :min="3" :max="120" /></label>
        <label>Height<MeasureInput v-model="own[1]" of="length" :min="3" :max="120" /></label>
      </template>
      <Button type="submit" label="Continue" size="small" :disabled="busy || !name.trim() || !size" />
      <button v-if="bodies.length" type="button" class="link" @click="chosen = 'known'">
        A known camera
      </button>
    </form>
    <button class="link" @click="alone">Only keep the frame</button>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
  </section>
</template>

<style scoped>
.question,
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.question {
  padding: var(--space-2) var(--space-3);
  background: var(--accent-wash);
}
.row :deep(.p-inputtext) {
  min-width: 14rem;
}
label {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
</style>
