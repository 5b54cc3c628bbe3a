<script setup lang="ts">
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import { computed, nextTick, ref, watch } from 'vue'
import type { Spot } from '@/api/client'
import { fStop, micrometres, percent, pixels } from '@/shared/lib/format'
import { KIND_WORDS } from '@/shared/lib/spots'
import KindSign from './KindSign.vue'

const props = defineProps<{ spots: Spot[]; total: number; fit: boolean }>()
const selected = defineModel<string | null>('selected', { required: true })
const chosen = computed({
  get: () => props.spots.find((s) => s.id === selected.value) ?? null,
  set: (spot: Spot | null) => {
    selected.value = spot?.id ?? null
  },
})
const rowAttributes = {
  bodyRow: ({ props: row }: { props: { rowData: Spot } }) => ({ 'data-row': row.rowData.id }),
}

/** Of many rows only those in sight are made. */
const MANY = 60
const ROW_PX = 37
const windowed = computed(() => (props.spots.length > MANY ? { itemSize: ROW_PX } : undefined))
interface Shown {
  processedData?: Spot[]
  getVirtualScrollerRef: () => { scrollToIndex: (index: number) => void } | null
}
const table = ref<Shown | null>(null)
watch(selected, async (id) => {
  await nextTick()
  if (!id) return
  const row = document.querySelector(`[data-row="${id}"]`)
  if (row) row.scrollIntoView({ block: 'nearest' })
  else {
    const at = table.value?.processedData?.findIndex((s) => s.id === id) ?? -1
    if (at >= 0) table.value?.getVirtualScrollerRef()?.scrollToIndex(at)
  }
})
</script>

<template>
  <div class="table">
    <DataTable
      ref="table"
      v-model:selection="chosen"
      :value="spots"
      data-key="id"
      selection-mode="single"
      size="small"
      scrollable
      scroll-height="flex"
      :virtual-scroller-options="windowed"
      sort-field="depth"
      :sort-order="-1"
      :meta-key-selection="false"
      :pt="rowAttributes"
    >
      <template #empty>{{
        total === 0
          ? fit
            ? 'No spots were found.'
            : 'Nothing was measured on this frame.'
          : 'No spot passes these filters.'
      }}</template>
      <Column field="kind" header="Kind" sortable>
        <template #body="{ data }"
          ><span class="kind"
            ><KindSign :kind="data.kind" /> {{ KIND_WORDS[data.kind as Spot['kind']] }}</span
          ></template
        >
      </Column>
      <Column field="depth" header="Depth" sortable class="figure">
        <template #body="{ data }">{{ percent(data.depth) }}</template>
      </Column>
      <Column field="outer_px" header="Width" sortable class="figure">
        <template #body="{ data }">{{
          data.outer_um === null ? pixels(data.outer_px) : micrometres(data.outer_um)
        }}</template>
      </Column>
      <Column field="shows_from_f" header="Visible from" sortable class="figure">
        <template #body="{ data }">{{ fStop(data.shows_from_f) }}</template>
      </Column>
    </DataTable>
  </div>
</template>

<style scoped>
.table {
  flex: 1 1 220px;
  min-height: 220px;
  overflow: hidden;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.kind {
  display: inline-flex;
  align-items: center;
  gap: var(--space-2);
  white-space: nowrap;
}
:deep(.figure) {
  text-align: right;
  white-space: nowrap;
}
:deep(th.figure .p-datatable-column-header-content) {
  justify-content: flex-end;
}
</style>
