<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { ref } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useTell } from '@/shared/composables/useTell'
import ScrewPlaces from './ScrewPlaces.vue'
import { blankPlan, blankScrews, blankStage, LATCHES, SIDES } from './plan'

/** The plan of a model, stage by stage in the order out. */
const props = defineProps<{ plan: Schemas['TrayPlan'] | null }>()
const emit = defineEmits<{ kept: [model: string]; away: [] }>()
const client = useQueryClient()
const plan = ref<Schemas['TrayPlan']>(
  props.plan ? (JSON.parse(JSON.stringify(props.plan)) as Schemas['TrayPlan']) : blankPlan(),
)
const keeping = useTell<unknown>(async () => {
  await client.invalidateQueries({ queryKey: ['tray'] })
  emit('kept', plan.value.model)
})
function keep(): void {
  void keeping.tell(() => answer(api.PUT('/api/tray-plans', { body: plan.value })))
}
/** So many places, so many screws; none leaves the count as it was told. */
function put(group: Schemas['ScrewGroup'], places: Schemas['TrayPoint'][]): void {
  group.places = places
  if (places.length) group.count = places.length
}
/** Places were noted for another number of screws. */
function recount(group: Schemas['ScrewGroup']): void {
  if (group.places.length !== group.count) group.places = []
}
</script>

<template>
  <form class="plan" @submit.prevent="keep">
    <FailureNote :error="keeping.error.value" />
    <div class="row">
      <label>Model<InputText v-model="plan.model" required maxlength="80" /></label>
      <label>Width on the mat, mm<InputNumber v-model="plan.outline.x_mm" :min="30" :max="300" /></label>
      <label>Height, mm<InputNumber v-model="plan.outline.y_mm" :min="30" :max="300" /></label>
    </div>
    <fieldset v-for="(stage, n) in plan.stages" :key="n">
      <legend>{{ n + 1 }}. comes off</legend>
      <div class="row">
        <label>What<InputText v-model="stage.name" required maxlength="60" /></label>
        <label>Clips<InputNumber v-model="stage.clips" :min="0" :max="20" show-buttons /></label>
        <label class="wide">To heed<InputText v-model="stage.note" maxlength="400" /></label>
      </div>
      <div v-for="(g, i) in stage.screws" :key="`s${i}`" class="row">
        <label>Screws<InputText v-model="g.name" required maxlength="60" /></label>
        <label>Side<Select v-model="g.side" :options="SIDES" /></label>
        <label
          >How many<InputNumber
            v-model="g.count"
            :min="1"
            :max="40"
            show-buttons
            @update:model-value="recount(g)"
        /></label>
        <label>Thread<InputText v-model="g.thread" maxlength="30" placeholder="M1.4 × 3" /></label>
        <label>Driver<InputText v-model="g.driver" maxlength="30" placeholder="PH00" /></label>
        <div class="places">
          Where they sit, if you like to mark it
          <ScrewPlaces
            :model-value="g.places"
            :outline="plan.outline"
            :name="g.name"
            @update:model-value="(now) => put(g, now)"
          />
        </div>
        <Button
          icon="pi pi-times"
          :aria-label="`Leave out the screws ${g.name}`"
          severity="secondary"
          variant="text"
          @click="stage.screws.splice(i, 1)"
        />
      </div>
      <div v-for="(r, i) in stage.ribbons" :key="`r${i}`" class="row">
        <label>Ribbon<InputText v-model="r.name" required maxlength="60" /></label>
        <label
          >Its latch<Select v-model="r.latch" :options="LATCHES" option-label="words" option-value="latch"
        /></label>
        <Button
          icon="pi pi-times"
          :aria-label="`Leave out the ribbon ${r.name}`"
          severity="secondary"
          variant="text"
          @click="stage.ribbons.splice(i, 1)"
        />
      </div>
      <div class="row">
        <Button
          label="Screws"
          icon="pi pi-plus"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="stage.screws.push(blankScrews())"
        />
        <Button
          label="Ribbon"
          icon="pi pi-plus"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="stage.ribbons.push({ name: '', latch: 'flip_up' })"
        />
        <Button
          v-if="plan.stages.length > 1"
          :label="`Leave out ${stage.name || 'this'}`"
          size="small"
          severity="secondary"
          variant="text"
          @click="plan.stages.splice(n, 1)"
        />
      </div>
    </fieldset>
    <div class="row">
      <Button
        label="Next thing that comes off"
        icon="pi pi-plus"
        severity="secondary"
        variant="outlined"
        @click="plan.stages.push(blankStage())"
      />
    </div>
    <div class="row">
      <Button type="submit" label="Keep the plan" icon="pi pi-check" :disabled="keeping.busy.value" />
      <Button label="Cancel" severity="secondary" variant="text" @click="emit('away')" />
    </div>
  </form>
</template>

<style scoped>
.plan,
fieldset {
  display: grid;
  gap: var(--space-3);
}
fieldset {
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
}
.places {
  display: grid;
  gap: var(--space-1);
}
.wide {
  flex: 1;
  min-width: 14em;
}
.row :deep(.p-inputnumber-input) {
  width: 5em;
}
</style>
