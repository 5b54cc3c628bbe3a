<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import Paginator from 'primevue/paginator'
import { onMounted, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, freshKey, type Body, type BodyView } from '../api/client'
import { useSettings } from '../composables/useSettings'
import BodyForm from '../components/BodyForm.vue'
import { ACCESS_WORDS, freshBody, size } from '../lib/bodies'
import { count, day } from '../lib/format'

const PAGE = 25
const props = defineProps<{ frame: number | null }>()
const router = useRouter()
const { say } = useSettings()
const bodies = ref<BodyView[] | null>(null)
const total = ref(0)
const first = ref(0)
const words = ref('')
const error = ref('')
const formError = ref('')
const adding = ref(false)
let key = freshKey()
watch(adding, (now) => { if (now) key = freshKey() })

async function load(): Promise<void> {
  try {
    const page = await answer(api.GET('/api/bodies', { params: { query: { first: first.value, count: PAGE, words: words.value } } }))
    bodies.value = page.bodies as BodyView[]
    total.value = page.total
    error.value = ''
  } catch (problem) {
    error.value = (problem as Error).message
  }
}

async function add(body: Body): Promise<void> {
  try {
    const made = await answer(api.POST('/api/bodies', { params: { header: { 'Idempotency-Key': key } }, body }))
    adding.value = false
    await begin(made.id)
  } catch (problem) {
    formError.value = (problem as Error).message
  }
}

async function begin(body_id: number): Promise<void> {
  try {
    const visit = await answer(api.POST('/api/visits', { body: { body_id, frame_id: props.frame } }))
    await router.push({ name: 'visit', params: { id: visit.id } })
  } catch (problem) {
    error.value = (problem as Error).message
  }
}

async function goOn(visitId: number): Promise<void> {
  if (props.frame !== null) {
    await answer(api.POST('/api/visits/{visit_id}/frames', { params: { path: { visit_id: visitId } }, body: { frame_id: props.frame } }))
  }
  await router.push({ name: 'visit', params: { id: visitId } })
}

onMounted(load)
watch(words, () => {
  first.value = 0
  void load()
})
</script>

<template>
  <section class="page">
    <div class="head">
      <h1>{{ frame === null ? 'Bodies' : 'Whose frame is it?' }}</h1>
      <InputText v-model="words" placeholder="Find by name" aria-label="Find by name" />
      <Button label="Add a body" icon="pi pi-plus" @click="adding = true" />
    </div>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <ul v-if="bodies?.length" class="list">
      <li v-for="b in bodies" :key="b.id">
        <div class="who">
          <RouterLink :to="{ name: 'body', params: { id: b.id } }">{{ b.body.name }}</RouterLink>
          <span class="soft">{{ ACCESS_WORDS[b.body.access ?? 'mirrorless'] }}, {{ say(size(b.body)) }}<template v-if="b.virtual">, virtual camera</template></span>
        </div>
        <span class="last">
          <template v-if="b.last_closed_at">{{ count(b.visits, 'visit') }}, last {{ day(b.last_closed_at) }}: {{ b.last_verdict?.replace('_', ' ') }}<template v-if="b.last_relevant !== null">, {{ b.last_relevant }} left</template></template>
          <template v-else>Never looked at</template>
        </span>
        <Button v-if="b.open_visit_id !== null" label="Go on with the visit" icon="pi pi-arrow-right" size="small" @click="goOn(b.open_visit_id)" />
        <Button v-else label="Begin a visit" size="small" severity="secondary" variant="outlined" @click="begin(b.id)" />
      </li>
    </ul>
    <div v-else-if="bodies" class="empty">
      <p>{{ words ? 'No body has this in its name.' : 'No body yet. Add the camera you want to look after.' }}</p>
    </div>
    <p v-else-if="!error" role="status">Loading the bodies</p>
    <Paginator v-if="total > PAGE" :rows="PAGE" :total-records="total" :first="first" @page="first = $event.first; load()" />
    <Dialog v-model:visible="adding" modal header="Add a body" :style="{ width: '820px' }">
      <BodyForm :body="freshBody()" :error="formError" label="Add, and begin a visit" @save="add" @back="adding = false" />
    </Dialog>
  </section>
</template>

<style scoped>
.page { display: grid; gap: 1rem; max-width: 1100px; margin: 0 auto; padding: 1.4rem 2rem; }
.head { display: flex; gap: 1rem; align-items: center; }
.head h1 { margin-right: auto; }
.list { display: grid; gap: 0.6rem; margin: 0; padding: 0; list-style: none; }
li { display: grid; grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) auto; gap: 1rem; align-items: center; padding: 0.8rem 1rem; background: var(--panel); border: 1px solid var(--line); border-radius: 5px; }
.who { display: grid; }
.who a { font-weight: 650; font-size: 1.1rem; }
.empty { padding: 4rem 1rem; text-align: center; color: var(--ink-soft); border: 1px solid var(--line); border-radius: 5px; }
</style>
