<script setup lang="ts">
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable, { type DataTableSortEvent } from 'primevue/datatable'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Paginator from 'primevue/paginator'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, freshKey, type Body, type BodyView } from '@/api/client'
import { BODIES_A_PAGE, queries, type BodyOrder, type OnlyBodies } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBegin } from '@/shared/composables/useBegin'
import { useMe } from '@/shared/composables/useMe'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import BodyForm from './BodyForm.vue'
import { ACCESS_WORDS, freshBody } from '@/shared/lib/bodies'
import { VERDICT_WORDS } from '@/shared/lib/steps'
import { day, dayOf } from '@/shared/lib/format'

const props = defineProps<{ frame: number | null }>()
const router = useRouter()
const { by } = useSettings()
const first = ref(0)
const words = ref('')
const order = ref<BodyOrder>('name')
const only = ref<OnlyBodies>('all')
const ONLY = [
  { label: 'All cameras', value: 'all' },
  { label: 'Needs work', value: 'work' },
  { label: 'Visit open', value: 'open' },
  { label: 'At a service', value: 'away' },
] as const
const { value: page, error: away } = useAsk(
  () => queries.bodies(first.value, words.value, BODIES_A_PAGE, order.value, only.value),
  {
    keeps: true,
  },
)
/** Each column is sorted one way, by what matters most in it; the server sorts all, not this page alone. */
const sort = (event: DataTableSortEvent): void => {
  order.value = (event.sortField as BodyOrder | null) ?? 'name'
}
const today = dayOf(new Date())
const due = (on: string | null): boolean => on !== null && on <= today
function openBody(event: { data: BodyView }): void {
  void router.push({ name: 'body', params: { id: event.data.id } })
}
const { begin, error: notBegun } = useBegin()
const joining = useTell()
const form = useTell<{ id: number }>((made) => {
  adding.value = false
  return begin(made.id, props.frame)
})
const error = computed(() => notBegun.value || joining.error.value || away.value)
const adding = ref(false)
/** A frame waits and there is no camera to choose: one is asked for at once, where one may add it. */
const { isViewer } = useMe()
watch(page, (now, before) => {
  const none = now?.total === 0 && !words.value && only.value === 'all'
  if (none && !before && props.frame !== null && !isViewer.value) adding.value = true
})
let key = freshKey()
watch(adding, (now) => {
  if (!now) return
  key = freshKey()
  form.forget()
})
watch([words, order, only], () => {
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
        v-model="only"
        :options="[...ONLY]"
        option-label="label"
        option-value="value"
        aria-label="Cameras listed"
      />
      <Button class="works" label="Add a camera" icon="pi pi-plus" @click="adding = true" />
    </div>
    <FailureNote :error="error" />
    <DataTable
      v-if="page?.bodies.length"
      :value="page.bodies"
      data-key="id"
      lazy
      removable-sort
      :sort-field="order"
      :sort-order="1"
      selection-mode="single"
      class="list"
      @sort="sort"
      @row-select="openBody"
    >
      <Column header="Camera" sortable sort-field="name">
        <template #body="{ data }: { data: BodyView }">
          <RouterLink :to="{ name: 'body', params: { id: data.id } }">{{ data.body.name }}</RouterLink>
          <span class="soft kind"
            >{{ ACCESS_WORDS[data.body.access ?? 'mirrorless'] }}, {{ by(...data.body.sensor_mm)
            }}<template v-if="data.virtual">, virtual camera</template></span
          >
        </template>
      </Column>
      <Column header="Serial" sortable sort-field="serial" class="roomy">
        <template #body="{ data }: { data: BodyView }">{{ data.body.serial || '–' }}</template>
      </Column>
      <Column header="Last look" sortable sort-field="last_look" class="roomy">
        <template #body="{ data }: { data: BodyView }">
          <template v-if="data.last_closed_at"
            >{{ day(data.last_closed_at) }}
            <span class="soft kind">{{ VERDICT_WORDS[data.last_verdict ?? ''] }}</span></template
          >
          <template v-else>Never</template>
        </template>
      </Column>
      <Column header="Visible" sortable sort-field="visible" class="num">
        <template #body="{ data }: { data: BodyView }">{{ data.last_relevant ?? '–' }}</template>
      </Column>
      <Column header="Next look" sortable sort-field="next_look" class="room">
        <template #body="{ data }: { data: BodyView }">
          <span v-if="data.look_again_on" :class="{ due: due(data.look_again_on) }"
            >{{ day(data.look_again_on) }}<template v-if="due(data.look_again_on)">, due</template></span
          >
          <template v-else>–</template>
        </template>
      </Column>
      <Column header="Next job" class="roomy">
        <template #body="{ data }: { data: BodyView }">{{
          data.next_job_on ? day(data.next_job_on) : '–'
        }}</template>
      </Column>
      <Column header="Now">
        <template #body="{ data }: { data: BodyView }">
          <Button
            v-if="data.open_visit_id !== null"
            label="Continue"
            aria-label="Continue the visit"
            icon="pi pi-arrow-right"
            size="small"
            @click.stop="goOn(data.open_visit_id)"
            @keydown.enter.stop
            @keydown.space.stop
          />
          <template v-else>
            <span v-if="data.last_verdict === 'sent'" class="kind">At a service</span>
            <Button
              class="works"
              label="Begin"
              :aria-label="`Begin a visit of ${data.body.name}`"
              size="small"
              severity="secondary"
              variant="outlined"
              @click.stop="begin(data.id, frame)"
              @keydown.enter.stop
              @keydown.space.stop
            />
          </template>
        </template>
      </Column>
    </DataTable>
    <div v-else-if="page" class="empty">
      <p>
        {{
          words
            ? 'No camera has this in its name or serial number.'
            : only !== 'all'
              ? 'No camera stands like this now.'
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
.head {
  display: flex;
  gap: var(--space-3);
  align-items: center;
}
.head h1 {
  margin-right: auto;
}
.kind {
  display: block;
}
.due {
  font-weight: 600;
  color: var(--warn);
}
:deep(.num) {
  text-align: right;
}
:deep(tbody a) {
  font-weight: 650;
}
.empty {
  padding: var(--space-6) var(--space-3);
  text-align: center;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
@media (max-width: 760px) {
  .head {
    flex-wrap: wrap;
  }
  :deep(.roomy),
  .kind {
    display: none;
  }
}
@media (max-width: 480px) {
  .page {
    padding: var(--space-3);
  }
  :deep(.room) {
    display: none;
  }
}
</style>
