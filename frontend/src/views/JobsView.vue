<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, freshKey, seen, type BookedJob, type Readiness } from '../api/client'
import JobCard from '../components/JobCard.vue'
import JobForm from '../components/JobForm.vue'
import { useRun } from '../composables/useRun'
import { useBodyNames } from '../composables/useBodyNames'
import ToBuyList from '../components/ToBuyList.vue'

const router = useRouter()
const { value: ready, error, run } = useRun<Readiness>()
const { bodies, bodiesError } = useBodyNames()
const currency = ref('€')
const formError = ref('')
const open = ref(false)
const editing = ref<BookedJob | null>(null)

onMounted(async () => {
  await run(() => answer(api.GET('/api/readiness')))
  try {
    currency.value = (await answer(api.GET('/api/prices'))).currency ?? '€'
  } catch (problem) {
    error.value = (problem as Error).message
  }
})

let adding = { header: { 'Idempotency-Key': freshKey() } }

function edit(job: BookedJob | null): void {
  editing.value = job
  adding = { header: { 'Idempotency-Key': freshKey() } }
  formError.value = ''
  open.value = true
}

const path = (job: BookedJob) => ({ params: { path: { booking_id: job.id ?? 0 } } })

async function save(job: BookedJob): Promise<void> {
  const old = editing.value
  const versioned = old ? { params: { ...path(old).params, header: seen(old.version ?? 1) } } : null
  const call = () => (versioned ? api.PUT('/api/bookings/{booking_id}', { ...versioned, body: job }) : api.POST('/api/bookings', { params: adding, body: job }))
  if (await run(() => answer(call() as Promise<{ data?: unknown }>), formError)) open.value = false
  else if (old) await lookAgain(old)
}

/** After a refusal to overwrite: what is there now, so that saving once more is meant. */
async function lookAgain(old: BookedJob): Promise<void> {
  try {
    ready.value = (await answer(api.GET('/api/readiness'))) as Readiness
    editing.value = ready.value.jobs.find((j) => j.job.id === old.id)?.job ?? null
  } catch {
    // The form shows why it could not be saved.
  }
}

async function remove(): Promise<void> {
  const old = editing.value
  if (old && (await run(() => answer(api.DELETE('/api/bookings/{booking_id}', path(old)))))) open.value = false
}

async function begin(body_id: number): Promise<void> {
  try {
    const visit = await answer(api.POST('/api/visits', { body: { body_id } }))
    await router.push({ name: 'visit', params: { id: visit.id } })
  } catch (problem) {
    error.value = (problem as Error).message
  }
}
</script>

<template>
  <section class="page">
    <div class="head">
      <div><h1>Ready for the next job?</h1><p class="soft">Every body looked at within two weeks of it, the kit complete, and time for an order or a service.</p></div>
      <Button label="Book a job" icon="pi pi-plus" @click="edit(null)" />
    </div>
    <Message v-if="error || bodiesError" severity="error" :closable="false">{{ error || bodiesError }}</Message>
    <div v-if="ready?.jobs.length" class="sides">
      <div class="jobs"><JobCard v-for="j in ready.jobs" :key="j.job.id" :ready="j" @edit="edit(j.job)" @begin="begin" /></div>
      <ToBuyList :lines="ready.to_buy" :currency="currency" />
    </div>
    <div v-else-if="ready" class="empty">
      <p>No job ahead. Book the next one, and you are told in time what to look at and what to buy.</p>
    </div>
    <JobForm v-model:open="open" :job="editing" :bodies="bodies" :error="formError" @save="save" @remove="remove" />
  </section>
</template>

<style scoped>
.page { display: grid; gap: 0.9rem; max-width: 1240px; margin: 0 auto; padding: 1.2rem 2rem; }
.head { display: flex; gap: 1rem; align-items: center; justify-content: space-between; }
.sides { display: grid; grid-template-columns: minmax(0, 1fr) 380px; gap: 1.2rem; align-items: start; }
.jobs { display: grid; gap: 0.9rem; }
.empty { padding: 4rem 1rem; text-align: center; color: var(--ink-soft); border: 1px solid var(--line); border-radius: 5px; }
@media (max-width: 900px) { .sides { grid-template-columns: 1fr; } }
</style>
