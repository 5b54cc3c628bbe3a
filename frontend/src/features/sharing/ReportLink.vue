<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import { ref } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useTell } from '@/shared/composables/useTell'
import { day } from '@/shared/lib/format'

/** A link to this visit's report alone, for the owner of the camera, that expires. */
const props = defineProps<{ visit: number }>()
type Link = Schemas['ReportLink']
const client = useQueryClient()
const days = ref(14)
const link = ref<Link | null>(null)
const making = useTell<Link>((made) => {
  link.value = made
  void client.invalidateQueries({ queryKey: queries.sharing().queryKey })
})
function make(): void {
  const body = { visit_id: props.visit, days: days.value }
  void making.tell(() => answer(api.POST('/api/sharing/links', { body })))
}
</script>

<template>
  <section>
    <h2>Only the report</h2>
    <p class="soft">
      A link that shows this visit's report and nothing else, to whoever has it and is on this network.
    </p>
    <FailureNote :error="making.error.value" />
    <p class="row">
      <label>Days<InputNumber v-model="days" :min="1" :max="90" size="small" /></label>
      <Button
        label="Make a link"
        icon="pi pi-link"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="making.busy.value"
        @click="make"
      />
    </p>
    <p v-if="link" role="status">
      <span class="address">{{ link.url }}</span>
      <span class="soft"> Until {{ day(link.expires_at) }}. It is shown this once.</span>
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
.row {
  display: flex;
  gap: var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
}
label :deep(.p-inputnumber-input) {
  width: 5rem;
}
.address {
  overflow-wrap: anywhere;
  font-weight: 600;
}
</style>
