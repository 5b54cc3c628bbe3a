<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { answer, api, freshKey, seen, type BookedJob, type Readiness } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import JobCard from './JobCard.vue'
import JobForm from './JobForm.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBegin } from '@/shared/composables/useBegin'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { usePrices } from '@/shared/composables/usePrices'
import { useTell } from '@/shared/composables/useTell'
import NextLooks from '@/shared/components/NextLooks.vue'
import ToBuyList from './ToBuyList.vue'
import { JOB_ORDERS, JOB_STATES, jobsWanted, type JobOrder, type JobState } from './wanted'

const client = useQueryClient()
const { value: ready, error: away } = useAsk(queries.readiness)
const { bodies, bodiesError } = useBodyNames()
const { currency, error: pricesAway } = usePrices()
/** Every change gives the readiness anew. */
const put = (now: Readiness) => client.setQueryData(queries.readiness().queryKey, now)
const form = useTell<Readiness>(put)
const removing = useTell<Readiness>(put)
const beginning = useBegin()
const error = computed(
  () => removing.error.value || beginning.error.value || away.value || bodiesError.value || pricesAway.value,
)
const words = ref('')
const state = ref<JobState | 'all'>('all')
const order = ref<JobOrder>('day')
const shown = computed(() => jobsWanted(ready.value?.jobs ?? [], words.value, state.value, order.value))
const open = ref(false)
const editing = ref<BookedJob | null>(null)
const keyed = () => ({ header: { 'Idempotency-Key': freshKey() } })
let adding = keyed()
const changed = (call: Promise<{ data?: unknown; error?: unknown }>) => answer(call) as Promise<Readiness>

function edit(job: BookedJob | null): void {
  editing.value = job
  adding = keyed()
  form.forget()
  open.value = true
}

const path = (job: BookedJob) => ({ path: { booking_id: job.id ?? 0 } })

async function save(job: BookedJob): Promise<void> {
  const old = editing.value
  const done = await form.tell(() =>
    changed(
      old
        ? api.PUT('/api/bookings/{booking_id}', {
            params: { ...path(old), header: seen(old.version ?? 1) },
            body: job,
          })
        : api.POST('/api/bookings', { params: adding, body: job }),
    ),
  )
  if (done) open.value = false
  else if (old) await lookAgain(old)
}

/** After a refusal to overwrite: what is there now, so that saving once more is meant. */
async function lookAgain(old: BookedJob): Promise<void> {
  await client.invalidateQueries({ queryKey: queries.readiness().queryKey })
  editing.value = ready.value?.jobs.find((j) => j.job.id === old.id)?.job ?? null
}

async function remove(): Promise<void> {
  const old = editing.value
  if (!old) return
  const done = await removing.tell(() =>
    changed(api.DELETE('/api/bookings/{booking_id}', { params: path(old) })),
  )
  if (done) open.value = false
}
</script>

<template>
  <section class="page">
    <div class="head">
      <div>
        <h1>Ready for the next job?</h1>
      </div>
      <span class="do">
        <RouterLink :to="{ name: 'calendar' }">Calendar</RouterLink>
        <Button class="works" label="Book a job" icon="pi pi-plus" @click="edit(null)" />
      </span>
    </div>
    <FailureNote :error="error" />
    <div v-if="ready?.jobs.length" class="sides">
      <div class="jobs">
        <div v-if="ready.jobs.length > 1" class="search" role="search" aria-label="Jobs">
          <InputText
            v-model="words"
            placeholder="Find a job or a camera"
            aria-label="Find a job or a camera"
            size="small"
          />
          <Select
            v-model="state"
            :options="JOB_STATES"
            option-label="label"
            option-value="value"
            size="small"
            aria-label="Jobs listed"
          />
          <Select
            v-model="order"
            :options="JOB_ORDERS"
            option-label="label"
            option-value="value"
            size="small"
            aria-label="Order"
          />
        </div>
        <p v-if="!shown.length" class="soft" role="status">
          No job is like this. Change the words or list all jobs.
        </p>
        <JobCard v-for="j in shown" :key="j.job.id" :ready="j" @edit="edit(j.job)" @begin="beginning.begin" />
      </div>
      <ToBuyList :lines="ready.to_buy" :currency="currency" />
    </div>
    <div v-else-if="ready" class="empty">
      <p>No job ahead. Book the next one: you are told in time what to look at and buy.</p>
    </div>
    <NextLooks />
    <JobForm
      v-model:open="open"
      :job="editing"
      :bodies="bodies"
      :error="form.error.value"
      @save="save"
      @remove="remove"
    />
  </section>
</template>

<style scoped>
.head {
  display: flex;
  gap: var(--space-3);
  align-items: center;
  justify-content: space-between;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: var(--space-3);
  align-items: start;
}
.jobs {
  display: grid;
  gap: var(--space-3);
}
.do {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: center;
}
.search {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
.search > :first-child {
  flex: 1 1 200px;
}
.empty {
  padding: var(--space-6) var(--space-3);
  text-align: center;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
@media (max-width: 900px) {
  .sides {
    grid-template-columns: 1fr;
  }
}
</style>
