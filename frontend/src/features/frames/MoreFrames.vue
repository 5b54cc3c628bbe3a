<script setup lang="ts">
import Message from 'primevue/message'
import { ref, watch } from 'vue'
import { answer, api, type Job } from '@/api/client'
import { useTell } from '@/shared/composables/useTell'
import { useUploads } from '@/shared/composables/useUploads'
import UploadRow from '@/shared/components/UploadRow.vue'

/** Further frames of the same moment, moved between the shots: they prove what is on the sensor. */
const props = defineProps<{ frameId: number; members: number }>()
const emit = defineEmits<{ measuring: [job: Job] }>()
const chooser = ref<HTMLInputElement | null>(null)
defineExpose({ choose: () => chooser.value?.click() })
const ids = ref<number[]>([])
const { uploads, add, dismiss } = useUploads((id) => {
  ids.value = [...ids.value, id]
})

function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  ids.value = []
  add(files)
}

const { tell, error } = useTell<Job>((job) => {
  ids.value = []
  emit('measuring', job)
})
watch(
  [ids, uploads],
  ([now, left]) => {
    if (!now.length || left.length) return
    const members = now.filter((id) => id !== props.frameId)
    const path = { frame_id: props.frameId }
    void tell(() => answer(api.PUT('/api/frames/{frame_id}/series', { params: { path }, body: { members } })))
  },
  { deep: true },
)
</script>

<template>
  <div class="more">
    <span v-if="members > 1">Measured from {{ members }} frames of one moment.</span>
    <input
      ref="chooser"
      class="hidden-label"
      type="file"
      multiple
      tabindex="-1"
      aria-label="More frames of the same moment"
      @change="chosen"
    />
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <ul v-if="uploads.length">
      <UploadRow v-for="u in uploads" :key="u.key" :upload="u" @dismiss="dismiss(u.key)" />
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: var(--space-2) 0 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
</style>
