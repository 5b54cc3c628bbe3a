<script setup lang="ts">
import Button from 'primevue/button'
import Menu from 'primevue/menu'
import { computed, ref } from 'vue'
import { API } from '@/api/root'
import { useMe } from '@/shared/composables/useMe'

/** What is seldom done with a frame. */
const props = defineProps<{ frameId: number; alone: boolean }>()
const emit = defineEmits<{ delete: []; confirm: [] }>()
const { isViewer, isOwner } = useMe()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const saved = (form: string, label: string): { label: string; url: string } => ({
  label,
  url: `${API}/frames/${props.frameId}/map.${form}`,
})
const items = computed(() => [
  saved('json', 'Save all measurements (JSON)'),
  saved('csv', 'Save the table of spots (CSV)'),
  saved('svg', 'Save the drawing of the map (SVG)'),
  ...(isViewer.value || !props.alone
    ? []
    : [{ separator: true }, { label: 'Confirm with more frames', command: () => emit('confirm') }]),
  ...(isOwner.value
    ? [
        { separator: true },
        { label: 'Delete this frame', icon: 'pi pi-trash', command: () => emit('delete') },
      ]
    : []),
])
</script>

<template>
  <div>
    <Button
      label="More"
      icon="pi pi-ellipsis-h"
      size="small"
      severity="secondary"
      variant="outlined"
      aria-haspopup="true"
      aria-controls="frame-menu"
      @click="menu?.toggle($event)"
    />
    <Menu id="frame-menu" ref="menu" :model="items" popup append-to="#layers" />
  </div>
</template>
