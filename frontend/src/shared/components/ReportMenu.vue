<script setup lang="ts">
import Button from 'primevue/button'
import Menu from 'primevue/menu'
import { computed, ref } from 'vue'

/** A report to open for printing or as a page; `path`: its address without its ending. */
const props = defineProps<{ path: string }>()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const items = computed(() => [
  { label: 'For printing (PDF)', icon: 'pi pi-print', url: `${props.path}.pdf`, target: '_blank' },
  { label: 'As a web page (HTML)', icon: 'pi pi-globe', url: `${props.path}.html`, target: '_blank' },
])
</script>

<template>
  <span>
    <Button
      icon="pi pi-print"
      label="Report"
      size="small"
      severity="secondary"
      variant="text"
      aria-haspopup="true"
      @click="menu?.toggle($event)"
    />
    <Menu ref="menu" :model="items" popup append-to="#layers" />
  </span>
</template>
