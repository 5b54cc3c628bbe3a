<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import ProgressBar from 'primevue/progressbar'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { ALL_FRAMES, queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import DropPlace from '@/shared/components/DropPlace.vue'
import FrameCard from './FrameCard.vue'
import FrameSearch from './FrameSearch.vue'
import ShootDrawing from '@/shared/drawings/ShootDrawing.vue'
import ShootRecipe from '@/shared/components/ShootRecipe.vue'
import NextLooks from '@/shared/components/NextLooks.vue'
import { useArchive } from './useArchive'
import { useFrameDelete } from './useFrameDelete'
import { useTell } from '@/shared/composables/useTell'
import { useOpenVisits } from './useOpenVisits'
import { useMe } from '@/shared/composables/useMe'
import { useIntake } from '@/shared/composables/useIntake'
import { useWorksAt } from './useWorksAt'
import { day } from '@/shared/lib/format'
import { todoWords, untilWords } from '@/shared/lib/jobs'

const FEW = 4
const EXAMPLE_NAME = 'example.jpg'

const { worksAt } = useWorksAt()
const { archive, wanted, left, error, load, more, forget } = useArchive()
const { uploads, take } = useIntake()

const ready = computed(() => archive.value?.frames.filter((f) => f.ready) ?? [])
const sending = computed(() => new Set(uploads.value.map((u) => u.frameId)))
const own = computed(
  () => archive.value?.frames.filter((f) => f.source === 'upload' && !sending.value.has(f.id)) ?? [],
)
const isExample = (f: { source: string; name: string }): boolean =>
  f.source === 'demo' && f.name === EXAMPLE_NAME
const example = computed(() => archive.value?.frames.find(isExample) ?? null)
const demo = computed(() => ready.value.filter((f) => f.source === 'demo' && !isExample(f)))
const allDemo = ref(false)
/** Whether only some frames are asked for. */
const narrowed = computed(() => wanted.value.words !== '' || wanted.value.only !== 'all')
const sought = computed(() => narrowed.value || wanted.value.order !== ALL_FRAMES.order)
const demoShown = computed(() =>
  allDemo.value || sought.value ? demo.value : demo.value.filter((f) => f.note).slice(0, FEW),
)
const router = useRouter()
const trying = useTell<Schemas['Accepted']>(({ frame }) =>
  router.push({ name: 'frame', params: { id: frame.id } }),
)
const tryExample = (): Promise<boolean> => trying.tell(() => answer(api.POST('/api/frames/example')))
const { deleteFrame, error: notDeleted } = useFrameDelete()
async function removeExample(): Promise<void> {
  const it = example.value
  if (it && (await deleteFrame(it.id, it.name))) void forget(it.id)
}
const { visits } = useOpenVisits()
/** The frames beside it show why the server does not answer. */
const { isOwner } = useMe()
const { value: backup } = useAsk(() => (isOwner.value ? queries.backup() : null))
const { value: readiness } = useAsk(queries.readiness)
const job = computed(() => readiness.value?.jobs[0] ?? null)
const shooting = computed(() => archive.value?.open_jobs.find((j) => j.kind === 'demo'))
const measuringDemo = computed(
  () => archive.value?.frames.some((f) => f.source === 'demo' && !f.ready && !isExample(f)) ?? false,
)
</script>

<template>
  <div class="page bench">
    <section class="left" aria-label="New frame">
      <h1>What lies on the sensor?</h1>
      <p class="soft">Shoot an even, blurred target at f/16 or f/22. You get a map of every speck.</p>
      <DropPlace @files="take" />
      <ShootRecipe />
    </section>

    <section class="right" aria-label="Frames">
      <FailureNote :error="error" :again="load" />
      <FailureNote :error="trying.error.value || notDeleted" />
      <Message v-if="archive?.trouble" severity="warn" :closable="false">
        {{ archive.trouble }} Frames are kept and wait to be measured until this is mended.
      </Message>
      <Message v-if="backup?.overdue || backup?.error" severity="warn" :closable="false">
        {{ backup.last_at ? `The last backup is of ${day(backup.last_at)}.` : 'There is no backup yet.' }}
        <RouterLink :to="{ name: 'schools', query: { section: 'backup' } }">Look at it</RouterLink>
      </Message>
      <template v-if="visits.length">
        <h2>Open visits</h2>
        <ul class="visits">
          <li v-for="v in visits" :key="v.id">
            <RouterLink :to="{ name: 'visit', params: { id: v.id } }">
              <strong>{{ v.body_name }}</strong>
              <span v-if="v.first_relevant !== null"
                >{{ v.first_relevant }} visible at first,
                {{ v.last_relevant ?? 'not known how many' }} left</span
              >
              <span class="soft"
                >{{ day(v.opened_at) }}<template v-if="v.why_now"> · {{ v.why_now }}</template></span
              >
              <span class="on">Continue <i class="pi pi-arrow-right" aria-hidden="true" /></span>
            </RouterLink>
          </li>
        </ul>
      </template>
      <RouterLink v-if="job" class="job" :class="job.state" :to="{ name: 'jobs' }">
        <i class="pi pi-calendar" aria-hidden="true" />
        <span
          ><strong>{{ job.job.name }}</strong> {{ untilWords(job.days) }}: {{ todoWords(job) }}</span
        >
      </RouterLink>
      <NextLooks />
      <FrameSearch v-if="sought || (archive?.frames.length ?? 0) > 1" v-model="wanted" />
      <template v-if="own.length">
        <h2>Your frames</h2>
        <ul class="cards">
          <FrameCard
            v-for="f in own"
            :key="f.id"
            :frame="f"
            :works-at="worksAt"
            @again="load"
            @removed="forget(f.id)"
          />
        </ul>
      </template>
      <template v-if="example">
        <div class="line">
          <h2>Example</h2>
          <Button
            class="deletes"
            label="Remove the example"
            size="small"
            severity="secondary"
            variant="text"
            @click="removeExample"
          />
        </div>
        <ul class="cards">
          <FrameCard :frame="example" :works-at="worksAt" @again="load" @removed="forget(example.id)" />
        </ul>
      </template>
      <template v-if="demo.length || shooting || measuringDemo">
        <h2>Demo: Saltmarsh Chart Archive</h2>
        <p class="soft note">Made up: four virtual cameras, a year of visits.</p>
        <div v-if="shooting || measuringDemo" class="shooting" role="status">
          <span>{{ shooting ? 'The demo camera is shooting its frames' : 'Measuring the demo frames' }}</span>
          <ProgressBar
            :mode="shooting ? 'determinate' : 'indeterminate'"
            :value="Math.round((shooting?.progress ?? 0) * 100)"
            aria-label="Demo frames"
          />
        </div>
        <ul class="cards">
          <FrameCard v-for="f in demoShown" :key="f.id" :frame="f" :works-at="worksAt" />
        </ul>
      </template>
      <Button
        v-if="demo.length > demoShown.length"
        :label="`Show all ${demo.length} demo frames`"
        severity="secondary"
        variant="text"
        @click="allDemo = true"
      />
      <Button
        v-if="left"
        :label="`Show ${Math.min(left, 60)} more of ${left} frames`"
        severity="secondary"
        variant="text"
        @click="more"
      />
      <p v-if="archive && narrowed && !archive.total" class="soft" role="status">
        No frame is like this. Change the words or list all frames.
      </p>
      <div
        v-else-if="archive && !own.length && !demo.length && !shooting && !measuringDemo && !example"
        class="empty"
      >
        <ShootDrawing class="picture" :f="22" />
        <p>No frames yet.</p>
        <Button
          class="works"
          label="Try it with an example"
          icon="pi pi-play"
          :loading="trying.busy.value"
          @click="tryExample"
        />
      </div>
    </section>
  </div>
</template>

<style scoped>
.bench {
  grid-template-columns: minmax(320px, 4fr) 6fr;
  gap: var(--space-5);
}
.left {
  display: flex;
  flex-direction: column;
  gap: var(--space-3);
}
.right {
  display: flex;
  flex-direction: column;
  gap: var(--space-2);
  min-width: 0;
}
.cards {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-3);
}
.cards {
  grid-template-columns: repeat(auto-fill, minmax(240px, 1fr));
}
.visits {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
.visits a {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.1rem var(--space-3);
  padding: var(--space-3) var(--space-3);
  color: var(--ink);
  text-decoration: none;
  background: var(--panel);
  border: 2px solid var(--accent);
  border-radius: 5px;
}
.visits strong {
  font-size: var(--text-lead);
}
.visits .on {
  grid-row: 1 / span 2;
  grid-column: 2;
  align-self: center;
  padding: var(--space-2) var(--space-3);
  font-weight: 600;
  color: var(--panel);
  background: var(--accent);
  border-radius: 4px;
}
.job {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  color: var(--ink);
  text-decoration: none;
  background: var(--panel);
  border: 1px solid var(--line);
  border-left: 5px solid var(--accent);
  border-radius: 5px;
}
.job.late {
  border-left-color: var(--stop);
}
.job.ready {
  border-left-color: var(--good);
}
.note {
  margin-top: -0.4rem;
}
.shooting {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-3) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.empty {
  display: grid;
  place-items: center;
  gap: var(--space-2);
  padding: var(--space-6) var(--space-3);
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.empty .picture {
  width: min(360px, 100%);
  height: 170px;
}
.line {
  display: flex;
  gap: var(--space-3);
  align-items: center;
  justify-content: space-between;
}
@media (max-width: 900px) {
  .bench {
    grid-template-columns: 1fr;
    padding: var(--space-3);
  }
}
</style>
