<script setup lang="ts">
import Button from 'primevue/button'
import { computed, toRef } from 'vue'
import { RouterLink } from 'vue-router'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import TrayChoice from './TrayChoice.vue'
import TrayFields from './TrayFields.vue'
import TrayStep from './TrayStep.vue'
import { useTray } from './useTray'

/** A fixed-lens compact taken apart and put together, one step after the other, every screw counted. */
const props = defineProps<{ id: number }>()
const { tray, away, telling, error, begin, done, back, putAway, correct, photograph, ask } = useTray(
  toRef(props, 'id'),
)
const { value: visit } = useAsk(() => queries.visit(props.id))
const now = computed(() => tray.value?.now ?? null)
const at = computed(() => (now.value ? now.value.done.length : 0))
const outYet = computed(() => now.value?.groups.some((g) => g.out !== null) ?? false)
</script>

<template>
  <section class="page">
    <BackLink :home="{ name: 'visit', params: { id } }" home-words="the visit" />
    <h1>Tray: {{ visit?.body.name }}</h1>
    <FailureNote :error="away || error" />
    <template v-if="tray && !now">
      <div v-if="tray.why_not.length" class="panel">
        <h2>Not on the tray now</h2>
        <ul>
          <li v-for="why in tray.why_not" :key="why">{{ why }}</li>
        </ul>
        <p>
          A compact that does not open belongs to whoever repairs cameras. Its flash keeps a dangerous charge
          for days, and its warranty ends with the first screw.
        </p>
        <p class="row">
          <RouterLink :to="{ name: 'visit', params: { id } }">Back to the visit</RouterLink>
          <RouterLink :to="{ name: 'kit' }">Kit</RouterLink>
          <Button
            v-if="visit?.state === 'open' && visit.body.access === 'fixed_lens'"
            label="I have repair skill, and mean to open it"
            severity="secondary"
            variant="outlined"
            :disabled="telling.busy.value"
            @click="ask(visit.conditions)"
          />
        </p>
      </div>
      <TrayChoice v-else :tray="tray" :busy="telling.busy.value" @begin="begin" />
    </template>
    <div v-if="tray && now" class="work">
      <div class="panel">
        <p class="soft">Step {{ Math.min(at + 1, now.steps.length) }} of {{ now.steps.length }}</p>
        <TrayStep
          v-if="now.step"
          :key="now.step.id"
          :step="now.step"
          :photos="tray.photos.find((p) => p.step_id === now?.step?.id)?.count ?? 0"
          :visit-id="id"
          :busy="telling.busy.value"
          @done="(count, lost) => done(now!.step!.id, count, lost)"
          @correct="(count) => correct(now!.step!.field, count)"
          @photo="(file) => photograph(now!.step!.id, file)"
        />
        <template v-else>
          <h2>All together again</h2>
          <p>The step is on the trail of the visit. Shoot the test frame now.</p>
          <RouterLink :to="{ name: 'visit', params: { id } }">To the visit and its test frame</RouterLink>
        </template>
        <p v-for="left in now.left" :key="left" class="left">{{ left }}</p>
        <p class="row">
          <Button
            v-if="at && now.step"
            label="Take the last step back"
            icon="pi pi-undo"
            severity="secondary"
            variant="text"
            :disabled="telling.busy.value"
            @click="back"
          />
          <Button
            v-if="!now.step || !outYet"
            label="Put the tray away"
            severity="secondary"
            variant="text"
            :disabled="telling.busy.value"
            @click="putAway"
          />
        </p>
      </div>
      <TrayFields :now="now" :photos="tray.photos" :visit-id="id" />
    </div>
  </section>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: var(--space-3);
  align-items: start;
}
.panel {
  display: grid;
  gap: var(--space-3);
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.left {
  padding: var(--space-2);
  background: var(--warn-wash);
}
ul {
  margin: 0;
  padding-left: 1.2em;
}
@media (max-width: 760px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
