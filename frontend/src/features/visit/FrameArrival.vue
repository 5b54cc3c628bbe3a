<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { ref } from 'vue'
import { answer, api, seen, type Visit } from '@/api/client'
import { useTell } from '@/shared/composables/useTell'
import { useIntake } from '@/shared/composables/useIntake'
import DropPlace from '@/shared/components/DropPlace.vue'
import ShootRecipe from '@/shared/components/ShootRecipe.vue'

const props = defineProps<{ visit: Visit; busy: boolean }>()
const emit = defineEmits<{ shoot: [f: number]; arrived: [] }>()
const aperture = ref(props.visit.trail.map((i) => i.frame?.f_number).find((f) => f) ?? 22)
const stops = [5.6, 8, 11, 16, 22, 32].map((n) => ({ label: `f/${n}`, value: n }))

/** A lens that is refused is refused by the recipe, too, which says why. */
const { tell } = useTell()

/** The lens belongs to the body, so that every retest begins with the same one. */
async function keepLens(lens_focal_mm: number, lens_smallest_f: number): Promise<void> {
  const body = { ...props.visit.body, lens_focal_mm, lens_smallest_f }
  const params = { path: { body_id: props.visit.body_id }, header: seen(props.visit.body_version) }
  if (await tell(() => answer(api.PUT('/api/bodies/{body_id}', { params, body })))) emit('arrived')
}

const { take } = useIntake()
</script>

<template>
  <section class="arrival" aria-label="Next frame">
    <h2>Next frame</h2>
    <div v-if="visit.virtual" class="virtual works">
      <Select
        v-model="aperture"
        :options="stops"
        option-label="label"
        option-value="value"
        size="small"
        aria-label="Aperture"
      />
      <Button
        label="Shoot"
        icon="pi pi-camera"
        severity="secondary"
        variant="outlined"
        size="small"
        :disabled="busy"
        @click="emit('shoot', aperture)"
      />
      <span class="soft">the virtual camera</span>
    </div>
    <DropPlace class="small" @files="take" />
    <p v-if="visit.recipe" class="again">
      As the frame before: <strong>{{ visit.recipe }}</strong>
    </p>
    <ShootRecipe :body="visit.body" :trial="visit.latest_frame_id" @lens="keepLens" />
  </section>
</template>

<style scoped>
.arrival {
  display: grid;
  gap: var(--space-2);
  padding-top: var(--space-2);
  border-top: 1px solid var(--line);
}
.again {
  font-size: var(--text-body);
}
.virtual {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
.small {
  min-height: 0;
  padding: var(--space-2);
  gap: var(--space-2);
  font-size: var(--text-small);
}
.small :deep(.lead) {
  font-size: var(--text-body);
}
</style>
