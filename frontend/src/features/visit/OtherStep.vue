<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import Message from 'primevue/message'
import Select from 'primevue/select'
import Textarea from 'primevue/textarea'
import { computed, ref, watch } from 'vue'
import type { Step, Visit } from '@/api/client'
import { RUNGS, STEP_WORDS } from '@/shared/lib/steps'

const props = defineProps<{ visit: Visit; wanted: Step | null }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ log: [step: Step, against: string] }>()
const step = ref<Step>('air')
const why = ref('')
const options = RUNGS.map((value) => ({ label: STEP_WORDS[value], value }))
const hazard = computed(() => props.visit.advice.barred.find((b) => b.action === step.value)?.text ?? '')
const ready = computed(() => hazard.value === '' || why.value.trim().length > 2)
watch(open, (now) => {
  if (!now) return
  step.value = props.wanted ?? 'air'
  why.value = ''
})

function log(): void {
  emit('log', step.value, why.value.trim())
  open.value = false
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Another step" :style="{ width: '520px' }">
    <form class="form" @submit.prevent="log">
      <label
        >Step<Select
          v-model="step"
          :options="options"
          option-label="label"
          option-value="value"
          aria-label="Step"
      /></label>
      <Message v-if="hazard" severity="warn" :closable="false">Advised against now. {{ hazard }}</Message>
      <label
        >Your reason<Textarea
          v-model="why"
          rows="2"
          maxlength="400"
          :placeholder="hazard ? 'Needed, because this is advised against' : 'Optional'"
      /></label>
      <p class="soft">It is kept in the trail with your reason. The camera's handbook goes first.</p>
      <div class="end">
        <Button label="Cancel" severity="secondary" variant="text" @click="open = false" />
        <Button type="submit" label="Log it as done" :disabled="!ready" />
      </div>
    </form>
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
.end {
  display: flex;
  justify-content: flex-end;
  gap: var(--space-2);
}
</style>
