<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRouter, type RouteLocationRaw } from 'vue-router'

/** Leads back to the page one came from; where one came from none, to `home`. */
const props = defineProps<{ home: RouteLocationRaw; homeWords: string }>()
const router = useRouter()
const WORDS: Record<string, string> = {
  bench: 'Bench',
  bodies: 'Cameras',
  body: 'the camera',
  jobs: 'Jobs',
  pictures: 'Pictures',
  kit: 'Kit',
  costs: 'Costs',
  visit: 'the visit',
  frame: 'the frame',
  compare: 'the comparison',
  schools: 'Settings',
  practice: 'Practice',
}
const from = computed(() => {
  const path: unknown = window.history.state?.back
  if (typeof path !== 'string') return null
  const words = WORDS[String(router.resolve(path).name)]
  return words ? { path, words } : null
})
const to = computed(() => from.value?.path ?? props.home)
function back(event: MouseEvent): void {
  if (!from.value || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  router.back()
}
</script>

<template>
  <RouterLink :to="to" class="back" @click.capture="back"
    ><i class="pi pi-arrow-left" aria-hidden="true" /> Back to {{ from?.words ?? homeWords }}</RouterLink
  >
</template>

<style scoped>
.back {
  width: fit-content;
  font-size: var(--text-small);
}
</style>
