<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import ProgressBar from 'primevue/progressbar'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { API } from '@/api/root'
import { queries } from '@/api/queries'
import StageDrawing from '@/shared/drawings/StageDrawing.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { useTimeLeft } from '@/shared/composables/useTimeLeft'
import { useTell } from '@/shared/composables/useTell'
import { count, day } from '@/shared/lib/format'
import SetCard from './SetCard.vue'
import { atWork, type PictureSet } from './sets'
import { picturesIn, useFolderUpload } from './useFolderUpload'

const props = defineProps<{ body: number | null; frame: number | null }>()
const EVERY_MS = 1500
const router = useRouter()
const { bodies, known } = useBodyNames()
const { value: sets, error: away } = useAsk(queries.pictureSets, {
  everyMs: (now) => (now?.some(atWork) ? EVERY_MS : false),
})
const bodyId = ref<number | null>(props.body)
const frameId = ref<number | null>(props.frame)
const folder = ref('')
watch(
  known,
  (all) => {
    if (bodyId.value === null && all?.length === 1) bodyId.value = all[0]?.id ?? null
  },
  { immediate: true },
)
const { value: maps } = useAsk(() => (bodyId.value === null ? null : queries.pictureMaps(bodyId.value)))
const choices = computed(() =>
  (maps.value ?? []).map((m) => ({
    value: m.frame_id,
    label: `${day(m.taken_at)}, ${count(m.count, 'spot')}${m.fit ? '' : ', not fit'}`,
  })),
)
/** The pictures were taken before the last cleaning: its first frame serves until another is chosen. */
watch(
  maps,
  (all) => {
    if (!all) return
    if (all.some((m) => m.frame_id === frameId.value)) return
    frameId.value =
      (all.find((m) => m.fit && m.begins_visit) ?? all.find((m) => m.fit) ?? all[0])?.frame_id ?? null
  },
  { immediate: true },
)
/** Whose pictures these are and which frame fits is read from the files; one may choose otherwise. */
const { value: glance, error: noFolder } = useAsk(() =>
  folder.value.trim() ? queries.pictureFolder(folder.value.trim()) : null,
)
watch(glance, (seen) => {
  if (!seen?.body_id) return
  bodyId.value = seen.body_id
  if (seen.frame_id !== null) frameId.value = seen.frame_id
})
const told = computed(() => {
  const seen = glance.value
  if (!seen) return ''
  const when = seen.last_taken ? `, the last of ${day(seen.last_taken)}` : ''
  return `${count(seen.count, 'picture')}${when}${seen.camera ? `, taken by “${seen.camera}”` : ''}.`
})
const path = ref('')
const { value: demo } = useAsk(queries.demoPictures)
function tryDemo(): void {
  if (!demo.value) return
  folder.value = demo.value.folder
  bodyId.value = demo.value.body_id
}
const upload = useFolderUpload((where) => {
  folder.value = where
})
const sendingLeft = useTimeLeft(
  computed(() => (upload.sending.value ? upload.done.value / Math.max(1, upload.total.value) : null)),
)
const chooser = ref<HTMLInputElement | null>(null)
function chosen(): void {
  void upload.send(picturesIn([...(chooser.value?.files ?? [])]))
  if (chooser.value) chooser.value.value = ''
}
const beginning = useTell<PictureSet>((made) => router.push({ name: 'picture-set', params: { id: made.id } }))
function begin(toPatch: boolean): void {
  if (bodyId.value === null) return
  const body: Schemas['NewSet'] = {
    body_id: bodyId.value,
    folder: folder.value,
    frame_id: toPatch ? frameId.value : null,
  }
  void beginning.tell(() => answer(api.POST('/api/picture-sets', { body })))
}
</script>

<template>
  <section class="page">
    <div class="head">
      <h1>Pictures</h1>
      <p class="soft">Takes dust shadows out of copies. Your originals stay as they are.</p>
    </div>
    <FailureNote :error="beginning.error.value || upload.error.value || noFolder || away" />
    <ol class="stages" aria-label="How it goes">
      <li :class="{ now: !folder || noFolder }"><StageDrawing stage="bring" />Bring a folder</li>
      <li :class="{ now: folder && !noFolder }"><StageDrawing stage="match" />Check camera and test frame</li>
      <li><StageDrawing stage="write" />Review, then write copies</li>
    </ol>
    <p v-if="known && !bodies.length" class="panel">
      No camera is known yet. Drop a test frame anywhere on the page first, or
      <RouterLink :to="{ name: 'bodies' }">add a camera</RouterLink>.
    </p>
    <div v-else-if="!folder || noFolder" class="zone">
      <template v-if="upload.sending.value">
        <strong role="status"
          >{{ upload.done.value }} of {{ count(upload.total.value, 'picture') }}
          <span class="soft">{{ sendingLeft }}</span></strong
        >
        <ProgressBar
          class="sending"
          :value="Math.round((100 * upload.done.value) / Math.max(1, upload.total.value))"
          :show-value="false"
          aria-label="Taking pictures in"
        />
        <Button label="Stop" size="small" severity="secondary" variant="outlined" @click="upload.stop" />
      </template>
      <template v-else>
        <strong>Drop a folder of pictures here</strong>
        <input
          ref="chooser"
          type="file"
          webkitdirectory
          multiple
          hidden
          aria-label="A folder of pictures"
          @change="chosen"
        />
        <Button label="Choose a folder" icon="pi pi-folder-open" @click="chooser?.click()" />
        <form class="path" @submit.prevent="folder = path.trim()">
          <label class="grow"
            ><span class="hidden-label">Folder</span
            ><InputText
              v-model="path"
              required
              maxlength="1000"
              size="small"
              placeholder="or the folder's path on this machine"
              aria-label="Folder"
          /></label>
          <Button type="submit" label="Take it" size="small" severity="secondary" variant="outlined" />
        </form>
        <Button
          v-if="demo"
          label="Take the demo's own pictures"
          size="small"
          severity="secondary"
          variant="text"
          @click="tryDemo"
        />
      </template>
    </div>
    <form v-else class="panel" @submit.prevent="begin(frameId !== null)">
      <div class="folder">
        <div>
          <strong>{{ folder.split(/[\\/]/).pop() }}</strong>
          <p class="soft">{{ told || 'Looking at the folder' }}</p>
        </div>
        <Button
          label="Another folder"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="folder = ''"
        />
      </div>
      <label
        >Camera<Select
          v-model="bodyId"
          :options="bodies"
          option-label="name"
          option-value="id"
          placeholder="Which one took them?"
          append-to="#layers"
      /></label>
      <div v-if="bodyId !== null" class="ways">
        <div class="way">
          <h2>Patch them</h2>
          <div v-if="choices.length" class="match">
            <img
              v-if="frameId !== null"
              :src="`${API}/frames/${frameId}/thumb/relief.jpg`"
              alt="The test frame's map"
              width="150"
              height="100"
            />
            <label
              >Test frame<Select
                v-model="frameId"
                :options="choices"
                option-label="label"
                option-value="value"
                append-to="#layers"
              /><span class="soft">Between the same two cleanings as the pictures.</span></label
            >
          </div>
          <p v-else class="soft">
            No test frame of this camera has spots. Search first: what is found serves as the map.
          </p>
          <Button
            v-if="choices.length"
            type="submit"
            label="Look through them"
            icon="pi pi-search"
            :disabled="frameId === null || beginning.busy.value"
          />
        </div>
        <div class="way">
          <h2>When did the dust come?</h2>
          <p class="soft">Finds marks that keep their place, and dates them.</p>
          <Button
            label="Search them"
            icon="pi pi-calendar"
            severity="secondary"
            variant="outlined"
            :disabled="beginning.busy.value"
            @click="begin(false)"
          />
        </div>
      </div>
    </form>
    <template v-if="sets?.length">
      <h2>Earlier</h2>
      <ul class="sets" aria-label="Folders">
        <SetCard v-for="s in sets" :key="s.id" :set="s" />
      </ul>
    </template>
  </section>
</template>

<style scoped>
.head {
  display: grid;
  gap: var(--space-1);
}
.panel {
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
  min-width: 220px;
}
.grow {
  flex: 1;
}
.ways {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(280px, 1fr));
  gap: var(--space-4);
  width: 100%;
}
.way {
  display: grid;
  gap: var(--space-2);
  align-content: start;
  justify-items: start;
}
.stages {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: var(--space-3);
  margin: 0;
  padding: 0;
  list-style: none;
}
.stages li {
  display: grid;
  gap: var(--space-1);
  justify-items: center;
  padding: var(--space-2);
  color: var(--ink-soft);
  text-align: center;
  border-bottom: 3px solid var(--line);
}
.stages .now {
  font-weight: 600;
  color: var(--ink);
  border-color: var(--accent);
}
.stages svg {
  width: 120px;
  height: 76px;
}
.zone {
  display: grid;
  gap: var(--space-3);
  justify-items: center;
  padding: var(--space-5) var(--space-3);
  font-size: var(--text-lead);
  background: var(--panel);
  border: 2px dashed var(--ink-soft);
  border-radius: 6px;
}
.sending {
  width: min(24rem, 100%);
}
.path {
  width: min(32rem, 100%);
  gap: var(--space-2);
}
.folder,
.match {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: center;
}
.folder {
  justify-content: space-between;
  width: 100%;
}
.match img {
  border: 1px solid var(--line);
}
.sets {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 270px), 1fr));
  gap: var(--space-3);
  margin: 0;
  padding: 0;
  list-style: none;
}
</style>
