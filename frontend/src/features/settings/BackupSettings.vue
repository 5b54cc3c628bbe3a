<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import ToggleSwitch from 'primevue/toggleswitch'
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { count, day } from '@/shared/lib/format'

type State = Schemas['BackupState']
const EVERY_MS = 3000
const client = useQueryClient()
const { value: state, error: away } = useAsk(queries.backup, { everyMs: () => EVERY_MS })
const draft = ref<Schemas['BackupPlan']>({ folder: '', keep: 7, daily: true })
watch(
  state,
  (now, before) => {
    if (now && !before) draft.value = { folder: now.folder, keep: now.keep, daily: now.daily }
  },
  { immediate: true },
)
const put = (now: State) => client.setQueryData(queries.backup().queryKey, now)
const plan = useTell<State>(put)
const taking = useTell<State>(put)
const report = ref<Schemas['CheckReport'] | null>(null)
const checking = useTell<Schemas['CheckReport']>((found) => {
  report.value = found
})

const save = (): Promise<boolean> =>
  plan.tell(() => answer(api.PUT('/api/backup', { body: draft.value })) as Promise<State>)
const take = (): Promise<boolean> => taking.tell(() => answer(api.POST('/api/backup')) as Promise<State>)
const check = (): Promise<boolean> =>
  checking.tell(() => answer(api.GET('/api/check')) as Promise<Schemas['CheckReport']>)

function lastWords(s: State): string {
  if (!s.last_at) return 'No backup yet.'
  const at = new Date(s.last_at).toLocaleTimeString('en-GB').slice(0, 5)
  const size = ((s.last_bytes ?? 0) / 1e6).toFixed(1)
  return `Last backup ${day(s.last_at)}, ${at}: ${s.last_name}, ${size} MB, read back and proved.`
}
</script>

<template>
  <section>
    <h2>Backup</h2>
    <p class="soft">
      One file with everything: cameras, visits, kit and the frames themselves, in open formats. Choose a
      folder on another disk than the data. It is brought back by <code>neatpatch restore</code> into an empty
      folder.
    </p>
    <FailureNote :error="plan.error.value || taking.error.value || away" />
    <form @submit.prevent="save">
      <label class="grow"
        >Folder<InputText
          v-model="draft.folder"
          maxlength="1000"
          placeholder="Its whole path on this machine"
      /></label>
      <label>Keep the last<InputNumber v-model="draft.keep" :min="1" :max="365" /></label>
      <label>Every day<ToggleSwitch v-model="draft.daily" aria-label="Every day" /></label>
      <Button
        type="submit"
        label="Save"
        severity="secondary"
        variant="outlined"
        :disabled="plan.busy.value"
      />
    </form>
    <template v-if="state">
      <p role="status" :class="{ warn: state.overdue }">
        {{ state.running ? 'A backup is being taken.' : lastWords(state) }}
        <template v-if="state.overdue && !state.running"> It is days old.</template>
      </p>
      <p v-if="state.error" class="warn">The last try failed: {{ state.error }}</p>
      <p>
        <Button
          :label="taking.busy.value ? 'Backing up' : 'Back up now'"
          icon="pi pi-download"
          :disabled="!state.folder || taking.busy.value || state.running"
          @click="take"
        />
      </p>
    </template>
    <h2>Check</h2>
    <p class="soft">Holds every stored file against what was taken in, and the database against its rules.</p>
    <FailureNote :error="checking.error.value" />
    <p>
      <Button
        :label="checking.busy.value ? 'Checking' : 'Check now'"
        severity="secondary"
        variant="outlined"
        :disabled="checking.busy.value"
        @click="check"
      />
    </p>
    <div v-if="report" role="status">
      <p>
        <strong>{{ report.ok ? 'All is well.' : 'Not all is well.' }}</strong>
        {{ count(report.originals, 'stored file') }} and {{ count(report.maps, 'map') }} looked at.
      </p>
      <ul>
        <li v-for="f in report.found" :key="f.what + f.subject" :class="{ warn: f.lost }">{{ f.words }}</li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
}
.grow {
  flex: 1;
  min-width: 220px;
}
label :deep(.p-inputnumber-input) {
  width: 5rem;
}
.warn {
  color: var(--warn);
  font-weight: 600;
}
</style>
