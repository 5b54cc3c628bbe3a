<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { API } from '@/api/root'

/** The fields of the mat with their counts, and the photographs taken on the way out. */
const props = defineProps<{
  now: Schemas['TrayNow']
  photos: Schemas['PhotoCount'][]
  visitId: number
}>()
const shown = computed(() =>
  props.photos.flatMap((p) =>
    Array.from({ length: p.count }, (_, n) => ({
      id: `${p.step_id}-${n}`,
      stage: props.now.steps.find((s) => s.id === p.step_id)?.stage ?? '',
      url: `${API}/visits/${props.visitId}/tray/photos?step_id=${encodeURIComponent(p.step_id)}&number=${n + 1}`,
    })),
  ),
)
</script>

<template>
  <aside>
    <table>
      <caption>
        Fields of the mat
      </caption>
      <thead>
        <tr>
          <th scope="col">Field</th>
          <th scope="col">Screws</th>
          <th scope="col">There</th>
          <th scope="col">Out</th>
          <th scope="col">Back</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in now.groups" :key="g.field" :class="{ here: g.field === now.step?.field }">
          <th scope="row">{{ g.field }}</th>
          <td>{{ g.belongs }}</td>
          <td>{{ g.count }}</td>
          <td>{{ g.out ?? '' }}</td>
          <td>{{ g.back ?? '' }}</td>
        </tr>
      </tbody>
    </table>
    <figure v-for="p in shown" :key="p.id">
      <a :href="p.url" target="_blank" rel="noopener"><img :src="p.url" :alt="`Before: ${p.stage}`" /></a>
      <figcaption>{{ p.stage }}</figcaption>
    </figure>
  </aside>
</template>

<style scoped>
aside {
  display: grid;
  gap: var(--space-3);
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--panel);
}
caption {
  text-align: left;
  font-weight: 650;
}
th,
td {
  padding: var(--space-1) var(--space-2);
  border: 1px solid var(--line);
  text-align: left;
}
.here {
  background: var(--accent-wash);
}
figure {
  margin: 0;
}
img {
  max-width: 100%;
  border-radius: 4px;
}
</style>
