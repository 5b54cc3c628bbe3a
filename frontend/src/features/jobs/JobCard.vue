<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { JobReady } from '@/api/client'
import ReportMenu from '@/shared/components/ReportMenu.vue'
import { day } from '@/shared/lib/format'
import { untilWords } from '@/shared/lib/jobs'
import { amountWords } from '@/shared/lib/kit'
import { STATE_WORDS } from './wanted'

/** One booked job: is every body looked at, is the kit complete, does a service still fit. */
const props = defineProps<{ ready: JobReady }>()
const emit = defineEmits<{ edit: []; begin: [bodyId: number] }>()
const STATE_ICONS = {
  ready: 'pi-check',
  later: 'pi-calendar',
  act: 'pi-arrow-right',
  late: 'pi-exclamation-triangle',
} as const
const BODY_ICONS = {
  ready: 'pi-check',
  later: 'pi-calendar',
  look: 'pi-camera',
  busy: 'pi-arrow-right',
  clean: 'pi-arrow-right',
} as const
const until = computed(() => untilWords(props.ready.days))
const short = computed(() => props.ready.kit.filter((k) => !k.enough))

type KitLine = JobReady['kit'][number]
const rowClass = (line: KitLine): string => (line.enough ? '' : 'short')
function thereWords({ there, unit }: KitLine): string {
  if (there === null) return unit === 'one' ? 'yes' : 'not counted'
  return unit === 'one' && there === 0 ? 'none' : amountWords(there, unit)
}
</script>

<template>
  <article class="job" :class="ready.state">
    <header>
      <div>
        <h2>{{ ready.job.name }}</h2>
        <p>
          <strong>{{ until }}</strong>, {{ day(ready.job.starts_on)
          }}<span v-if="ready.job.note" class="soft"> · {{ ready.job.note }}</span>
        </p>
      </div>
      <span class="state"
        ><i class="pi" :class="STATE_ICONS[ready.state]" aria-hidden="true" />
        {{ STATE_WORDS[ready.state] }}</span
      >
      <ReportMenu :path="`${API}/bookings/${ready.job.id}/report`" />
      <Button
        icon="pi pi-pencil"
        size="small"
        severity="secondary"
        variant="text"
        :aria-label="`Change ${ready.job.name}`"
        @click="emit('edit')"
      />
    </header>
    <ul class="bodies">
      <li v-for="b in ready.bodies" :key="b.body_id" :class="b.state">
        <i class="pi" :class="BODY_ICONS[b.state]" aria-hidden="true" />
        <RouterLink :to="{ name: 'body', params: { id: b.body_id } }">{{ b.name }}</RouterLink>
        <span>{{ b.words }}</span>
        <RouterLink
          v-if="b.open_visit_id"
          class="go-on"
          :to="{ name: 'visit', params: { id: b.open_visit_id } }"
          >Continue</RouterLink
        >
        <Button
          class="works"
          v-else-if="b.state === 'look' || b.state === 'clean'"
          label="Begin"
          :aria-label="`Begin a visit of ${b.name}`"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="emit('begin', b.body_id)"
        />
      </li>
      <li v-if="!ready.bodies.length" class="look">
        <i class="pi pi-camera" aria-hidden="true" /><span>No camera is chosen. Change the job.</span>
      </li>
    </ul>
    <details v-if="ready.kit.length" class="kit">
      <summary :class="{ short: short.length }">
        <template v-if="short.length">Kit short of {{ short.map((k) => k.thing).join('; ') }}</template>
        <template v-else>Kit complete</template>
      </summary>
      <DataTable :value="ready.kit" data-key="thing" size="small" :row-class="rowClass">
        <Column field="thing" header="For one full cleaning per camera" />
        <Column header="Needs" class="num">
          <template #body="{ data }">{{ amountWords(data.needed, data.unit) }}</template>
        </Column>
        <Column header="There" class="num">
          <template #body="{ data }">{{ thereWords(data) }}</template>
        </Column>
      </DataTable>
      <p v-if="ready.service_fits !== false" class="soft">{{ ready.service }}</p>
    </details>
    <p v-if="ready.service_fits === false" class="no">{{ ready.service }}</p>
  </article>
</template>

<style scoped>
.job {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-3) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-left: 6px solid var(--ink-soft);
  border-radius: 5px;
}
.job.ready {
  border-left-color: var(--good);
}
.job.act {
  border-left-color: var(--accent);
}
.job.late {
  border-left-color: var(--stop);
}
header {
  display: grid;
  grid-template-columns: 1fr auto auto auto;
  gap: var(--space-3);
  align-items: start;
}
h2 {
  font-size: var(--text-lead);
}
.state {
  display: inline-flex;
  gap: var(--space-1);
  align-items: center;
  padding: 0.15rem var(--space-2);
  font-weight: 650;
  border: 1px solid currentcolor;
  border-radius: 4px;
  white-space: nowrap;
}
.ready .state {
  color: var(--good);
}
.act .state {
  color: var(--accent);
}
.late .state {
  color: var(--stop);
}
.bodies {
  display: grid;
  gap: var(--space-1);
  margin: 0;
  padding: 0;
  list-style: none;
}
.bodies li {
  display: grid;
  grid-template-columns: 1.4rem 190px 1fr auto;
  gap: var(--space-2);
  align-items: center;
  min-height: 2.1rem;
}
.bodies .ready i {
  color: var(--good);
}
.bodies .look i,
.bodies .clean i,
.bodies .busy i {
  color: var(--accent);
}
.go-on {
  font-weight: 650;
}
.short,
:deep(tr.short) {
  color: var(--stop);
}
:deep(.num) {
  text-align: right;
  padding-right: var(--space-4);
}
.no {
  color: var(--warn);
}
</style>
