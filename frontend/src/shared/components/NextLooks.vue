<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { day, dayOf } from '@/shared/lib/format'

/** Cameras whose last visit said when to look again, the soonest first. */
const { value } = useAsk(queries.looks)
const FEW = 6
const today = dayOf(new Date())
const looks = computed(() => (value.value ?? []).slice(0, FEW))
const more = computed(() => Math.max(0, (value.value?.length ?? 0) - FEW))
</script>

<template>
  <section v-if="looks.length" class="looks" aria-label="Next looks">
    <h2>Look again</h2>
    <ul>
      <li v-for="l in looks" :key="l.body_id">
        <RouterLink :to="{ name: 'body', params: { id: l.body_id } }">{{ l.name }}</RouterLink>
        <span v-if="l.away" class="soft">away at a service</span>
        <span v-else :class="{ due: l.on <= today }"
          >{{ l.on <= today ? 'due since' : 'on' }} {{ day(l.on) }}</span
        >
      </li>
    </ul>
    <p v-if="more" class="soft">{{ more }} more later.</p>
  </section>
</template>

<style scoped>
.looks {
  display: grid;
  gap: var(--space-1);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-1);
}
li {
  display: flex;
  gap: var(--space-2);
}
.due {
  color: var(--warn);
  font-weight: 600;
}
</style>
