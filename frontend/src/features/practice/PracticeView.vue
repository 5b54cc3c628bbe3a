<script setup lang="ts">
import Button from 'primevue/button'
import { useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import TopicBars from './TopicBars.vue'
import TryList from './TryList.vue'

/** Short exercises with a hidden truth; nothing practised touches the record or the kit. */
const router = useRouter()
const { value: moves, error: movesAway } = useAsk(() => queries.practice('moves'))
const { value: places, error: placesAway } = useAsk(() => queries.practice('places'))
</script>

<template>
  <section class="page">
    <h1>Practice</h1>
    <p class="soft">
      Try what costs nothing here: each exercise has a hidden truth, and shows it afterwards. Nothing
      practised touches your record or your kit.
    </p>
    <FailureNote :error="movesAway || placesAway" />
    <article>
      <h2>Next move</h2>
      <p>
        A situation at the bench: what comes next? The answer is the product's own advice with its reasons.
      </p>
      <p>
        <Button
          label="Begin"
          icon="pi pi-play"
          aria-label="Begin next move"
          @click="router.push({ name: 'practice-moves' })"
        />
      </p>
      <TopicBars v-if="moves" :topics="moves.topics" />
      <TryList v-if="moves?.tries.length" :tries="moves.tries" to="practice-moves" />
    </article>
    <article>
      <h2>Find the place</h2>
      <p>
        A spot in the picture, the camera lying some way on the bench: touch where it lies as you face the
        mount.
      </p>
      <p>
        <Button
          label="Begin"
          icon="pi pi-play"
          aria-label="Begin find the place"
          @click="router.push({ name: 'practice-places' })"
        />
      </p>
      <TopicBars v-if="places" :topics="places.topics" />
      <TryList v-if="places?.tries.length" :tries="places.tries" to="practice-places" />
    </article>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 380px), 1fr));
  gap: var(--space-3);
  max-width: 1100px;
  margin: 0 auto;
  padding: var(--space-4);
}
.page > h1,
.page > p {
  grid-column: 1 / -1;
}
article {
  display: grid;
  gap: var(--space-2);
  align-content: start;
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
</style>
