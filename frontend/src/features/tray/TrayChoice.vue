<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import { API } from '@/api/root'
import { useAsk } from '@/shared/composables/useAsk'
import PlanForm from './PlanForm.vue'

/** By which plan the camera comes apart: a kept one, or one that is written now. */
const props = defineProps<{ tray: Schemas['TrayView']; busy: boolean }>()
const emit = defineEmits<{ begin: [model: string] }>()
const { value: plans } = useAsk(queries.trayPlans)
const model = ref<string | null>(props.tray.suggested)
const writing = ref(false)
watch(
  () => props.tray.suggested,
  (now) => {
    model.value ??= now
  },
)
const chosen = computed(() => plans.value?.find((p) => p.model === model.value) ?? null)
const mat = (paper: string, form: string): string =>
  `${API}/tray-plans/mat?${new URLSearchParams({ model: model.value ?? '', paper, form })}`
function kept(name: string): void {
  model.value = name
  writing.value = false
}
</script>

<template>
  <div class="choice">
    <PlanForm v-if="writing" :plan="chosen" @kept="kept" @away="writing = false" />
    <template v-else>
      <p>
        The plan of a model says what comes off in which order, and how many screws sit where. It is kept, and
        serves its next body.
      </p>
      <label>
        Plan
        <Select
          v-model="model"
          :options="tray.models"
          placeholder="none is kept yet"
          :disabled="!tray.models.length"
        />
      </label>
      <template v-if="chosen">
        <ol>
          <li v-for="s in chosen.stages" :key="s.name">
            {{ s.name }}:
            {{
              [
                ...s.screws.map((g) => `${g.count} × ${g.thread || 'screw'}, ${g.name.toLowerCase()}`),
                ...s.ribbons.map((r) => `ribbon ${r.name}`),
                ...(s.clips ? [`${s.clips} clips`] : []),
              ].join('; ')
            }}
          </li>
        </ol>
        <p class="row">
          <strong>Mat to print at true size:</strong>
          <a :href="mat('a4', 'pdf')">A4, PDF</a>
          <a :href="mat('letter', 'pdf')">Letter, PDF</a>
          <a :href="mat('a4', 'svg')">A4, SVG</a>
          <a :href="mat('letter', 'svg')">Letter, SVG</a>
        </p>
      </template>
      <p class="row">
        <Button
          label="Begin"
          icon="pi pi-play"
          :disabled="busy || !chosen"
          @click="model && emit('begin', model)"
        />
        <Button
          :label="chosen ? 'Change this plan' : 'Write a plan'"
          severity="secondary"
          variant="outlined"
          @click="writing = true"
        />
        <Button
          v-if="chosen"
          label="Write another"
          severity="secondary"
          variant="text"
          @click="((model = null), (writing = true))"
        />
      </p>
    </template>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  gap: var(--space-3);
}
label {
  display: grid;
  gap: var(--space-1);
  justify-items: start;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
ol {
  margin: 0;
  padding-left: 1.4em;
}
</style>
