<script setup lang="ts">
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import Select from 'primevue/select'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import PlotCanvas from '@/shared/components/PlotCanvas.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { oddsPlot, type PlotColours } from '@/shared/lib/plots'
import { KIND_WORDS } from '@/shared/lib/spots'
import { STEP_WORDS } from '@/shared/lib/steps'
import { stepsSaid } from './odds'

/** What each step has removed so far, by one's own retests. */
const props = defineProps<{ body: number | null }>()
const router = useRouter()
const { bodies, bodiesError } = useBodyNames()
const choices = computed(() => [{ id: null as number | null, name: 'All cameras' }, ...bodies.value])
const { value: odds, error: away } = useAsk(() => queries.odds(props.body), { keeps: true })
const error = computed(() => away.value || bodiesError.value)
const rows = computed(() =>
  (odds.value?.rungs ?? []).flatMap((r) =>
    r.kinds
      .filter((k) => k.removed.cases)
      .map((k) => ({
        name: `${STEP_WORDS[r.step]}, ${KIND_WORDS[k.kind].toLowerCase()}`,
        step: STEP_WORDS[r.step],
        kind: KIND_WORDS[k.kind],
        cases: k.removed.cases,
        removed: k.removed,
        stayed: k.stayed,
        moved: k.moved,
        fresh: k.new_a_step,
      })),
  ),
)
const make = computed(() => {
  const lines = rows.value.map((r) => ({ name: r.name, ...r.removed }))
  return (c: PlotColours) => oddsPlot(lines, c)
})
const said = computed(() => stepsSaid(odds.value?.rungs ?? [], props.body === null || !odds.value?.own))
type Share = { count: number; low: number; high: number }
const share = (s: Share): string => `${s.count} (${Math.floor(100 * s.low)} to ${Math.ceil(100 * s.high)} %)`
const fresh = ([mean, low, high]: readonly number[]): string =>
  `${(mean ?? 0).toFixed(1)} (${(low ?? 0).toFixed(1)} to ${(high ?? 0).toFixed(1)})`
const choose = (id: number | null): void =>
  void router.replace({ query: id === null ? {} : { body: String(id) } })
</script>

<template>
  <section class="page">
    <p><BackLink :home="{ name: 'bodies' }" home-words="Cameras" /></p>
    <div class="head">
      <h1>What each step removes</h1>
      <Select
        :model-value="body"
        :options="choices"
        option-label="name"
        option-value="id"
        aria-label="Camera"
        :placeholder="choices[0]?.name"
        :filter="choices.length > 12"
        @update:model-value="choose"
      />
    </div>
    <FailureNote :error="error" />
    <p v-if="odds && !rows.length" class="soft">
      Nothing was retested yet. Shoot a frame after each step: what it removed is counted here.
    </p>
    <template v-else-if="odds">
      <p v-if="body !== null && !odds.own" class="soft">
        This camera was never retested: these are all of your cameras.
      </p>
      <ul class="said">
        <li v-for="line in said" :key="line.step">
          <span class="bar" aria-hidden="true"><span :style="{ width: `${line.tenths * 10}%` }" /></span>
          {{ line.words }}
        </li>
      </ul>
      <p class="soft">By your own retests; past cases, no promise.</p>
      <details>
        <summary>By kind, with intervals</summary>
        <PlotCanvas
          class="panel"
          :make="make"
          :high="60 + 34 * rows.length"
          says="Share removed by each step and kind, with its interval; the table below has the figures"
        />
        <p class="soft">Mark: the mean. Grey: where the true share lies with 95 % chance.</p>
        <DataTable :value="rows" data-key="name" size="small" removable-sort>
          <Column field="step" header="Step" sortable />
          <Column field="kind" header="Kind" sortable />
          <Column field="cases" header="Spots" sortable />
          <Column header="Removed" sortable sort-field="removed.mean">
            <template #body="{ data }">{{ share(data.removed) }}</template>
          </Column>
          <Column header="Stayed" sortable sort-field="stayed.mean">
            <template #body="{ data }">{{ share(data.stayed) }}</template>
          </Column>
          <Column header="Moved" sortable sort-field="moved.mean">
            <template #body="{ data }">{{ share(data.moved) }}</template>
          </Column>
          <Column header="New with each step">
            <template #body="{ data }">{{ fresh(data.fresh) }}</template>
          </Column>
        </DataTable>
      </details>
    </template>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: center;
  justify-content: space-between;
}
.said {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: var(--space-3);
  list-style: none;
  font-size: var(--text-lead);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.said li {
  display: grid;
  grid-template-columns: 160px minmax(0, 1fr);
  gap: var(--space-3);
  align-items: center;
}
.bar {
  height: 12px;
  overflow: hidden;
  background: var(--line);
  border-radius: 6px;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--accent);
}
@media (max-width: 700px) {
  .said li {
    grid-template-columns: minmax(0, 1fr);
    gap: var(--space-1);
  }
}
.panel {
  padding: var(--space-2);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
</style>
