<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import { useRouter } from 'vue-router'
import { computed } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { count, day, percent } from '@/shared/lib/format'
import type { PictureSet } from './sets'

/** Marks that everyday pictures show at one place, when each came and went, and what shows it. */
const props = defineProps<{ set: PictureSet }>()
type Arrived = Schemas['ArrivedSpot']
const router = useRouter()
const { value: found, error } = useAsk(() => queries.arrivals(props.set.id))
const spots = computed<Arrived[]>(() =>
  [...(found.value?.spots ?? [])].sort((a, b) => (a.first_with ?? '').localeCompare(b.first_with ?? '')),
)
function came(s: Arrived): string {
  if (!s.first_with) return 'Seen'
  if (!s.last_without) return `There from the beginning, first seen on ${day(s.first_with)}`
  const [from, to] = [day(s.last_without), day(s.first_with)]
  return from === to ? `Came on ${from}` : `Came between ${from} and ${to}`
}
function went(s: Arrived): string {
  if (!s.first_without_again) return 'still there at the end'
  const [from, to] = [day(s.last_with), day(s.first_without_again)]
  return from === to ? `gone on ${from}` : `gone between ${from} and ${to}`
}
const sure = (s: Arrived): string =>
  s.dates_confidence > 0.9 ? 'sure of its dates' : 'less sure of its dates'
const patching = useTell<PictureSet>((made) => router.push({ name: 'picture-set', params: { id: made.id } }))
function patch(): void {
  const body = { body_id: props.set.body_id, folder: props.set.folder, arrivals_id: props.set.id }
  void patching.tell(() => answer(api.POST('/api/picture-sets', { body })))
}
</script>

<template>
  <FailureNote :error="error || patching.error.value" />
  <template v-if="found">
    <div class="head">
      <h2>
        {{
          spots.length
            ? `${count(spots.length, 'mark')} on the sensor`
            : 'No mark keeps its place in these pictures'
        }}
      </h2>
      <p class="soft">
        {{ count(found.frames_used, 'picture') }} used,
        {{ count(found.frames_skipped.length, 'picture') }} not. Pictures of one still scene count as one.
      </p>
      <Button
        v-if="spots.length"
        label="Patch these pictures by these marks"
        icon="pi pi-search"
        severity="secondary"
        variant="outlined"
        :disabled="patching.busy.value"
        @click="patch"
      />
    </div>
    <ol class="marks">
      <li v-for="s in spots" :key="s.id" class="panel">
        <p>
          <strong>{{ came(s) }}, {{ went(s) }}.</strong>
        </p>
        <p class="soft">
          {{ s.id }}: shows in {{ count(s.seen_in, 'picture') }}; {{ s.could_see }} in all could show it. It
          takes {{ percent(s.depth) }} of the light at f/{{ found.f_number }}; {{ sure(s) }}.
        </p>
        <div class="strip" tabindex="0" role="group" :aria-label="`Pictures that show ${s.id}`">
          <figure v-for="(p, n) in s.shown_in" :key="p.path" :class="{ without: !p.shows }">
            <img
              :src="`${API}/picture-sets/${set.id}/strips/${s.id}/${n}`"
              :alt="p.shows ? 'The mark, tones drawn apart' : 'The same place without the mark'"
              width="96"
              height="96"
              loading="lazy"
            />
            <figcaption>{{ p.shows ? day(p.taken_at) : `not ${day(p.taken_at)}` }}</figcaption>
          </figure>
        </div>
      </li>
    </ol>
    <details v-if="found.frames_skipped.length">
      <summary>{{ count(found.frames_skipped.length, 'picture') }} not used</summary>
      <ul>
        <li v-for="p in found.frames_skipped" :key="p.path">{{ p.path }}: {{ p.why }}</li>
      </ul>
    </details>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
}
.marks {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
.panel {
  display: grid;
  gap: var(--space-1);
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
.strip {
  display: flex;
  gap: var(--space-1);
  overflow-x: auto;
}
figure {
  flex: none;
  display: grid;
  gap: 2px;
  width: 104px;
  margin: 0;
  padding: var(--space-1);
  border: 1px solid transparent;
  border-radius: 5px;
}
.without {
  border: 1px dashed var(--line);
}
figcaption {
  font-size: var(--text-small);
  color: var(--ink-soft);
}
img {
  background: var(--surround);
  border-radius: 5px;
}
li {
  overflow-wrap: anywhere;
}
</style>
