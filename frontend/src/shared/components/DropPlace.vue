<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'

const emit = defineEmits<{ files: [files: File[]] }>()
const over = ref(false)
const chooser = ref<HTMLInputElement | null>(null)

function dropped(event: DragEvent): void {
  over.value = false
  const files = [...(event.dataTransfer?.files ?? [])]
  if (files.length) emit('files', files)
}

function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  if (files.length) emit('files', files)
}
</script>

<template>
  <div
    class="drop"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <p class="lead">Drop a test frame here</p>
    <Button label="Choose a frame" icon="pi pi-folder-open" @click="chooser?.click()" />
    <p class="soft">JPEG, RAW, DNG, TIFF, PNG or HEIF, straight from the camera. It stays on this machine.</p>
    <input
      ref="chooser"
      class="hidden-label"
      type="file"
      multiple
      tabindex="-1"
      aria-label="Test frames"
      @change="chosen"
    />
  </div>
</template>

<style scoped>
.drop {
  display: grid;
  place-items: center;
  align-content: center;
  gap: 0.8rem;
  min-height: 250px;
  padding: var(--space-4);
  text-align: center;
  background: var(--panel);
  border: 2px dashed var(--ink-soft);
  border-radius: 6px;
}
.drop.over {
  border-color: var(--accent);
  border-style: solid;
  background: var(--accent-wash);
}
.lead {
  font-size: var(--text-title);
  font-weight: 600;
}
</style>
