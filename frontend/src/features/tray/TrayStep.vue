<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, onMounted, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { API } from '@/api/root'
import { count as counted } from '@/shared/lib/format'

/** The one thing to do now, read from a metre away; its screws are counted before it goes on. */
const props = defineProps<{
  step: Schemas['TrayStep']
  photos: number
  visitId: number
  busy: boolean
}>()
const emit = defineEmits<{
  done: [count: number | null, lost: string]
  correct: [count: number]
  photo: [file: File]
}>()
const typed = ref('')
const number = computed(() => (typed.value === '' ? null : Number(typed.value)))
const lost = ref('')
const heading = ref<HTMLElement | null>(null)
onMounted(() => heading.value?.focus())
const PHASES = { before: 'Before', out: 'Coming apart', clean: 'Cleaning', back: 'Going back', after: 'Last' }
const asks = computed(() => props.step.count !== null)
const differs = computed(() => asks.value && number.value !== null && number.value !== props.step.count)
const label = computed(() => (props.step.kind === 'warned' ? 'I have understood' : 'Done'))
function take(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) emit('photo', file)
  input.value = ''
}
const source = (n: number): string =>
  `${API}/visits/${props.visitId}/tray/photos?step_id=${encodeURIComponent(props.step.id)}&number=${n}`
</script>

<template>
  <form class="step" @submit.prevent="emit('done', number, lost)">
    <p class="soft">
      {{ PHASES[step.phase] }}<template v-if="step.stage">: {{ step.stage }}</template>
    </p>
    <h2 ref="heading" tabindex="-1" :class="{ warned: step.kind === 'warned' }">{{ step.words }}</h2>
    <label v-if="asks" class="count">
      How many are there?
      <InputText v-model="typed" type="number" min="0" max="200" inputmode="numeric" autofocus />
    </label>
    <template v-if="differs">
      <p class="differs">The plan says {{ counted(step.count ?? 0, 'screw') }} for field {{ step.field }}.</p>
      <p v-if="step.kind === 'screws_out'">
        <Button
          :label="`This camera has ${number}: correct the plan`"
          severity="secondary"
          variant="outlined"
          size="small"
          :disabled="busy || !number"
          @click="number && emit('correct', number)"
        />
      </p>
      <label v-if="(number ?? 0) < (step.count ?? 0)">
        It is lost for good, because
        <InputText v-model="lost" maxlength="200" placeholder="only where it cannot be found" />
      </label>
    </template>
    <template v-if="step.kind === 'photo'">
      <label class="photo">
        <i class="pi pi-camera" aria-hidden="true" /> Take or choose a photograph
        <input type="file" accept="image/*" capture="environment" @change="take" />
      </label>
      <p v-if="photos" class="thumbs">
        <img v-for="n in photos" :key="n" :src="source(n)" :alt="`Photograph ${n} of this stage`" />
      </p>
    </template>
    <p>
      <Button
        type="submit"
        :label="label"
        icon="pi pi-check"
        size="large"
        :disabled="busy || (asks && number === null)"
      />
    </p>
  </form>
</template>

<style scoped>
.step {
  display: grid;
  gap: var(--space-3);
}
h2 {
  font-size: var(--text-title);
  line-height: 1.35;
}
h2:focus {
  outline: none;
}
.warned {
  padding: var(--space-3);
  background: var(--warn-wash);
  border-radius: 6px;
}
label {
  display: grid;
  gap: var(--space-1);
  justify-items: start;
}
.differs {
  color: var(--stop);
}
.photo {
  padding: var(--space-2) var(--space-3);
  border: 1px dashed var(--ink-soft);
  border-radius: 6px;
}
.thumbs {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
.thumbs img {
  height: 120px;
  border-radius: 4px;
}
</style>
