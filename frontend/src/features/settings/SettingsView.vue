<script setup lang="ts">
import { API } from '@/api/root'
import InputNumber from 'primevue/inputnumber'
import SelectButton from 'primevue/selectbutton'
import ToggleSwitch from 'primevue/toggleswitch'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import {
  answerTagged,
  api,
  CHANGED,
  Refusal,
  seen,
  type Schemas,
  type Schools,
  type Settings,
} from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useNotices } from '@/shared/composables/useNotices'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import SchoolPoints from '@/shared/components/SchoolPoints.vue'
import BackupSettings from './BackupSettings.vue'
import LetterheadSettings from './LetterheadSettings.vue'
import WatchedFolders from './WatchedFolders.vue'

const SECTIONS = [
  { value: 'methods', label: 'Methods' },
  { value: 'you', label: 'You' },
  { value: 'service', label: 'Service' },
  { value: 'reports', label: 'Reports' },
  { value: 'folders', label: 'Watched folders' },
  { value: 'backup', label: 'Backup' },
] as const
type Section = (typeof SECTIONS)[number]['value']
const props = defineProps<{ section: string | null }>()
const router = useRouter()
const section = computed<Section>(() => SECTIONS.find((s) => s.value === props.section)?.value ?? 'methods')
const show = (value: Section): void => void router.replace({ query: { section: value } })
const client = useQueryClient()
const { settings, change } = useSettings()
const keptSchools = useAsk(queries.schools)
const keptService = useAsk(queries.service)
const schools = computed(() => keptSchools.value.value?.value ?? null)
const service = ref<Schemas['ServiceFacts']>({})
watch(
  keptService.value,
  (now) => {
    service.value = { ...now?.value }
  },
  { immediate: true },
)
const { tell, refused, error: notKept } = useTell()
const saved = ref('')
const error = computed(() => notKept.value || keptSchools.error.value || keptService.error.value)
const TABLES = ['cameras', 'visits', 'steps', 'frames', 'spots', 'kit', 'stock', 'jobs'] as const
const UNITS = [
  { label: 'mm, °C', value: 'metric' },
  { label: 'inches, °F', value: 'inch' },
]
const notices = useNotices()
const HANDS = [
  { label: 'Right', value: 'right' },
  { label: 'Left', value: 'left' },
]

/** What was changed elsewhere meanwhile is fetched, and said; nothing is overwritten. */
async function keep(call: () => Promise<unknown>, again: () => Promise<void>): Promise<void> {
  saved.value = (await tell(call)) ? 'Saved' : ''
  if (refused.value instanceof Refusal && refused.value.kind === CHANGED) await again()
}

function keepSchools(part: Partial<Schools>): Promise<void> {
  const { queryKey } = queries.schools()
  const old = keptSchools.value.value
  return keep(async () => {
    if (!old) return
    const header = seen(old.version)
    const kept = await answerTagged(
      api.PUT('/api/schools', { params: { header }, body: { ...old.value, ...part } }),
    )
    client.setQueryData(queryKey, kept)
  }, keptSchools.again)
}

function keepService(part: Schemas['ServiceFacts'] = {}): Promise<void> {
  const { queryKey } = queries.service()
  return keep(async () => {
    const header = seen(keptService.value.value?.version ?? '0')
    const body = { ...service.value, ...part }
    client.setQueryData(queryKey, await answerTagged(api.PUT('/api/service', { params: { header }, body })))
  }, keptService.again)
}

function keepSetting(part: Partial<Settings>): Promise<void> {
  return keep(
    () => change(part),
    () => Promise.resolve(),
  )
}
</script>

<template>
  <section class="page">
    <div>
      <h1>Settings</h1>
      <p role="status" class="soft">{{ saved }}</p>
    </div>
    <FailureNote :error="error" />
    <nav aria-label="Sections">
      <button
        v-for="s in SECTIONS"
        :key="s.value"
        :aria-current="section === s.value ? 'true' : undefined"
        @click="show(s.value)"
      >
        {{ s.label }}
      </button>
      <RouterLink :to="{ name: 'share' }">Phones and tablets</RouterLink>
    </nav>
    <section v-if="section === 'you'" class="panel">
      <h2>You</h2>
      <label class="plain"
        >Units<SelectButton
          :model-value="settings.units"
          :options="UNITS"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="Units"
          @update:model-value="keepSetting({ units: $event })"
      /></label>
      <label class="plain"
        >Visible spots before a camera is due<InputNumber
          :model-value="settings.spot_limit"
          :min="0"
          :max="10000"
          show-buttons
          @update:model-value="keepSetting({ spot_limit: $event ?? 0 })"
      /></label>
      <label class="plain"
        >The hand that works<SelectButton
          :model-value="settings.hand"
          :options="HANDS"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="The hand that works"
          @update:model-value="keepSetting({ hand: $event })"
      /></label>
      <label v-if="notices.possible" class="plain"
        >A notice when long work ends<ToggleSwitch
          :model-value="notices.allowed.value"
          @update:model-value="notices.allow($event)"
      /></label>
    </section>
    <section v-else-if="section === 'methods'" class="panel">
      <h2>Methods</h2>
      <p class="soft">Where schools differ: choose once; each visit may still differ.</p>
      <SchoolPoints v-if="schools" :schools="schools" @choose="keepSchools" />
    </section>
    <section v-else-if="section === 'service'" class="panel">
      <h2>Your service</h2>
      <label class="plain"
        >Days without the camera<InputNumber
          v-model="service.turnaround_days"
          :min="0"
          :max="365"
          @update:model-value="keepService()"
      /></label>
      <label class="plain"
        >A membership includes cleans<ToggleSwitch
          :model-value="service.membership_includes_clean ?? false"
          @update:model-value="keepService({ membership_includes_clean: $event })"
      /></label>
      <p><RouterLink :to="{ name: 'costs' }">What it charges, and what your own kit costs</RouterLink></p>
    </section>
    <section v-else-if="section === 'reports'" class="panel">
      <h2>Letterhead of your reports</h2>
      <p class="soft">On every visit's and job's report.</p>
      <LetterheadSettings />
      <h2>Export</h2>
      <p class="tables">
        <a v-for="t in TABLES" :key="t" :href="`${API}/export/${t}.csv`">{{ t }}.csv</a>
        <a href="/api/export.json">all as JSON</a>
      </p>
    </section>
    <div v-else-if="section === 'folders'" class="panel"><WatchedFolders /></div>
    <div v-else class="panel"><BackupSettings /></div>
  </section>
</template>

<style scoped>
.page {
  grid-template-columns: 190px minmax(0, 1fr);
}
.page > div:first-child,
.page > :deep(.p-message) {
  grid-column: 1 / -1;
}
nav {
  display: flex;
  flex-direction: column;
  align-self: start;
}
nav button,
nav a {
  padding: var(--space-2);
  text-decoration: none;
  font: inherit;
  color: var(--ink);
  text-align: left;
  background: none;
  border: 0;
  border-left: 3px solid var(--line);
  cursor: pointer;
}
nav button[aria-current] {
  font-weight: 650;
  border-left-color: var(--accent);
}
.panel {
  display: grid;
  grid-column: 2;
  gap: var(--space-2);
  align-content: start;
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
}
label.plain {
  display: grid;
  gap: var(--space-2);
  grid-template-columns: 1fr auto;
  align-items: center;
}
@media (max-width: 760px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
    padding: var(--space-3);
  }
  .panel {
    grid-column: 1;
  }
  nav {
    flex-flow: row wrap;
  }
  nav button,
  nav a {
    border-left: 0;
    border-bottom: 3px solid var(--line);
  }
  nav button[aria-current] {
    border-bottom-color: var(--accent);
  }
}
</style>
