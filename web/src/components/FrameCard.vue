<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { FrameListing } from '../api/client'
import { count, day } from '../lib/format'

const props = defineProps<{ frame: FrameListing; worksAt: number }>()
const verdict = computed(() => {
  if (props.frame.count === 0) return 'No spots found'
  return `${count(props.frame.count ?? 0, 'spot')}, ${props.frame.relevant ?? 0} show at f/${props.worksAt}`
})
</script>

<template>
  <li>
    <RouterLink class="card" :to="{ name: 'frame', params: { id: frame.id } }">
      <img :src="`/api/frames/${frame.id}/thumb/relief.jpg`" alt="" loading="lazy" width="480" height="320" />
      <span class="text">
        <strong class="title">{{ frame.name }}</strong>
        <span>{{ verdict }}</span>
        <span v-if="frame.fit === false" class="unfit">Not fit to judge by</span>
        <span class="soft">{{ day(frame.taken_at) }}<template v-if="frame.note"> · {{ frame.note }}</template></span>
      </span>
    </RouterLink>
  </li>
</template>

<style scoped>
.card {
  display: grid; height: 100%; grid-template-rows: auto 1fr; overflow: hidden; color: var(--ink);
  text-decoration: none; background: var(--panel); border: 1px solid var(--line); border-radius: 5px;
}
.card:hover { border-color: var(--accent); }
img { width: 100%; height: auto; aspect-ratio: 3 / 2; object-fit: contain; background: var(--surround); }
.text { display: grid; align-content: start; gap: 0.15rem; padding: 0.6rem 0.8rem 0.8rem; }
.title { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.unfit { color: var(--warn); font-weight: 600; }
</style>
