<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import Menu from 'primevue/menu'
import { computed, ref } from 'vue'

const props = defineProps<{ frameId: number }>()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const items = computed(() =>
  [
    ['json', 'All measurements (JSON)'],
    ['csv', 'Table of spots (CSV)'],
    ['svg', 'Drawing of the map (SVG)'],
  ].map(([form, label]) => ({ label, url: `${API}/frames/${props.frameId}/map.${form}` })),
)
</script>

<template>
  <div>
    <Button
      label="Save"
      icon="pi pi-download"
      size="small"
      severity="secondary"
      variant="outlined"
      aria-haspopup="true"
      aria-controls="save-menu"
      @click="menu?.toggle($event)"
    />
    <Menu id="save-menu" ref="menu" :model="items" popup append-to="#layers" />
  </div>
</template>
