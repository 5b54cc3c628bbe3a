<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import { ref } from 'vue'
import { answer, api, type Job } from '@/api/client'
import { useTell } from '@/shared/composables/useTell'

/** The aperture of a frame whose file has none recorded; the frame is measured again with it. */
const props = defineProps<{ frameId: number }>()
const emit = defineEmits<{ measuring: [job: Job] }>()
const aperture = ref<number | null>(null)
const { tell, busy, error } = useTell<Job>((job) => emit('measuring', job))

function enter(): void {
  const f_number = aperture.value
  if (f_number === null) return
  const params = { path: { frame_id: props.frameId } }
  void tell(() => answer(api.PUT('/api/frames/{frame_id}/aperture', { params, body: { f_number } })))
}
</script>

<template>
  <form class="aperture works" @submit.prevent="enter">
    <span>Shot at</span>
    <InputNumber
      v-model="aperture"
      prefix="f/"
      :min="1"
      :max="128"
      :max-fraction-digits="1"
      size="small"
      placeholder="f/22"
      aria-label="Aperture it was shot at"
      title="The f-number set on the lens or camera for this shot; on most cameras it is in the picture's details."
    />
    <Button
      type="submit"
      label="Enter"
      size="small"
      severity="secondary"
      variant="outlined"
      :disabled="busy || aperture === null"
    />
    <span v-if="error" role="alert" class="refused">{{ error }}</span>
  </form>
</template>

<style scoped>
.aperture {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1);
  align-items: center;
}
.aperture :deep(input) {
  width: 5rem;
}
.refused {
  color: var(--warn);
  font-weight: 600;
}
</style>
