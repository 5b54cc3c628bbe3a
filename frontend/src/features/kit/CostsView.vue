<script setup lang="ts">
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import RadioButton from 'primevue/radiobutton'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { answerTagged, api, CHANGED, Refusal, seen, type Costs, type Prices } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import PlotCanvas from '@/shared/components/PlotCanvas.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { money } from '@/shared/lib/kit'
import { costsPlot, type PlotColours } from '@/shared/lib/plots'
import KitTabs from './KitTabs.vue'

type School = Costs['school']
const client = useQueryClient()
const { known, bodies, bodiesError } = useBodyNames()
const body = ref<number | null>(null)
const bodyId = computed({
  get: () => body.value ?? bodies.value[0]?.id ?? null,
  set: (id) => (body.value = id),
})
const wanted = ref<School | null>(null)
const earlier = ref(false)
const { value: costs, error: away } = useAsk(
  () =>
    known.value &&
    queries.costs({
      body_id: bodyId.value ?? undefined,
      school: wanted.value ?? undefined,
      earlier: earlier.value,
    }),
  { keeps: true },
)
const school = computed({
  get: () => wanted.value ?? costs.value?.school ?? null,
  set: (s) => (wanted.value = s),
})
const prices = ref<Prices | null>(null)
let version: string | number = 0
const { tell, refused, error: notKept } = useTell()
const error = computed(() => notKept.value || away.value || bodiesError.value)
const SCHOOL_WORDS: Record<School, string> = {
  lift: 'Lift',
  dry_swab: 'Dry swab',
  wet_swab: 'Wet swab',
  dry_wet_dry: 'Dry, wet, dry',
}
const currency = computed(() => prices.value?.currency ?? '€')
const make = computed(() => {
  const against = costs.value?.against
  return against?.rows.some((r) => r.own != null) ? (c: PlotColours) => costsPlot(against, c) : null
})
/** Cleans a year from which the own kit's first year is the cheaper. */
const evens = computed(() => {
  const { beats_service_from: service, beats_membership_from: membership } = costs.value?.against ?? {}
  return [
    service ? `${service} against the service` : '',
    membership ? `${membership} against the membership` : '',
  ].filter(Boolean)
})
const WAYS = [
  { field: 'own', header: 'Own kit, first year' },
  { field: 'service', header: 'Service' },
  { field: 'membership', header: 'Membership' },
] as const
const best = (row: Costs['against']['rows'][number]): number =>
  Math.min(...[row.own, row.service, row.membership].filter((v) => v != null))

watch(
  costs,
  (now) => {
    if (now && !prices.value) takePrices(now)
  },
  { immediate: true },
)

function takePrices(from: Costs): void {
  prices.value = { ...from.prices }
  version = from.prices_version
}

async function keep(): Promise<void> {
  const body = prices.value
  if (!body) return
  const kept = await tell(async () => {
    const call = api.PUT('/api/prices', { params: { header: seen(version) }, body })
    version = (await answerTagged(call)).version
  })
  await Promise.all([
    client.invalidateQueries({ queryKey: ['costs'] }),
    client.invalidateQueries({ queryKey: ['prices'] }),
  ])
  const elsewhere = refused.value instanceof Refusal && refused.value.kind === CHANGED
  if (!kept && elsewhere && costs.value) takePrices(costs.value)
}
</script>

<template>
  <section class="page">
    <div>
      <KitTabs />
      <h1>Costs</h1>
    </div>
    <FailureNote :error="error" />
    <div v-if="costs && prices" class="sides">
      <section class="panel" aria-label="Own kit or service">
        <h2>Own kit or a service?</h2>
        <p class="answer">{{ costs.against.words }}</p>
        <div class="row">
          <label
            >Service, a clean<InputNumber
              v-model="prices.service_fee"
              :min="0"
              :max-fraction-digits="2"
              :prefix="`${currency} `"
              @update:model-value="keep"
          /></label>
          <label
            >Return postage<InputNumber
              v-model="prices.postage"
              :min="0"
              :max-fraction-digits="2"
              :prefix="`${currency} `"
              @update:model-value="keep"
          /></label>
          <label
            >Membership, year<InputNumber
              v-model="prices.membership_fee"
              :min="0"
              :max-fraction-digits="2"
              :prefix="`${currency} `"
              @update:model-value="keep"
          /></label>
          <label
            >Cleans included<InputNumber
              v-model="prices.membership_cleans"
              :min="0"
              :max="1000"
              @update:model-value="keep"
          /></label>
          <label
            >Currency<InputText v-model="prices.currency" maxlength="6" class="short" @change="keep"
          /></label>
        </div>
        <PlotCanvas v-if="make" :make="make" :says="`Cost of a year by cleans. ${costs.against.words}`" />
        <p class="soft">
          ● own kit (broken line: later years) ■ service ▲ membership<template v-if="evens.length"
            >; ┆ own kit cheaper from {{ evens.join(', ') }}</template
          >
        </p>
        <DataTable :value="costs.against.rows" data-key="cleans" size="small">
          <Column field="cleans" header="Cleans a year" />
          <Column v-for="way in WAYS" :key="way.field" :header="way.header" class="num">
            <template #body="{ data }">
              <span :class="{ best: data[way.field] != null && data[way.field] === best(data) }">{{
                money(data[way.field], currency)
              }}</span>
            </template>
          </Column>
        </DataTable>
        <p class="soft">
          First year with what lasts ({{
            costs.against.lasting === null ? 'not all priced' : money(costs.against.lasting, currency)
          }}).
        </p>
      </section>
      <div class="right">
        <section class="panel" aria-label="One clean">
          <h2>One clean, by method</h2>
          <label v-if="bodies.length" class="who"
            >of<Select
              v-model="bodyId"
              :options="bodies"
              option-label="name"
              option-value="id"
              :filter="bodies.length > 12"
              aria-label="Camera"
          /></label>
          <p v-if="!costs.schools.length" class="soft">Add a camera first.</p>
          <DataTable v-else :value="costs.schools" data-key="school" size="small">
            <Column header="Method">
              <template #body="{ data }">
                <label class="pick"
                  ><RadioButton v-model="school" :value="data.school" name="school" />
                  <strong>{{ SCHOOL_WORDS[data.school as School] }}</strong></label
                >
              </template>
            </Column>
            <Column header="Uses">
              <template #body="{ data }"
                ><span class="soft"
                  >{{ data.pieces.join(', ')
                  }}<span v-if="data.missing?.length" class="miss"
                    >no price of {{ data.missing.join(', ') }}</span
                  ></span
                ></template
              >
            </Column>
            <Column header="Cost" class="num">
              <template #body="{ data }"
                ><strong>{{ money(data.cost, currency) }}</strong></template
              >
            </Column>
          </DataTable>
        </section>
        <section class="panel" aria-label="By camera and year">
          <h2>Used up, by camera and year</h2>
          <DataTable v-if="costs.by_year.length" :value="costs.by_year" size="small">
            <Column field="year" header="Year" />
            <Column field="body" header="Camera" />
            <Column field="cleans" header="Visits" class="num" />
            <Column header="Cost" class="num">
              <template #body="{ data }"
                >{{ money(data.cost, currency)
                }}<span v-if="data.unpriced" class="soft"> +{{ data.unpriced }} unpriced</span></template
              >
            </Column>
          </DataTable>
          <p v-else class="soft">Nothing used yet.</p>
          <Button
            v-if="!earlier"
            class="all"
            label="Earlier years"
            size="small"
            severity="secondary"
            variant="text"
            @click="earlier = true"
          />
        </section>
      </div>
    </div>
  </section>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: var(--space-3);
  align-items: start;
}
.right {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: var(--space-3);
}
.panel {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: var(--space-2);
  padding: var(--space-3) var(--space-3) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.answer {
  font-size: var(--text-lead);
  font-weight: 600;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-2);
}
label {
  display: grid;
  gap: var(--space-1);
  font-size: var(--text-small);
}
.who {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
.pick {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  white-space: nowrap;
}
label :deep(.p-inputnumber-input) {
  width: 5.2rem;
}
.short {
  width: 4.5rem;
}
:deep(.num) {
  text-align: right;
  white-space: nowrap;
}
:deep(.num .p-datatable-column-header-content) {
  justify-content: end;
}
.best {
  font-weight: 700;
  color: var(--good);
}
.best::before {
  content: '✓ ';
}
.all {
  justify-self: start;
}
.miss {
  display: block;
  color: var(--warn);
}
@media (max-width: 900px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
