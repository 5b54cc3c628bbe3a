<script setup lang="ts">
import ProgressBar from 'primevue/progressbar'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { queries } from '@/api/queries'
import { API } from '@/api/root'
import { useAsk } from '@/shared/composables/useAsk'
import { useTimeLeft } from '@/shared/composables/useTimeLeft'
import { day } from '@/shared/lib/format'
import { atWork, nameOf, stateWords, type PictureSet } from './sets'

/** An earlier folder as a card with its first pictures. */
const props = defineProps<{ set: PictureSet }>()
const FEW = 3
const EVERY_MS = 1500
const { value: sheet } = useAsk(() => queries.pictures(props.set.id, 'all', 0, FEW), {
  keeps: true,
  everyMs: () => (atWork(props.set) ? EVERY_MS : false),
})
const shown = computed(() => (sheet.value?.pictures ?? []).filter((p) => p.looked && p.looked.width_px > 0))
const left = useTimeLeft(computed(() => (atWork(props.set) ? props.set.progress : null)))
</script>

<template>
  <li>
    <div class="pictures" aria-hidden="true">
      <img
        v-for="p in shown"
        :key="p.number"
        :src="`${API}/picture-sets/${set.id}/pictures/${p.number}/small`"
        alt=""
        loading="lazy"
      />
      <i v-if="!shown.length" class="pi" :class="set.kind === 'patch' ? 'pi-images' : 'pi-calendar'" />
    </div>
    <div class="told">
      <RouterLink :to="{ name: 'picture-set', params: { id: set.id } }" :title="set.folder">{{
        nameOf(set)
      }}</RouterLink>
      <span class="soft">{{ set.body_name }}, {{ day(set.created_at) }}</span>
      <span role="status">{{ stateWords(set) }} {{ left }}</span>
      <span v-for="line in set.result_words.slice(0, 1)" :key="line">{{ line }}</span>
      <ProgressBar
        v-if="atWork(set)"
        :value="Math.round(100 * set.progress)"
        :show-value="false"
        aria-hidden="true"
      />
    </div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  align-content: start;
  overflow: hidden;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.pictures {
  display: flex;
  gap: 2px;
  align-items: center;
  justify-content: center;
  height: 120px;
  background: var(--surround);
}
.pictures img {
  flex: 1;
  width: 0;
  height: 100%;
  object-fit: cover;
}
.pictures i {
  font-size: var(--text-far);
  color: var(--mark-light);
}
.told {
  display: grid;
  gap: var(--space-1);
  padding: var(--space-2) var(--space-3) var(--space-3);
}
a {
  font-weight: 600;
  overflow-wrap: anywhere;
}
</style>
