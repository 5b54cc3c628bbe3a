<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { BodyDetail } from '@/api/client'
import { count, day, dayOf } from '@/shared/lib/format'
import { VERDICT_WORDS } from '@/shared/lib/steps'

/** How a camera stands: the last visit's verdict, the next look, the next job. */
const props = defineProps<{ detail: BodyDetail }>()
const today = dayOf(new Date())
const last = computed(() => props.detail.visits[0] ?? null)
const verdict = computed(() => {
  const visit = last.value
  if (!visit) return 'Not looked at yet'
  const seen =
    visit.last_relevant == null ? 'Not known what shows' : `${count(visit.last_relevant, 'spot')} visible`
  const how = visit.state === 'open' ? 'visit open' : visit.verdict ? VERDICT_WORDS[visit.verdict] : 'closed'
  return `${seen}, ${how}`
})
const lookOn = computed(() => last.value?.look_again_on ?? null)
</script>

<template>
  <div class="lead">
    <p class="verdict">{{ verdict }}</p>
    <p v-if="lookOn" :class="{ due: lookOn <= today }">
      Next look <strong>{{ day(lookOn) }}</strong><template v-if="lookOn <= today">, due</template>
    </p>
    <p v-if="detail.next_job_on">
      Next job <RouterLink :to="{ name: 'jobs' }">{{ day(detail.next_job_on) }}</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.lead {
  display: grid;
  gap: var(--space-1);
}
.verdict {
  font-size: var(--text-title);
  font-weight: 650;
}
.due {
  color: var(--warn);
}
</style>
