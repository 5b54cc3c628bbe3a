<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import MultiSelect from 'primevue/multiselect'
import { ref, watch } from 'vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { BookedJob } from '@/api/client'

const props = defineProps<{ job: BookedJob | null; bodies: { id: number; name: string }[]; error: string }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ save: [job: BookedJob]; remove: [] }>()
const empty = (): BookedJob => ({ id: 0, name: '', starts_on: '', note: '', body_ids: [], version: 1 })
const draft = ref<BookedJob>(empty())
watch(open, (now) => {
  if (now) draft.value = props.job ? (JSON.parse(JSON.stringify(props.job)) as BookedJob) : empty()
})
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="job ? 'Change the job' : 'Book a job'"
    :style="{ width: '560px' }"
  >
    <form id="job-form" class="form" @submit.prevent="emit('save', draft)">
      <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
      <label>What<InputText v-model="draft.name" required autofocus maxlength="120" /></label>
      <label>First day<DayInput v-model="draft.starts_on" required /></label>
      <label
        >Cameras it needs<MultiSelect
          v-model="draft.body_ids"
          :options="bodies"
          option-label="name"
          option-value="id"
          :show-toggle-all="false"
          :filter="bodies.length > 12"
          placeholder="Choose"
          aria-label="Cameras it needs"
      /></label>
      <label>Note<InputText v-model="draft.note" maxlength="400" /></label>
    </form>
    <template #footer>
      <Button
        v-if="job"
        class="remove deletes"
        label="Remove"
        icon="pi pi-trash"
        severity="danger"
        variant="text"
        @click="emit('remove')"
      />
      <Button label="Cancel" severity="secondary" variant="text" @click="open = false" />
      <Button type="submit" form="job-form" :label="job ? 'Save' : 'Book it'" />
    </template>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-3);
}
label {
  display: grid;
  gap: var(--space-1);
}
.remove {
  margin-right: auto;
}
</style>
