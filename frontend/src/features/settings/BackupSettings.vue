<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import ProgressBar from 'primevue/progressbar'
import ToggleSwitch from 'primevue/toggleswitch'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useQuestion } from '@/shared/composables/useQuestion'
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
const LOOK_MS = 400
type Chore = Schemas['Chore']
const { value: kept, error: choreAway } = useAsk(queries.chore, {
  everyMs: (now) => (now?.chore?.state === 'running' ? LOOK_MS : EVERY_MS),
})
const chore = computed(() => kept.value?.chore ?? null)
const running = computed(() => chore.value?.state === 'running')
const beginning = useTell<Schemas['LastChore']>((now) => client.setQueryData(queries.chore().queryKey, now))
watch(
  () => chore.value?.state,
  (now, before) => {
    if (before === 'running' && now === 'done') void client.invalidateQueries()
  },
)
const archive = ref('')
const CHORE_WORDS: Record<Chore['kind'], string> = {
  backup: 'Backing up',
  check: 'Checking',
  merge: 'Merging',
}
const begun = (kind: Chore['kind']): Promise<boolean> =>
  beginning.tell(() => answer(api.POST('/api/backup/chore', { body: { kind, archive: archive.value } })))
const stop = (): Promise<boolean> => beginning.tell(() => answer(api.DELETE('/api/backup/chore')))
/** What came of the last one of a kind. */
const ended = (kind: Chore['kind']): Chore | null =>
  chore.value?.kind === kind && chore.value.state !== 'running' ? chore.value : null
const report = computed(() => ended('check')?.report ?? null)

const save = (): Promise<boolean> => plan.tell(() => answer(api.PUT('/api/backup', { body: draft.value })))

const megabytes = computed(() => ((state.value?.set_aside.bytes ?? 0) / 1e6).toFixed(1))
const ask = useQuestion()
function askDelete(): void {
  const files = count(state.value?.set_aside.old ?? 0, 'file')
  ask('Delete what was set aside?', `${files} that no frame names; they are gone for good.`, 'Delete', () =>
    plan.tell(() => answer(api.DELETE('/api/backup/aside'))),
  )
}

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
      folder, or merged into one in use below.
    </p>
    <FailureNote :error="plan.error.value || beginning.error.value || away || choreAway" />
    <form @submit.prevent="save">
      <label class="grow"
        >Folder<InputText v-model="draft.folder" maxlength="1000" placeholder="Folder path"
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
      </p>
      <p v-if="state.overdue && !state.running && state.none_since" class="warn" role="alert">
        No backup was made since {{ day(state.none_since) }}.
      </p>
      <p v-if="state.error" class="warn">The last try failed: {{ state.error }}</p>
      <p>
        <Button
          label="Back up now"
          icon="pi pi-download"
          :disabled="!state.folder || running || state.running"
          @click="begun('backup')"
        />
      </p>
      <p v-if="ended('backup')" role="status" :class="{ warn: ended('backup')?.state === 'failed' }">
        {{ ended('backup')?.words }}
      </p>
    </template>
    <div v-if="chore && running" class="running" role="status">
      <strong>{{ CHORE_WORDS[chore.kind] }}</strong>
      <ProgressBar :value="Math.round(100 * chore.progress)" :aria-label="CHORE_WORDS[chore.kind]" />
      <Button label="Stop" size="small" severity="secondary" variant="outlined" @click="stop" />
    </div>
    <h2>Check</h2>
    <p class="soft">Holds every stored file against what was taken in, and the database against its rules.</p>
    <p>
      <Button
        label="Check now"
        severity="secondary"
        variant="outlined"
        :disabled="running"
        @click="begun('check')"
      />
    </p>
    <p v-if="ended('check') && !report" class="warn">{{ ended('check')?.words }}</p>
    <div v-if="report" role="status">
      <p>
        <strong>{{ report.ok ? 'All is well.' : 'Not all is well.' }}</strong>
        {{ count(report.originals, 'stored file') }} and {{ count(report.maps, 'map') }} looked at.
      </p>
      <ul>
        <li v-for="f in report.found" :key="f.what + f.subject" :class="{ warn: f.lost }">{{ f.words }}</li>
      </ul>
    </div>
    <template v-if="state?.set_aside.count">
      <h2>Set aside</h2>
      <p>
        {{ count(state.set_aside.count, 'stored file') }} that no frame names, {{ megabytes }} MB, in
        <code>{{ state.set_aside.folder }}</code>. They come back with the rows that name them, for example
        when a later copy of the database is put back.
      </p>
      <p>
        <Button
          :label="`Delete ${state.set_aside.old} of them`"
          severity="secondary"
          variant="outlined"
          :disabled="!state.set_aside.old"
          @click="askDelete"
        />
        <span v-if="!state.set_aside.old" class="soft"> Files can be deleted after thirty days here.</span>
      </p>
    </template>
    <h2>Merge a backup</h2>
    <p class="soft">
      Adds what a backup has and this folder lacks: cameras, visits, frames, kit, jobs. What is here already
      stays as it is, nothing is doubled. Settings are not touched.
    </p>
    <form @submit.prevent="begun('merge')">
      <label class="grow"
        >Backup file<InputText v-model="archive" maxlength="1000" placeholder="Folder path"
      /></label>
      <Button
        type="submit"
        label="Merge"
        severity="secondary"
        variant="outlined"
        :disabled="!archive || running"
      />
    </form>
    <p v-if="ended('merge')" role="status" :class="{ warn: ended('merge')?.state === 'failed' }">
      {{ ended('merge')?.words }}
    </p>
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
.running {
  display: grid;
  grid-template-columns: auto minmax(80px, 1fr) auto;
  gap: var(--space-3);
  align-items: center;
}
.warn {
  color: var(--warn);
  font-weight: 600;
}
</style>
