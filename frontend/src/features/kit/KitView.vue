<script setup lang="ts">
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useQueryClient } from '@tanstack/vue-query'
import { answer, api, freshKey, seen, type KitRow } from '@/api/client'
import { queries } from '@/api/queries'
import ItemDrawing from '@/shared/drawings/ItemDrawing.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import KitForm from './KitForm.vue'
import KitTabs from './KitTabs.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { usePrices } from '@/shared/composables/usePrices'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import { day } from '@/shared/lib/format'
import { amountWords, itemWords, money, NEVER_ON_SENSOR, withCount, type ItemName } from '@/shared/lib/kit'

/** `add`: what is to be entered at once; `visit`: the one that asked for it. */
const props = defineProps<{ add?: ItemName | null; visit?: number | null; find?: string }>()
const router = useRouter()
const client = useQueryClient()
const { value: kit, error: away } = useAsk(queries.kit)
const { bodies, bodiesError } = useBodyNames()
const { prices, currency, error: pricesAway } = usePrices()
/** Every change gives the whole kit anew. */
const put = (now: KitRow[]) => client.setQueryData(queries.kit().queryKey, now)
const form = useTell<KitRow[]>(put)
const row = useTell<KitRow[]>(put)
const error = computed(() => row.error.value || away.value || bodiesError.value || pricesAway.value)
const editing = ref<KitRow | null>(null)
const open = ref(false)
const { value: moves } = useAsk(() =>
  open.value && editing.value?.unit ? queries.moves(editing.value.id) : null,
)
const { mm } = useSettings()
const words = ref(props.find ?? '')
const found = computed(() =>
  (kit.value ?? []).filter((k) =>
    `${itemWords(k.owned.item, mm)} ${k.owned.note} ${k.owned.source}`
      .toLowerCase()
      .includes(words.value.trim().toLowerCase()),
  ),
)
const groups = computed(() =>
  [
    { title: 'Consumables', lasting: false, rows: found.value.filter((k) => k.unit !== null) },
    { title: 'Tools', lasting: true, rows: found.value.filter((k) => k.unit === null) },
  ].filter((g) => g.rows.length),
)

const path = (entry: KitRow) => ({ params: { path: { item_id: entry.id } } })
const versioned = (entry: KitRow) => ({
  params: { path: { item_id: entry.id }, header: seen(entry.version) },
})
const keyed = () => ({ header: { 'Idempotency-Key': freshKey() } })
let adding = keyed()
const changed = (call: Promise<{ data?: unknown; error?: unknown }>) => answer(call) as Promise<KitRow[]>

function edit(entry: KitRow | null): void {
  editing.value = entry
  adding = keyed()
  form.forget()
  open.value = true
}

watch(
  () => props.add,
  (item) => {
    if (item) edit(null)
  },
  { immediate: true },
)

async function save(owned: KitRow['owned']): Promise<void> {
  const entry = editing.value
  const done = await form.tell(() =>
    changed(
      entry
        ? api.PUT('/api/kit/{item_id}', { ...versioned(entry), body: owned })
        : api.POST('/api/kit', { params: adding, body: owned }),
    ),
  )
  if (done) {
    open.value = false
    if (!entry && props.add && props.visit) await router.push({ name: 'visit', params: { id: props.visit } })
  } else if (entry) await lookAgain(entry)
}

/** After a refusal to overwrite: what is there now, so that saving once more is meant. */
async function lookAgain(entry: KitRow): Promise<void> {
  await client.invalidateQueries({ queryKey: queries.kit().queryKey, exact: true })
  editing.value = kit.value?.find((k) => k.id === entry.id) ?? null
}

const carriesFluid = computed(() =>
  kit.value?.some((k) => ['fluid', 'wet_swab', 'moist_wipe'].includes(k.owned.item.item)),
)

/** What was just removed or recounted, to be put back with one press. */
const undone = ref<{ words: string; run: () => Promise<boolean> } | null>(null)

async function remove(): Promise<void> {
  const entry = editing.value
  if (!entry) return
  if (!(await row.tell(() => changed(api.DELETE('/api/kit/{item_id}', path(entry)))))) return
  open.value = false
  undone.value = {
    words: `Removed: ${itemWords(entry.owned.item, mm)}.`,
    run: () => row.tell(() => changed(api.POST('/api/kit', { params: keyed(), body: entry.owned }))),
  }
}

async function undo(): Promise<void> {
  if (await undone.value?.run()) undone.value = null
}

function recount(entry: KitRow, by: number): void {
  const item = withCount(entry.owned.item, Math.max(0, (entry.left ?? 0) + by))
  const body = { ...entry.owned, item }
  void row.tell(() => changed(api.PUT('/api/kit/{item_id}', { ...versioned(entry), body })))
}

/** A fresh pack in place of what is past its day: the old is gone, the new is opened when used. */
function replace(entry: KitRow): void {
  const item = withCount(entry.owned.item, entry.owned.pack_size ?? 1)
  const body = { ...entry.owned, item, best_before: null, opened_on: null }
  const before = entry.owned
  void row
    .tell(() => changed(api.PUT('/api/kit/{item_id}', { ...versioned(entry), body })))
    .then((done) => {
      if (!done) return
      undone.value = {
        words: `Replaced by a fresh pack: ${itemWords(before.item, mm)}. Enter its own date by Edit.`,
        run: () => row.tell(() => changed(api.PUT('/api/kit/{item_id}', { ...path(entry), body: before }))),
      }
    })
}

function arrived(entry: KitRow): void {
  const params = { ...path(entry).params, ...keyed() }
  void row.tell(() => changed(api.POST('/api/kit/{item_id}/packs', { params })))
}

function suitsWords(entry: KitRow): string {
  const suits = entry.owned.suits
  if (suits == null)
    return entry.owned.item.item === 'gel_stick' && !entry.owned.item.matched_coating
      ? 'none: coating not matched'
      : 'all'
  return (
    bodies.value
      .filter((b) => suits.includes(b.id))
      .map((b) => b.name)
      .join(', ') || 'none'
  )
}
</script>

<template>
  <section class="page">
    <KitTabs />
    <div class="head">
      <div>
        <h1>Kit</h1>
        <p v-if="visit">
          <RouterLink :to="{ name: 'visit', params: { id: visit } }"
            ><i class="pi pi-arrow-left" aria-hidden="true" /> Back to the visit</RouterLink
          >
        </p>
      </div>
      <span class="do">
        <InputText v-model="words" placeholder="Find in the kit" aria-label="Find in the kit" size="small" />
        <Button class="works" label="Add an item" icon="pi pi-plus" @click="edit(null)" />
      </span>
    </div>
    <FailureNote :error="error" />
    <p v-if="undone" class="undone" role="status">
      {{ undone.words }}
      <Button label="Undo" size="small" severity="secondary" variant="outlined" @click="undo" />
    </p>
    <template v-for="g in groups" :key="g.title">
      <h2>{{ g.title }}</h2>
      <DataTable :value="g.rows" data-key="id" size="small" removable-sort>
        <Column header="Item" sortable :sort-field="(k: KitRow) => itemWords(k.owned.item, mm)">
          <template #body="{ data }">
            <div class="thing">
              <ItemDrawing class="picture" :item="data.owned.item.item" />
              <span>
                <strong :title="data.unit ? data.owned.note || undefined : undefined">{{
                  itemWords(data.owned.item, mm)
                }}</strong>
                <span v-if="NEVER_ON_SENSOR.has(data.owned.item.item)" class="tag stop"
                  >never on a sensor</span
                >
              </span>
            </div>
          </template>
        </Column>
        <template v-if="!g.lasting">
          <Column header="Left" class="count" sortable sort-field="left">
            <template #body="{ data }">
              <Button
                icon="pi pi-minus"
                size="small"
                severity="secondary"
                variant="outlined"
                :aria-label="`One less: ${itemWords(data.owned.item, mm)}`"
                :disabled="!data.left"
                @click="recount(data, -1)"
              />
              <strong :class="{ out: data.left === 0 }">{{
                data.left === null ? 'not counted' : amountWords(data.left, data.unit)
              }}</strong>
              <Button
                icon="pi pi-plus"
                size="small"
                severity="secondary"
                variant="outlined"
                :aria-label="`One more: ${itemWords(data.owned.item, mm)}`"
                @click="recount(data, 1)"
              />
            </template>
          </Column>
          <Column header="Best before" class="day" sortable sort-field="owned.best_before">
            <template #body="{ data }">
              <template v-if="data.owned.best_before"
                >{{ day(data.owned.best_before)
                }}<span v-if="data.expired" class="tag stop">expired</span></template
              ><span v-else class="soft">–</span
              ><span v-if="data.owned.opened_on" class="soft note"
                >opened {{ day(data.owned.opened_on) }}</span
              >
            </template>
          </Column>
          <Column header="Cameras">
            <template #body="{ data }">{{ suitsWords(data) }}</template>
          </Column>
          <Column header="Unit price" class="num" sortable sort-field="unit_price">
            <template #body="{ data }">{{ money(data.unit_price, currency) }}</template>
          </Column>
          <Column header="Days to get" class="bought">
            <template #body="{ data }"
              ><span class="soft" :title="data.owned.source || undefined">{{
                data.owned.lead_days ?? '–'
              }}</span></template
            >
          </Column>
        </template>
        <template v-else>
          <Column header="Note">
            <template #body="{ data }"
              ><span class="soft">{{ data.owned.note || '–' }}</span></template
            >
          </Column>
          <Column header="Price" class="num">
            <template #body="{ data }">{{ money(data.owned.pack_price, currency) }}</template>
          </Column>
        </template>
        <Column class="do">
          <template #header><span class="hidden-label">Do</span></template>
          <template #body="{ data }">
            <Button
              v-if="data.expired && data.unit"
              label="Replace"
              size="small"
              :aria-label="`Replace by a fresh pack: ${itemWords(data.owned.item, mm)}`"
              @click="replace(data)"
            />
            <Button
              v-else-if="data.unit && data.owned.pack_size"
              label="Pack"
              icon="pi pi-plus"
              size="small"
              severity="secondary"
              variant="outlined"
              :aria-label="`Add a pack: ${itemWords(data.owned.item, mm)}`"
              @click="arrived(data)"
            />
            <Button
              icon="pi pi-pencil"
              size="small"
              severity="secondary"
              variant="text"
              :aria-label="`Edit ${itemWords(data.owned.item, mm)}`"
              @click="edit(data)"
            />
          </template>
        </Column>
      </DataTable>
    </template>
    <p v-if="carriesFluid" class="soft">
      <i class="pi pi-info-circle" aria-hidden="true" /> Flying: airlines limit such fluids; ask before
      packing.
    </p>
    <p v-if="kit?.length && !found.length" class="empty">Nothing in the kit has this name.</p>
    <p v-if="kit && !kit.length" class="empty">
      Nothing yet. Begin with a blower: it is all that most visits need.
    </p>
    <KitForm
      v-model:open="open"
      :owned="editing?.owned ?? null"
      :suggested="add ?? null"
      :moves="moves ?? []"
      :bodies="bodies"
      :prices="prices"
      :error="form.error.value"
      @save="save"
      @remove="remove"
    />
  </section>
</template>

<style scoped>
.thing {
  display: grid;
  grid-template-columns: 44px 1fr;
  gap: var(--space-2);
  align-items: center;
}
.picture {
  width: 44px;
  height: 44px;
}
.do {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.undone {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-1) var(--space-3);
  background: var(--accent-wash);
}
.page {
  gap: var(--space-2);
}
.head {
  display: flex;
  gap: var(--space-3);
  align-items: center;
  justify-content: space-between;
}
:deep(td > strong) {
  white-space: nowrap;
}
:deep(.num .p-datatable-column-header-content) {
  justify-content: end;
}
:deep(.num) {
  text-align: right;
  white-space: nowrap;
}
:deep(.bought) {
  font-size: var(--text-small);
  white-space: nowrap;
  line-height: 1.25;
}
:deep(.day) {
  white-space: nowrap;
}
:deep(.count) {
  white-space: nowrap;
}
:deep(.count strong) {
  display: inline-block;
  min-width: 6.2rem;
  text-align: center;
}
.tag {
  margin-left: var(--space-2);
  padding: 0 var(--space-2);
  font-size: var(--text-small);
  border: 1px solid currentcolor;
  border-radius: 3px;
  white-space: nowrap;
}
.stop,
.out {
  color: var(--stop);
}
.note {
  display: block;
  font-size: var(--text-small);
}
:deep(.do) {
  text-align: right;
  white-space: nowrap;
}
@media (max-width: 1100px) {
  :deep(.bought) {
    display: none;
  }
  :deep(.count strong) {
    min-width: 5.4rem;
  }
  .page {
    padding: var(--space-3);
  }
  :deep(td > strong) {
    white-space: normal;
  }
}
.empty {
  padding: var(--space-5) var(--space-3);
  text-align: center;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
</style>
