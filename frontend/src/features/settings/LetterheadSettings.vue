<script setup lang="ts">
import { API } from '@/api/root'
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import SelectButton from 'primevue/selectbutton'
import Textarea from 'primevue/textarea'
import { computed, ref, watch } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'

/** Name, address, paper and logo that reports carry. */
type Kept = Schemas['LetterheadKept']
const PAPERS = [
  { label: 'A4', value: 'a4' },
  { label: 'Letter', value: 'letter' },
]
const MOST_LOGO_BYTES = 1e6
const client = useQueryClient()
const { value: kept, error: away } = useAsk(queries.letterhead)
const entered = ref<Schemas['Letterhead']>({ name: '', address: '', paper: 'a4' })
watch(
  kept,
  (now) => {
    if (now) entered.value = { ...now.letterhead }
  },
  { immediate: true },
)
const shown = ref(0)
const saved = ref('')
const { tell, error: refused } = useTell<Kept>((now) => {
  client.setQueryData(queries.letterhead().queryKey, now)
  shown.value += 1
})
const error = computed(() => refused.value || away.value)
const picker = ref<HTMLInputElement | null>(null)

async function keep(call: () => Promise<Kept>): Promise<void> {
  saved.value = (await tell(call)) ? 'Saved' : ''
}
const save = (): Promise<void> => keep(() => answer(api.PUT('/api/letterhead', { body: entered.value })))
const takeOff = (): Promise<void> => keep(() => answer(api.DELETE('/api/letterhead/logo')))

async function give(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const body = file as unknown as string
  await keep(async () => {
    if (file.size > MOST_LOGO_BYTES) throw new Error('The logo is larger than 1 MB. Choose a smaller file.')
    const bodySerializer = (given: unknown) => given as BodyInit
    return (await answer(api.PUT('/api/letterhead/logo', { body, bodySerializer }))) as Kept
  })
  input.value = ''
}
</script>

<template>
  <div class="form">
    <FailureNote :error="error" />
    <label for="head-name">Name</label>
    <InputText id="head-name" v-model="entered.name" maxlength="120" @change="save" />
    <label for="head-address">Address</label>
    <Textarea id="head-address" v-model="entered.address" maxlength="400" rows="3" @change="save" />
    <span id="head-paper">Paper</span>
    <SelectButton
      v-model="entered.paper"
      :options="PAPERS"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      aria-labelledby="head-paper"
      @change="save"
    />
    <span>Logo</span>
    <div class="logo">
      <img v-if="kept?.has_logo" :key="shown" :src="`${API}/letterhead/logo.png?${shown}`" alt="Your logo" />
      <Button
        :label="kept?.has_logo ? 'Choose another' : 'Choose a picture'"
        size="small"
        severity="secondary"
        variant="outlined"
        @click="picker?.click()"
      />
      <Button
        v-if="kept?.has_logo"
        label="Remove the logo"
        size="small"
        severity="secondary"
        variant="text"
        @click="takeOff"
      />
      <input
        ref="picker"
        type="file"
        accept="image/png,image/jpeg"
        aria-label="Logo file"
        class="picker"
        tabindex="-1"
        @change="give"
      />
    </div>
    <p class="soft" role="status">{{ saved }}</p>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 120px minmax(0, 420px);
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.form > :deep(.p-message),
.form > p {
  grid-column: 1 / -1;
}
.logo {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: center;
}
.logo img {
  max-width: 180px;
  max-height: 60px;
  border: 1px solid var(--line);
}
.picker {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
@media (max-width: 700px) {
  .form {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
