<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { EVERYWHERE, KEYS } from './keys'

/** The keys of this page and of every page. */
const open = defineModel<boolean>('open', { required: true })
const route = useRoute()
const rows = computed(() => [...(KEYS[String(route.name)] ?? []), ...EVERYWHERE])
</script>

<template>
  <Dialog v-model:visible="open" modal header="Keys" :style="{ width: '460px' }">
    <dl>
      <template v-for="[key, words] in rows" :key="key"
        ><dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ words }}</dd></template
      >
    </dl>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: var(--space-2) var(--space-4);
  margin: 0;
}
dd {
  margin: 0;
}
</style>
