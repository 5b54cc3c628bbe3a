<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Paginator from 'primevue/paginator'
import ProgressBar from 'primevue/progressbar'
import Select from 'primevue/select'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { PICTURES_A_PAGE, queries, type OnlyPictures } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useNotices } from '@/shared/composables/useNotices'
import { useQuestion } from '@/shared/composables/useQuestion'
import { useTell } from '@/shared/composables/useTell'
import { count } from '@/shared/lib/format'
import ArrivalList from './ArrivalList.vue'
import ContactSheet from './ContactSheet.vue'
import { useTimeLeft } from '@/shared/composables/useTimeLeft'
import { atWork, isWritten, nameOf, stateWords, type PictureSet } from './sets'

const props = defineProps<{ id: number }>()
const EVERY_MS = 700
const { tell: tellNotice } = useNotices()
const client = useQueryClient()
const router = useRouter()
const ask = useQuestion()
const ONLY = [
  { label: 'All', value: 'all' },
  { label: 'To be patched', value: 'ready' },
  { label: 'Cannot be patched', value: 'refused' },
  { label: 'Left as they are', value: 'left' },
  { label: 'Written', value: 'written' },
] as const
const only = ref<OnlyPictures>('all')
const first = ref(0)
watch(only, () => {
  first.value = 0
})
const {
  value: set,
  error: away,
  again: setAgain,
} = useAsk(() => queries.pictureSet(props.id), {
  everyMs: (now) => (now && atWork(now) ? EVERY_MS : false),
})
const working = computed(() => set.value !== null && atWork(set.value))
const { value: sheet, again } = useAsk(
  () => (set.value?.kind === 'patch' ? queries.pictures(props.id, only.value, first.value) : null),
  { keeps: true, everyMs: () => (working.value ? 2 * EVERY_MS : false) },
)
watch(working, (now, before) => {
  if (!before || now) return
  if (set.value) tellNotice(`${nameOf(set.value)}: ${stateWords(set.value)}`)
  void again()
})
/** A choice changes the picture, and how many copies there will be. */
const changed = () => Promise.all([again(), setAgain()])
const outFolder = ref('')
watch(
  set,
  (now, before) => {
    if (now && !before) outFolder.value = now.out_folder || (now.uploaded ? '' : `${now.folder}-patched`)
  },
  { immediate: true },
)
const put = (now: PictureSet) => client.setQueryData(queries.pictureSet(props.id).queryKey, now)
const telling = useTell<PictureSet>(put)
const path = computed(() => ({ params: { path: { set_id: props.id } } }))
function work(what: Schemas['WantedWork']['work']): void {
  const body = { work: what, out_folder: what === 'write' ? outFolder.value : null }
  void telling.tell(() => answer(api.POST('/api/picture-sets/{set_id}/work', { ...path.value, body })))
}
function stop(): void {
  void telling.tell(() => answer(api.DELETE('/api/picture-sets/{set_id}/work', path.value)))
}
const forgetting = useTell(() => router.push({ name: 'pictures' }))
function forget(): void {
  ask(
    'Forget this folder?',
    'What was found in it is forgotten. The pictures and the copies written stay where they are.',
    'Forget it',
    () => forgetting.tell(() => answer(api.DELETE('/api/picture-sets/{set_id}', path.value), true)),
  )
}
const ready = computed(() => {
  const c = set.value?.counts
  return c ? Math.max(0, c.looked - c.refused - c.left_alone) : 0
})
const written = computed(() => set.value !== null && isWritten(set.value))
const left = useTimeLeft(computed(() => (working.value ? (set.value?.progress ?? 0) : null)))
const goesOn = computed(() => set.value?.state === 'stopped' || set.value?.state === 'failed')
</script>

<template>
  <section class="page">
    <BackLink :home="{ name: 'pictures' }" home-words="Pictures" />
    <FailureNote :error="telling.error.value || forgetting.error.value || away" />
    <template v-if="set">
      <div class="head">
        <h1 :title="set.folder">{{ nameOf(set) }}</h1>
        <p class="soft">
          {{ set.body_name }}<template v-if="set.map_words"> · {{ set.map_words }}</template>
        </p>
      </div>
      <div class="panel bar">
        <div class="grow">
          <p role="status" :class="{ warn: set.state === 'failed', done: written }">
            {{ stateWords(set) }} <span v-if="left" class="soft">{{ left }}</span>
          </p>
          <p v-if="written" class="soft path">{{ set.out_folder }}</p>
          <ProgressBar
            v-if="working"
            :value="Math.round(100 * set.progress)"
            :show-value="false"
            aria-label="How far the work is"
          />
        </div>
        <Button
          v-if="working"
          label="Stop"
          icon="pi pi-stop"
          severity="secondary"
          variant="outlined"
          @click="stop"
        />
        <Button v-else-if="goesOn" label="Continue" icon="pi pi-play" @click="work(set.work)" />
        <Button
          v-if="written && only !== 'written'"
          label="Show them"
          icon="pi pi-images"
          @click="only = 'written'"
        />
        <Button v-if="!working" label="Forget" severity="secondary" variant="text" @click="forget" />
      </div>
      <form
        v-if="set.kind === 'patch' && !working && set.counts.looked === set.counts.total"
        class="panel bar"
        @submit.prevent="work('write')"
      >
        <label class="grow"
          >Copies go to<InputText v-model="outFolder" required maxlength="1000" placeholder="Folder path"
        /></label>
        <Button
          type="submit"
          icon="pi pi-check"
          :label="written ? 'Write again' : `Write ${count(ready, 'copy', 'copies')}`"
          :severity="written ? 'secondary' : undefined"
          :variant="written ? 'outlined' : undefined"
          :disabled="!ready || !outFolder || telling.busy.value"
        />
        <a :href="`${API}/picture-sets/${id}/marks`" :download="`marks-${id}.json`">Marks (JSON)</a>
      </form>
      <template v-if="set.kind === 'patch'">
        <div class="bar">
          <label class="row"
            >Show<Select
              v-model="only"
              :options="[...ONLY]"
              option-label="label"
              option-value="value"
              append-to="#layers"
          /></label>
          <span v-if="sheet" class="soft">{{ count(sheet.total, 'picture') }}</span>
        </div>
        <ContactSheet
          v-if="sheet"
          :set="set"
          :pictures="sheet.pictures"
          :busy="working"
          @changed="changed"
          @set="put"
        />
        <Paginator
          v-if="sheet && sheet.total > PICTURES_A_PAGE"
          v-model:first="first"
          :rows="PICTURES_A_PAGE"
          :total-records="sheet.total"
        />
      </template>
      <ArrivalList v-else-if="set.state === 'done'" :set="set" />
    </template>
  </section>
</template>

<style scoped>
h1 {
  overflow-wrap: anywhere;
}
.panel {
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.grow {
  display: grid;
  flex: 1;
  gap: var(--space-1);
  align-self: center;
  min-width: 240px;
}
.row {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
.done {
  font-size: var(--text-lead);
  font-weight: 650;
  color: var(--good);
}
.path {
  overflow-wrap: anywhere;
}
.warn {
  color: var(--warn);
  font-weight: 600;
}
</style>
