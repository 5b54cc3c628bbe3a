<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import RadioButton from 'primevue/radiobutton'
import Textarea from 'primevue/textarea'
import { ref, watch } from 'vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { Closed, Schemas, Visit } from '@/api/client'
import { day } from '@/shared/lib/format'
import { money } from '@/shared/lib/kit'

type Verdict = Schemas['Closing']['verdict']
/** `quick`: closed as finished at once, nothing asked. */
const props = defineProps<{
  visit: Visit
  quick?: boolean
  currency?: string
  close: (closing: Schemas['Closing']) => Promise<Closed | null>
}>()
const open = defineModel<boolean>('open', { required: true })
/** Nothing is chosen for one while spots still show: how it ends is to be said. */
const verdict = ref<Verdict | null>(null)
const note = ref('')
const until = ref('')
const closed = ref<Closed | null>(null)
const verdicts: { value: Verdict; label: string; hint: string }[] = [
  { value: 'finished', label: 'Finished', hint: 'Good enough for the work.' },
  { value: 'deferred', label: 'Postponed', hint: 'Until a day you name.' },
  { value: 'sent', label: 'Sent to a service', hint: 'With a note of who has it.' },
  { value: 'given_up', label: 'Stopped', hint: 'Nothing more will be tried now.' },
]
const preset: Partial<Record<Visit['advice']['decision'], Verdict>> = {
  stop_done: 'finished',
  defer: 'deferred',
  service: 'sent',
}
watch(open, (now) => {
  if (!now) return
  verdict.value = props.quick ? 'finished' : (preset[props.visit.advice.decision] ?? null)
  note.value = ''
  closed.value = null
  if (props.quick) void go()
})

async function go(): Promise<void> {
  if (verdict.value === null) return
  closed.value = await props.close({ verdict: verdict.value, note: note.value, until: until.value || null })
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="closed ? 'Closed. Before you leave' : 'Close this visit'"
    :style="{ width: '520px' }"
  >
    <div v-if="closed" class="form">
      <ol>
        <li v-for="w in closed.words" :key="w">{{ w }}</li>
      </ol>
      <p v-if="closed.visit.cost">
        Used up for this clean: <strong>{{ money(closed.visit.cost, currency ?? '€') }}</strong><template
          v-if="closed.visit.unpriced"
        >
          and {{ closed.visit.unpriced }} without a price</template
        >.
      </p>
      <p>
        Look again on <strong>{{ day(closed.look_again_on) }}</strong>, or sooner when spots show.
      </p>
      <div class="end"><Button label="Done" @click="open = false" /></div>
    </div>
    <form v-else class="form" @submit.prevent="go">
      <label v-for="v in verdicts" :key="v.value" class="pick">
        <RadioButton v-model="verdict" :value="v.value" name="verdict" />
        <span
          ><strong>{{ v.label }}</strong> <span class="soft">{{ v.hint }}</span></span
        >
      </label>
      <label v-if="verdict === 'deferred'">Until<DayInput v-model="until" required /></label>
      <label>Note<Textarea v-model="note" rows="2" maxlength="1000" /></label>
      <div class="end">
        <Button label="Cancel" severity="secondary" variant="text" @click="open = false" />
        <Button type="submit" label="Close the visit" :disabled="verdict === null" />
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
.pick {
  grid-template-columns: auto 1fr;
  align-items: center;
  gap: var(--space-2);
}
ol {
  margin: 0;
  padding-left: var(--space-3);
  display: grid;
  gap: var(--space-2);
  font-size: var(--text-lead);
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: var(--space-2);
}
</style>
