<script setup lang="ts">
import AutoComplete from 'primevue/autocomplete'
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { found, type Found, type FoundGroup } from './find'

/** Search over everything: rooms, cameras, frames, jobs, the kit. */
const open = defineModel<boolean>('open', { required: true })
const router = useRouter()
const words = ref<string | Found>('')
const groups = ref<FoundGroup[]>([])
const error = ref('')
watch(open, () => {
  words.value = ''
  groups.value = []
})
let asked = 0
async function seek(query: string): Promise<void> {
  const turn = ++asked
  try {
    const now = await found(query)
    if (turn === asked) groups.value = now
    error.value = ''
  } catch (problem) {
    groups.value = []
    error.value = (problem as Error).message
  }
}
function go(to: Found): void {
  open.value = false
  void router.push(to.to)
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Find" position="top" :style="{ width: '560px' }">
    <AutoComplete
      v-model="words"
      class="find"
      fluid
      :pt="{ pcInputText: { root: { autofocus: true } } }"
      :suggestions="groups"
      option-label="words"
      option-group-label="title"
      option-group-children="items"
      placeholder="A camera, frame, job, item or page"
      aria-label="Find"
      empty-search-message="Nothing has this name."
      append-to="self"
      auto-option-focus
      :delay="150"
      @complete="seek($event.query)"
      @option-select="go($event.value)"
    >
      <template #option="{ option }: { option: Found }">
        <span
          >{{ option.words }} <span class="soft">{{ option.more }}</span></span
        >
      </template>
    </AutoComplete>
    <p v-if="error" role="alert">{{ error }}</p>
  </Dialog>
</template>

<style scoped>
.find {
  min-height: 300px;
  align-items: start;
}
</style>
