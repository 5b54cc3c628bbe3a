<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { answer, api } from '@/api/client'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useTell } from '@/shared/composables/useTell'
import { percent } from '@/shared/lib/format'
import { pictureWords, type Mark, type Picture, type PictureSet } from './sets'

/** One picture at 100 %, before and after, spot by spot: arrows go to the next, space changes over. */
const props = defineProps<{ set: PictureSet; picture: Picture }>()
const emit = defineEmits<{
  close: []
  step: [by: number]
  leave: [id: string]
  leaveEverywhere: [id: string]
}>()
const marks = computed<Mark[]>(() => props.picture.looked?.marks ?? [])
const chosen = ref(0)
const mark = computed(() => marks.value[chosen.value] ?? null)
const after = ref(true)
const made = ref(0)
const making = useTell(() => {
  made.value += 1
})
const root = computed(() => `${API}/picture-sets/${props.set.id}/pictures/${props.picture.number}`)
const source = computed(() =>
  made.value ? `${root.value}/${after.value ? 'after' : 'before'}?${made.value}` : '',
)
const left = computed(() => new Set([...props.set.veto, ...props.picture.veto]))
async function make(): Promise<void> {
  if (props.picture.looked?.why_not) return
  const params = { path: { set_id: props.set.id, number: props.picture.number } }
  await making.tell(() =>
    answer(api.POST('/api/picture-sets/{set_id}/pictures/{number}/shown', { params }), true),
  )
}
watch(
  () => props.picture.number,
  () => {
    made.value = 0
    chosen.value = 0
    void make()
  },
)
watch(() => [...left.value].join(), make)
onMounted(make)

const place = computed(() => {
  const m = mark.value
  const p = props.picture.looked
  if (!m || !p) return { left: '50%', top: '50%', transform: 'translate(-50%, -50%)' }
  return { left: `calc(50% - ${m.x_px}px)`, top: `calc(50% - ${m.y_px}px)` }
})
const ring = computed(() => ({ width: `${(mark.value?.outer_px ?? 40) * 1.3}px` }))
function words(m: Mark): string {
  if (left.value.has(m.id)) return 'left as you asked'
  return m.why ?? `takes ${percent(m.depth)} of the light`
}
function next(by: number): void {
  const n = marks.value.length
  if (n) chosen.value = (chosen.value + by + n) % n
}
function key(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const onButton = event.target instanceof HTMLButtonElement
  if (event.key === 'ArrowRight') next(1)
  else if (event.key === 'ArrowLeft') next(-1)
  else if (event.key === 'PageDown') emit('step', 1)
  else if (event.key === 'PageUp') emit('step', -1)
  else if (event.key === ' ' && !onButton) after.value = !after.value
  else return
  event.preventDefault()
}
onMounted(() => window.addEventListener('keydown', key))
onUnmounted(() => window.removeEventListener('keydown', key))
</script>

<template>
  <Dialog
    visible
    modal
    :header="picture.name"
    :draggable="false"
    :style="{ width: 'min(1100px, 96vw)' }"
    @update:visible="emit('close')"
  >
    <FailureNote :error="making.error.value" :again="make" />
    <p v-if="!marks.length || picture.looked?.why_not">{{ pictureWords(picture, set.veto) }}</p>
    <div v-else class="both">
      <div class="glass" :aria-label="`${after ? 'After' : 'Before'}, at 100 %`" role="img">
        <img v-if="source" :src="source" :style="place" alt="" />
        <span v-else class="soft waiting">Preparing the picture</span>
        <span class="ring" :style="ring" />
        <span class="which">{{ after ? 'After' : 'Before' }}</span>
      </div>
      <div class="side">
        <Button
          :label="after ? 'Show before' : 'Show after'"
          icon="pi pi-arrow-right-arrow-left"
          autofocus
          @click="after = !after"
        />
        <p class="soft">Space switches, arrows go to the next spot, Page Down to the next picture.</p>
        <div class="row">
          <Button
            icon="pi pi-chevron-left"
            label="Previous"
            size="small"
            severity="secondary"
            variant="outlined"
            @click="next(-1)"
          />
          <span>{{ chosen + 1 }} of {{ marks.length }}</span>
          <Button
            icon="pi pi-chevron-right"
            icon-pos="right"
            label="Next"
            size="small"
            severity="secondary"
            variant="outlined"
            @click="next(1)"
          />
        </div>
        <template v-if="mark">
          <p role="status">
            <strong>{{ mark.id }}</strong>: {{ words(mark) }}
          </p>
          <template v-if="mark.why === null">
            <Button
              :label="
                picture.veto.includes(mark.id) ? 'Patch it in this picture' : 'Leave it in this picture'
              "
              severity="secondary"
              variant="outlined"
              size="small"
              :disabled="set.veto.includes(mark.id)"
              @click="emit('leave', mark.id)"
            />
            <Button
              :label="set.veto.includes(mark.id) ? 'Patch it in all pictures' : 'Leave it in all pictures'"
              severity="secondary"
              variant="text"
              size="small"
              @click="emit('leaveEverywhere', mark.id)"
            />
          </template>
        </template>
        <a v-if="made" :href="`${root}/mask`" :download="`${picture.name}-mask.png`">Mask as PNG</a>
      </div>
    </div>
  </Dialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 240px;
  gap: var(--space-3);
}
@media (max-width: 760px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
.glass {
  position: relative;
  height: min(60vh, 560px);
  overflow: hidden;
  background: var(--surround);
  border-radius: 5px;
}
.glass img {
  position: absolute;
  max-width: none;
}
.ring {
  position: absolute;
  left: 50%;
  top: 50%;
  aspect-ratio: 1;
  border: 1.5px dashed var(--mark-light);
  border-radius: 50%;
  transform: translate(-50%, -50%);
}
.which {
  position: absolute;
  left: var(--space-2);
  top: var(--space-2);
  padding: 0 var(--space-2);
  color: var(--ink);
  background: var(--panel);
  border-radius: 5px;
}
.waiting {
  position: absolute;
  left: 50%;
  top: 60%;
}
.side {
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
.row {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  justify-content: space-between;
}
</style>
