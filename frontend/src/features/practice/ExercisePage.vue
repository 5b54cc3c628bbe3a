<script setup lang="ts">
import Button from 'primevue/button'
import { nextTick, ref, watch } from 'vue'
import { RouterLink, type RouteLocationRaw } from 'vue-router'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'

/** What all exercises share: the way back, and what is said once it is answered. */
const props = defineProps<{
  title: string
  error: string
  /** The verdict; empty until it is answered. */
  verdict: string
  good?: boolean
  bad?: boolean
  again: RouteLocationRaw
  againWords: string
}>()
defineEmits<{ another: [] }>()
const told = ref<HTMLElement | null>(null)
watch(
  () => props.verdict,
  (now) => {
    if (now) void nextTick(() => told.value?.focus())
  },
)
</script>

<template>
  <section class="page">
    <BackLink :home="{ name: 'practice' }" home-words="Practice" />
    <h1>{{ title }}</h1>
    <FailureNote :error="error" />
    <slot />
    <div v-if="verdict" ref="told" class="told" tabindex="-1" role="status">
      <p class="verdict" :class="{ good, bad }">{{ verdict }}</p>
      <slot name="told" />
      <p class="row">
        <Button label="Another" icon="pi pi-arrow-right" @click="$emit('another')" />
        <RouterLink :to="again">{{ againWords }}</RouterLink>
      </p>
    </div>
  </section>
</template>

<style scoped>
.told {
  display: grid;
  gap: var(--space-2);
}
.told:focus {
  outline: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.verdict {
  font-size: var(--text-lead);
  font-weight: 650;
}
.good {
  color: var(--good);
}
.bad {
  color: var(--stop);
}
.told :deep(ul) {
  margin: 0;
  padding-left: 1.2em;
}
</style>
