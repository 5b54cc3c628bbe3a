<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import { computed, nextTick, ref } from 'vue'
import { answer, api } from '@/api/client'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useTell } from '@/shared/composables/useTell'
import BeforeAfter from './BeforeAfter.vue'
import { pictureWords, taken, toggled, type Picture, type PictureSet } from './sets'

/** The pictures of a set with their marks; one is opened to be looked at before and after. */
const props = defineProps<{ set: PictureSet; pictures: Picture[]; busy: boolean }>()
const emit = defineEmits<{ changed: []; set: [now: PictureSet] }>()
const openNumber = ref<number | null>(null)
const open = computed(() => props.pictures.find((p) => p.number === openNumber.value) ?? null)
const telling = useTell<unknown>(() => emit('changed'))
const vetoing = useTell<PictureSet>((now) => {
  emit('set', now)
})

function choose(p: Picture, leave: boolean, veto: readonly string[]): Promise<boolean> {
  const params = { path: { set_id: props.set.id, number: p.number } }
  const body = { leave, veto: [...veto] }
  return telling.tell(() => answer(api.PUT('/api/picture-sets/{set_id}/pictures/{number}', { params, body })))
}
const leaveSpot = (p: Picture, id: string): Promise<boolean> => choose(p, p.leave, toggled(p.veto, id))
function leaveEverywhere(id: string): Promise<boolean> {
  const params = { path: { set_id: props.set.id } }
  const body = { veto: toggled(props.set.veto, id) }
  return vetoing.tell(() => answer(api.PUT('/api/picture-sets/{set_id}/veto', { params, body })))
}
const small = (p: Picture): string => `${API}/picture-sets/${props.set.id}/pictures/${p.number}/small`
const wide = (p: Picture): number => p.looked?.width_px ?? 0
const high = (p: Picture): number => p.looked?.height_px ?? 0
/** The focus goes back to the picture that was looked at. */
async function close(): Promise<void> {
  const number = openNumber.value
  openNumber.value = null
  await nextTick()
  document.querySelector<HTMLElement>(`[data-number="${number}"]`)?.focus()
}
function step(by: number): void {
  const at = props.pictures.findIndex((p) => p.number === openNumber.value)
  const next = props.pictures[at + by]
  if (next) openNumber.value = next.number
}
</script>

<template>
  <FailureNote :error="telling.error.value || vetoing.error.value" />
  <ul class="sheet" aria-label="Contact sheet">
    <li v-for="p in pictures" :key="p.number" :class="{ off: p.leave || p.looked?.why_not }">
      <button
        type="button"
        class="picture"
        :data-number="p.number"
        :disabled="!p.looked || wide(p) === 0"
        :aria-label="`${p.name}: ${pictureWords(p, set.veto).replace(/\.$/, '')}. Look at it before and after`"
        @click="openNumber = p.number"
      >
        <template v-if="p.looked && wide(p) > 0">
          <img :src="small(p)" alt="" loading="lazy" />
          <svg :viewBox="`0 0 ${wide(p)} ${high(p)}`" aria-hidden="true">
            <circle
              v-for="m in taken(p, set.veto)"
              :key="m.id"
              :cx="m.x_px"
              :cy="m.y_px"
              :r="Math.max(m.outer_px / 2, wide(p) / 90)"
            />
          </svg>
        </template>
        <span v-else class="empty"><i class="pi pi-image" aria-hidden="true" /></span>
      </button>
      <div class="under">
        <strong>{{ p.name }}</strong>
        <Button
          v-if="p.looked && !p.looked.why_not"
          :label="p.leave ? 'Patch it' : 'Leave it'"
          size="small"
          severity="secondary"
          variant="text"
          :aria-label="`${p.leave ? 'Patch it' : 'Leave it'}: ${p.name}`"
          :disabled="busy"
          @click="choose(p, !p.leave, p.veto)"
        />
      </div>
      <p class="soft">{{ pictureWords(p, set.veto) }}</p>
    </li>
  </ul>
  <BeforeAfter
    v-if="open"
    :set="set"
    :picture="open"
    @close="close"
    @step="step"
    @leave="(id) => open && leaveSpot(open, id)"
    @leave-everywhere="leaveEverywhere"
  />
</template>

<style scoped>
.sheet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: var(--space-3);
  margin: 0;
  padding: 0;
  list-style: none;
}
.sheet li {
  display: grid;
  gap: var(--space-1);
  align-content: start;
  min-width: 0;
}
.picture {
  position: relative;
  display: grid;
  place-items: center;
  width: 100%;
  aspect-ratio: 3 / 2;
  padding: 0;
  overflow: hidden;
  background: var(--surround);
  border: 1px solid var(--line);
  border-radius: 5px;
  cursor: zoom-in;
}
.picture:disabled {
  cursor: default;
}
.picture img,
.picture svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.off .picture img {
  opacity: 0.45;
}
circle {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 1.5px;
  vector-effect: non-scaling-stroke;
}
.empty {
  color: var(--ink-soft);
}
.under {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  font-size: var(--text-small);
}
</style>
