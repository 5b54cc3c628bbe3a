<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { day } from '@/shared/lib/format'

/** When dust came to a camera's sensor, as its everyday pictures told. */
const props = defineProps<{ bodyId: number }>()
const { value: sets } = useAsk(queries.pictureSets)
const told = computed(() =>
  (sets.value ?? []).filter((s) => s.body_id === props.bodyId && s.result_words.length > 0),
)
</script>

<template>
  <section v-if="told.length">
    <h2>When dust came</h2>
    <div v-for="s in told" :key="s.id">
      <ul>
        <li v-for="line in s.result_words" :key="line">{{ line }}</li>
      </ul>
      <p class="soft">
        By {{ s.counts.total }} pictures, searched on {{ day(s.created_at) }}.
        <RouterLink :to="{ name: 'picture-set', params: { id: s.id } }">See the pictures</RouterLink>
      </p>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-1);
}
ul {
  margin: 0;
  padding-left: var(--space-3);
}
</style>
