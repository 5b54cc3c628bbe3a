<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { answer, api, type FrameListing } from '@/api/client'
import ApertureEntry from '@/shared/components/ApertureEntry.vue'
import { useFrameDelete } from './useFrameDelete'
import { useTell } from '@/shared/composables/useTell'
import { count, day } from '@/shared/lib/format'

const props = defineProps<{ frame: FrameListing; worksAt: number }>()
const emit = defineEmits<{ again: []; removed: [] }>()
const path = { params: { path: { frame_id: props.frame.id } } }
const noAperture = computed(() => props.frame.ready && props.frame.relevant === null)
const verdict = computed(() => {
  if (props.frame.count === 0)
    return props.frame.fit === false || noAperture.value ? 'Nothing can be told from it' : 'No spots found'
  const spots = count(props.frame.count ?? 0, 'spot')
  return noAperture.value
    ? `${spots}; what is visible cannot be worked out: no aperture recorded`
    : `${spots}, ${props.frame.relevant || 'none'} visible at f/${props.worksAt}`
})
const ORIGINAL_WORDS = {
  missing: 'Its stored file is missing',
  altered: 'Its stored file was altered',
  whole: '',
} as const

const { tell, error } = useTell()

async function again(): Promise<void> {
  if (await tell(() => answer(api.POST('/api/frames/{frame_id}/measure', path)))) emit('again')
}

const { deleteFrame, error: notDeleted } = useFrameDelete()
async function remove(): Promise<void> {
  if (await deleteFrame(props.frame.id, props.frame.name)) emit('removed')
}
</script>

<template>
  <li>
    <RouterLink v-if="frame.ready" class="card" :to="{ name: 'frame', params: { id: frame.id } }">
      <img
        :src="`${API}/frames/${frame.id}/thumb/relief.jpg`"
        alt=""
        loading="lazy"
        width="480"
        height="320"
      />
      <span class="text">
        <strong class="title">{{ frame.name }}</strong>
        <span v-if="frame.body_name" class="body">{{ frame.body_name }}</span>
        <span>{{ verdict }}</span>
        <span v-if="frame.asks_camera" class="asks">Which camera is it?</span>
        <span v-if="frame.fit === false" class="unfit">Not fit to judge by</span>
        <span v-if="frame.original !== 'whole'" class="unfit">{{ ORIGINAL_WORDS[frame.original] }}</span>
        <span class="soft"
          >{{ day(frame.taken_at) }}<template v-if="frame.note"> · {{ frame.note }}</template></span
        >
      </span>
    </RouterLink>
    <div v-else class="card waiting" :class="{ trouble: frame.trouble }">
      <span class="text">
        <strong class="title">{{ frame.name }}</strong>
        <span v-if="!frame.trouble" class="soft" role="status">Being measured</span>
        <template v-else>
          <span class="unfit">{{ frame.trouble }}</span>
          <span class="do">
            <Button label="Try again" size="small" variant="outlined" severity="secondary" @click="again" />
            <Button
              label="Remove"
              size="small"
              variant="text"
              severity="secondary"
              :aria-label="`Remove ${frame.name}`"
              @click="remove"
            />
          </span>
        </template>
        <span v-if="error || notDeleted" role="alert" class="unfit">{{ error }}</span>
      </span>
    </div>
    <ApertureEntry v-if="noAperture" class="entry" :frame-id="frame.id" @measuring="emit('again')" />
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
}
.card {
  display: grid;
  grid-template-rows: auto 1fr;
  overflow: hidden;
  color: var(--ink);
  text-decoration: none;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
a.card:hover {
  border-color: var(--accent);
}
.entry {
  padding-top: var(--space-2);
}
.waiting {
  grid-template-rows: 1fr;
  align-items: center;
  border-style: dashed;
}
.trouble {
  border-color: var(--warn);
}
img {
  width: 100%;
  height: auto;
  aspect-ratio: 3 / 2;
  object-fit: contain;
  background: var(--surround);
}
.text {
  display: grid;
  align-content: start;
  gap: 0.15rem;
  padding: var(--space-2) var(--space-3) var(--space-3);
  min-width: 0;
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.body {
  font-weight: 600;
}
.asks {
  font-weight: 600;
  color: var(--accent);
}
.unfit {
  color: var(--warn);
  font-weight: 600;
}
.do {
  display: flex;
  gap: var(--space-2);
  padding-top: var(--space-2);
}
</style>
