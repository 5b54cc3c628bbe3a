<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { useTell } from '@/shared/composables/useTell'
import { count } from '@/shared/lib/format'

type Watched = Schemas['Watched']
const EVERY_MS = 2000
const EACH = 0
const client = useQueryClient()
const { value: folders, error: away } = useAsk(queries.watched, { everyMs: () => EVERY_MS })
const { bodies } = useBodyNames()
const whose = computed(() => [{ id: EACH, name: 'Recognise each frame' }, ...bodies.value])
const path = ref('')
const bodyId = ref(EACH)
const {
  tell,
  busy,
  error: refused,
} = useTell<Watched[]>((now) => client.setQueryData(queries.watched().queryKey, now))

async function add(): Promise<void> {
  const body = { path: path.value, body_id: bodyId.value === EACH ? null : bodyId.value }
  const done = await tell(() => answer(api.POST('/api/watched', { body })))
  if (done) path.value = ''
}

function remove(folder: Watched): void {
  const params = { path: { folder_id: folder.id ?? 0 } }
  void tell(() => answer(api.DELETE('/api/watched/{folder_id}', { params })))
}

function seenWords(f: Watched): string {
  if (!f.there) return 'Not there now; it is waited for.'
  if (!f.taken) return 'Followed. Nothing came yet.'
  const at = f.last_at ? new Date(f.last_at).toLocaleTimeString('en-GB').slice(0, 5) : ''
  return `Followed. ${count(f.taken, 'picture')} taken in, the last ${f.last_name} at ${at}.`
}
</script>

<template>
  <section>
    <h2>Watched folders</h2>
    <p class="soft">
      New pictures that appear there are taken in by themselves: from a card reader's folder, or where a
      tethered camera stores its frames. Nothing in the folder is changed. Only pictures that come from now on
      count.
    </p>
    <FailureNote :error="refused || away" />
    <ul v-if="folders?.length">
      <li v-for="f in folders" :key="f.path">
        <i
          class="pi"
          :class="f.there ? 'pi-check-circle good' : 'pi-exclamation-triangle warn'"
          aria-hidden="true"
        />
        <span>
          <strong>{{ f.path }}</strong>
          <span class="soft">{{ f.body_name ? `for ${f.body_name}` : 'each frame is recognised' }}</span>
          <span role="status">{{ seenWords(f) }}</span>
          <span v-if="f.refused" class="warn">{{ f.refused }}</span>
          <span v-if="f.id === null" class="soft">Named when the program was started; remove it there.</span>
        </span>
        <Button
          v-if="f.id !== null"
          label="Remove"
          size="small"
          severity="secondary"
          variant="text"
          :aria-label="`Stop watching ${f.path}`"
          @click="remove(f)"
        />
      </li>
    </ul>
    <form @submit.prevent="add">
      <label class="grow"
        >Folder<InputText v-model="path" required maxlength="1000" placeholder="Folder path"
      /></label>
      <label
        >Frames are of<Select
          v-model="bodyId"
          :options="whose"
          option-label="name"
          option-value="id"
          aria-label="Frames are of"
      /></label>
      <Button type="submit" label="Watch it" :disabled="busy || !path.trim()" />
    </form>
  </section>
</template>

<style scoped>
section,
ul {
  display: grid;
  gap: var(--space-2);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: var(--space-2);
  align-items: start;
}
li > span {
  display: grid;
  overflow-wrap: anywhere;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
}
.grow {
  flex: 1;
  min-width: 220px;
}
.good {
  color: var(--good);
}
.warn {
  color: var(--warn);
}
</style>
