<script setup lang="ts">
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import Message from 'primevue/message'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, CHANGED, Refusal, seen, type Body, type BodyDetail } from '@/api/client'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useAim } from '@/shared/composables/useIntake'
import { useBegin } from '@/shared/composables/useBegin'
import { useQuestion } from '@/shared/composables/useQuestion'
import { useTell } from '@/shared/composables/useTell'
import BodyFacts from './BodyFacts.vue'
import BodyForm from './BodyForm.vue'
import BodyHistory from './BodyHistory.vue'
import BodyLead from './BodyLead.vue'
import DustArrivals from './DustArrivals.vue'
import { VERDICT_WORDS } from '@/shared/lib/steps'
import { count, day } from '@/shared/lib/format'
import { setTitle } from '@/shared/lib/title'

/** `edit`: opened to change it at once. */
const props = defineProps<{ id: number; edit?: boolean }>()
const client = useQueryClient()
const { value: detail, error: away, again } = useAsk(() => queries.body(props.id))
watch(detail, (now) => now && setTitle(now.body.name, 'camera'), { immediate: true })
const { begin, error: notBegun } = useBegin()
const error = computed(() => removing.error.value || notBegun.value || away.value)
const form = useTell<BodyDetail>((now) => {
  client.setQueryData(queries.body(props.id).queryKey, now)
  editing.value = false
})
useAim(() => ({ body: props.id }))
const router = useRouter()
const ask = useQuestion()
const removing = useTell(() => router.push({ name: 'bodies' }))
function askDelete(): void {
  const d = detail.value
  if (!d) return
  const goes = d.visits.length ? `Its ${count(d.visits.length, 'visit')} with all steps` : 'Its record'
  ask(
    'Delete this camera?',
    `${d.body.name}: ${goes.toLowerCase()} and what was learned of its sensor go for good. ` +
      `Its ${count(d.frames, 'frame')} and what was used of the kit stay.`,
    'Delete the camera',
    () =>
      removing.tell(() =>
        answer(api.DELETE('/api/bodies/{body_id}', { params: { path: { body_id: props.id } } }), true),
      ),
  )
}
const editing = ref(props.edit)
let opened = 0
watch([editing, () => detail.value === null], ([now, waiting]) => {
  if (!now || waiting) return
  opened = detail.value?.version ?? 0
  form.forget()
})

async function save(body: Body): Promise<void> {
  const params = { path: { body_id: props.id }, header: seen(opened) }
  const kept = await form.tell(
    () => answer(api.PUT('/api/bodies/{body_id}', { params, body })) as Promise<BodyDetail>,
  )
  const refused = form.refused.value
  if (!kept && refused instanceof Refusal && refused.kind === CHANGED) {
    await again()
    opened = detail.value?.version ?? opened
  }
}
</script>

<template>
  <section class="page">
    <p><BackLink :home="{ name: 'bodies' }" home-words="Cameras" /></p>
    <FailureNote :error="error" />
    <template v-if="detail">
      <div class="head">
        <h1>{{ detail.body.name }}</h1>
        <RouterLink
          v-if="detail.open_visit_id"
          class="go"
          :to="{ name: 'visit', params: { id: detail.open_visit_id } }"
          >Continue the open visit</RouterLink
        >
        <Button class="works" v-else label="Begin a visit" @click="begin(id)" />
        <Button
          class="works"
          v-if="!editing"
          label="Edit"
          icon="pi pi-pencil"
          severity="secondary"
          variant="outlined"
          @click="editing = true"
        />
        <Button
          v-if="!editing"
          class="deletes"
          label="Delete"
          icon="pi pi-trash"
          severity="secondary"
          variant="text"
          @click="askDelete"
        />
      </div>
      <Message v-if="detail.size_doubt" severity="warn" :closable="false"
        >{{ detail.size_doubt }}
        <button class="link" @click="editing = true">Edit the camera</button></Message
      >
      <BodyHistory v-if="!editing" :body-id="id"><BodyLead :detail="detail" /></BodyHistory>
      <BodyForm
        v-if="editing"
        class="panel"
        :body="detail.body"
        :error="form.error.value"
        label="Save"
        @save="save"
        @back="editing = false"
      />
      <DustArrivals v-if="!editing" :body-id="id" />
      <h2>Visits</h2>
      <DataTable v-if="detail.visits.length" :value="detail.visits" data-key="id" size="small">
        <Column header="Begun" sortable sort-field="opened_at">
          <template #body="{ data }"
            ><RouterLink :to="{ name: 'visit', params: { id: data.id } }">{{
              day(data.opened_at)
            }}</RouterLink></template
          >
        </Column>
        <Column header="Why">
          <template #body="{ data }">{{ data.why_now || '–' }}</template>
        </Column>
        <Column header="Visible" sortable sort-field="last_relevant">
          <template #body="{ data }"
            >{{ data.first_relevant ?? '–' }} → {{ data.last_relevant ?? '–' }}</template
          >
        </Column>
        <Column header="Ended" sortable sort-field="closed_at">
          <template #body="{ data }"
            >{{ data.state === 'open' ? 'open' : VERDICT_WORDS[data.verdict]
            }}<span v-if="data.note" class="soft"> {{ data.note }}</span></template
          >
        </Column>
      </DataTable>
      <p v-else class="soft">No visit yet.</p>
      <BodyFacts v-if="!editing" :detail="detail" />
    </template>
  </section>
</template>

<style scoped>
.panel {
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: center;
}
.head h1 {
  margin-right: auto;
}
.go {
  padding: var(--space-2) var(--space-3);
  font-weight: 600;
  color: var(--panel);
  background: var(--accent);
  border-radius: 4px;
  text-decoration: none;
}
</style>
