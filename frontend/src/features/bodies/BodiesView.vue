<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Paginator from 'primevue/paginator'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, freshKey, type Body } from '@/api/client'
import { BODIES_A_PAGE, queries, type BodyOrder } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBegin } from '@/shared/composables/useBegin'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import BodyForm from './BodyForm.vue'
import { ACCESS_WORDS, freshBody } from '@/shared/lib/bodies'
import { VERDICT_WORDS } from '@/shared/lib/steps'
import { count, day } from '@/shared/lib/format'

const props = defineProps<{ frame: number | null }>()
const router = useRouter()
const { by } = useSettings()
const first = ref(0)
const words = ref('')
const order = ref<BodyOrder>('name')
const ORDERS = [
  { label: 'By name', value: 'name' },
  { label: 'Next look first', value: 'next_look' },
  { label: 'Last looked at first', value: 'last_look' },
  { label: 'Most visible first', value: 'visible' },
] as const
const { value: page, error: away } = useAsk(
  () => queries.bodies(first.value, words.value, BODIES_A_PAGE, order.value),
  {
    keeps: true,
  },
)
const { begin, error: notBegun } = useBegin()
const joining = useTell()
const form = useTell<{ id: number }>((made) => {
  adding.value = false
  return begin(made.id, props.frame)
})
const error = computed(() => notBegun.value || joining.error.value || away.value)
const adding = ref(false)
let key = freshKey()
watch(adding, (now) => {
  if (!now) return
  key = freshKey()
  form.forget()
})
watch([words, order], () => {
  first.value = 0
})

/** Enter in the search opens the first that is found. */
function openFirst(): void {
  const found = page.value?.bodies[0]
  if (found && words.value) void router.push({ name: 'body', params: { id: found.id } })
}

function add(body: Body): void {
  const params = { header: { 'Idempotency-Key': key } }
  void form.tell(() => answer(api.POST('/api/bodies', { params, body })))
}

/** Go to the open visit; the frame that is being filed comes along. */
async function goOn(visit_id: number): Promise<void> {
  const frame_id = props.frame
  const joined =
    frame_id === null ||
    (await joining.tell(() =>
      answer(
        api.POST('/api/visits/{visit_id}/frames', { params: { path: { visit_id } }, body: { frame_id } }),
      ),
    ))
  if (joined) await router.push({ name: 'visit', params: { id: visit_id } })
}
</script>

<template>
  <section class="page">
    <div class="head">
      <h1>{{ frame === null ? 'Cameras' : 'Whose frame is it?' }}</h1>
      <InputText
        v-model="words"
        placeholder="Find by name or serial"
        aria-label="Find by name or serial"
        @keydown.enter="openFirst"
      />
      <Select
        v-model="order"
        :options="[...ORDERS]"
        option-label="label"
        option-value="value"
        aria-label="Order"
      />
      <Button label="Add a camera" icon="pi pi-plus" @click="adding = true" />
    </div>
    <FailureNote :error="error" />
    <ul v-if="page?.bodies.length" class="list">
      <li v-for="b in page.bodies" :key="b.id">
        <div class="who">
          <RouterLink :to="{ name: 'body', params: { id: b.id } }">{{ b.body.name }}</RouterLink>
          <span class="soft"
            >{{ ACCESS_WORDS[b.body.access ?? 'mirrorless'] }}, {{ by(...b.body.sensor_mm)
            }}<template v-if="b.virtual">, virtual camera</template></span
          >
        </div>
        <span class="last">
          <template v-if="b.last_closed_at"
            >{{ count(b.visits, 'visit') }}, last {{ day(b.last_closed_at) }}:
            {{ VERDICT_WORDS[b.last_verdict ?? '']
            }}<template v-if="b.last_relevant !== null">, {{ b.last_relevant }} left</template></template
          >
          <template v-else>Never looked at</template>
        </span>
        <Button
          v-if="b.open_visit_id !== null"
          label="Continue the visit"
          icon="pi pi-arrow-right"
          size="small"
          @click="goOn(b.open_visit_id)"
        />
        <Button
          v-else
          label="Begin a visit"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="begin(b.id, frame)"
        />
      </li>
    </ul>
    <div v-else-if="page" class="empty">
      <p>
        {{
          words
            ? 'No camera has this in its name or serial number.'
            : 'No camera yet. Add the one you want to look after.'
        }}
      </p>
    </div>
    <p v-else-if="!error" role="status">Loading the cameras</p>
    <Paginator
      v-if="page && page.total > BODIES_A_PAGE"
      :rows="BODIES_A_PAGE"
      :total-records="page.total"
      :first="first"
      @page="first = $event.first"
    />
    <Dialog v-model:visible="adding" modal header="Add a camera" :style="{ width: '820px' }">
      <BodyForm
        :body="freshBody()"
        :error="form.error.value"
        label="Add, and begin a visit"
        @save="add"
        @back="adding = false"
      />
    </Dialog>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  gap: var(--space-3);
  max-width: 1100px;
  margin: 0 auto;
  padding: 1.4rem var(--space-5);
}
.head {
  display: flex;
  gap: var(--space-3);
  align-items: center;
}
.head h1 {
  margin-right: auto;
}
.list {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) 180px;
  gap: var(--space-3);
  align-items: center;
  padding: 0.8rem var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.who {
  display: grid;
}
.who a {
  font-weight: 650;
  font-size: var(--text-lead);
}
.empty {
  padding: 4rem var(--space-3);
  text-align: center;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
li > :deep(.p-button) {
  justify-self: end;
}
@media (max-width: 760px) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
  li > :deep(.p-button) {
    justify-self: start;
  }
}
</style>
