<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { answer, api, freshKey, seen, type KitEntry } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import KitForm from './KitForm.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { usePrices } from '@/shared/composables/usePrices'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import { day } from '@/shared/lib/format'
import { amountWords, itemWords, money, NEVER_ON_SENSOR, withCount } from '@/shared/lib/kit'

const client = useQueryClient()
const { value: kit, error: away } = useAsk(queries.kit)
const { bodies, bodiesError } = useBodyNames()
const { prices, currency, error: pricesAway } = usePrices()
/** Every change gives the whole kit anew. */
const put = (now: KitEntry[]) => client.setQueryData(queries.kit().queryKey, now)
const form = useTell<KitEntry[]>(put)
const row = useTell<KitEntry[]>(put)
const error = computed(() => row.error.value || away.value || bodiesError.value || pricesAway.value)
const editing = ref<KitEntry | null>(null)
const open = ref(false)
const { value: moves } = useAsk(() =>
  open.value && editing.value?.unit ? queries.moves(editing.value.id) : null,
)
const { mm } = useSettings()
const groups = computed(() =>
  [
    { title: 'Consumables', lasting: false, rows: kit.value?.filter((k) => k.unit !== null) ?? [] },
    { title: 'Tools', lasting: true, rows: kit.value?.filter((k) => k.unit === null) ?? [] },
  ].filter((g) => g.rows.length),
)

const path = (entry: KitEntry) => ({ params: { path: { item_id: entry.id } } })
const versioned = (entry: KitEntry) => ({
  params: { path: { item_id: entry.id }, header: seen(entry.version) },
})
const keyed = () => ({ header: { 'Idempotency-Key': freshKey() } })
let adding = keyed()
const changed = (call: Promise<{ data?: unknown; error?: unknown }>) => answer(call) as Promise<KitEntry[]>

function edit(entry: KitEntry | null): void {
  editing.value = entry
  adding = keyed()
  form.forget()
  open.value = true
}

async function save(owned: KitEntry['owned']): Promise<void> {
  const entry = editing.value
  const done = await form.tell(() =>
    changed(
      entry
        ? api.PUT('/api/kit/{item_id}', { ...versioned(entry), body: owned })
        : api.POST('/api/kit', { params: adding, body: owned }),
    ),
  )
  if (done) open.value = false
  else if (entry) await lookAgain(entry)
}

/** After a refusal to overwrite: what is there now, so that saving once more is meant. */
async function lookAgain(entry: KitEntry): Promise<void> {
  await client.invalidateQueries({ queryKey: queries.kit().queryKey, exact: true })
  editing.value = kit.value?.find((k) => k.id === entry.id) ?? null
}

async function remove(): Promise<void> {
  const entry = editing.value
  if (!entry) return
  if (await row.tell(() => changed(api.DELETE('/api/kit/{item_id}', path(entry))))) open.value = false
}

function recount(entry: KitEntry, by: number): void {
  const item = withCount(entry.owned.item, Math.max(0, (entry.left ?? 0) + by))
  const body = { ...entry.owned, item }
  void row.tell(() => changed(api.PUT('/api/kit/{item_id}', { ...versioned(entry), body })))
}

function arrived(entry: KitEntry): void {
  const params = { ...path(entry).params, ...keyed() }
  void row.tell(() => changed(api.POST('/api/kit/{item_id}/packs', { params })))
}

function suitsWords(entry: KitEntry): string {
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
    <div class="head">
      <div>
        <h1>Kit</h1>
        <p class="soft">
          What you own decides what is advised. A step takes what it uses from here by itself.
        </p>
      </div>
      <Button label="Add a thing" icon="pi pi-plus" @click="edit(null)" />
    </div>
    <FailureNote :error="error" />
    <template v-for="g in groups" :key="g.title">
      <h2>{{ g.title }}</h2>
      <table>
        <thead v-if="!g.lasting">
          <tr>
            <th>Thing</th>
            <th>Left</th>
            <th>Best before</th>
            <th>For bodies</th>
            <th class="num">Each</th>
            <th class="bought">Bought at</th>
            <th><span class="hidden-label">Do</span></th>
          </tr>
        </thead>
        <thead v-else>
          <tr>
            <th>Thing</th>
            <th>Note</th>
            <th class="num">Price</th>
            <th><span class="hidden-label">Do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="entry in g.rows" :key="entry.id">
            <td>
              <strong>{{ itemWords(entry.owned.item, mm) }}</strong>
              <span v-if="NEVER_ON_SENSOR.has(entry.owned.item.item)" class="tag stop"
                >never on a sensor</span
              >
              <span v-if="entry.owned.note && entry.unit" class="soft note">{{ entry.owned.note }}</span>
            </td>
            <template v-if="entry.unit">
              <td class="count">
                <button
                  :aria-label="`One less: ${itemWords(entry.owned.item, mm)}`"
                  :disabled="!entry.left"
                  @click="recount(entry, -1)"
                >
                  −
                </button>
                <strong :class="{ out: entry.left === 0 }">{{
                  entry.left === null ? 'not counted' : amountWords(entry.left, entry.unit)
                }}</strong>
                <button
                  :aria-label="`One more: ${itemWords(entry.owned.item, mm)}`"
                  @click="recount(entry, 1)"
                >
                  +
                </button>
              </td>
              <td class="day">
                <template v-if="entry.owned.best_before"
                  >{{ day(entry.owned.best_before)
                  }}<span v-if="entry.expired" class="tag stop">past it</span></template
                ><span v-else class="soft">–</span
                ><span v-if="entry.owned.opened_on" class="soft note"
                  >opened {{ day(entry.owned.opened_on) }}</span
                >
              </td>
              <td>{{ suitsWords(entry) }}</td>
              <td class="num">{{ money(entry.unit_price, currency) }}</td>
              <td class="soft bought">
                {{ entry.owned.source || '–'
                }}<template v-if="entry.owned.lead_days != null"
                  ><br />{{ entry.owned.lead_days }} days to deliver</template
                >
              </td>
            </template>
            <template v-else>
              <td class="soft">{{ entry.owned.note || '–' }}</td>
              <td class="num">{{ money(entry.owned.pack_price, currency) }}</td>
            </template>
            <td class="do">
              <Button
                v-if="entry.unit && entry.owned.pack_size"
                label="Pack arrived"
                size="small"
                severity="secondary"
                variant="outlined"
                :aria-label="`A pack arrived: ${itemWords(entry.owned.item, mm)}`"
                @click="arrived(entry)"
              />
              <Button
                icon="pi pi-pencil"
                size="small"
                severity="secondary"
                variant="text"
                :aria-label="`Change ${itemWords(entry.owned.item, mm)}`"
                @click="edit(entry)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-if="kit && !kit.length" class="empty">
      Nothing yet. Begin with a blower: it is all that most visits need.
    </p>
    <KitForm
      v-model:open="open"
      :owned="editing?.owned ?? null"
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
.page {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.7rem;
  max-width: 1240px;
  margin: 0 auto;
  padding: 1.2rem 2rem;
}
.head {
  display: flex;
  gap: 1rem;
  align-items: center;
  justify-content: space-between;
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--panel);
  border: 1px solid var(--line);
}
td > strong {
  white-space: nowrap;
}
th,
td {
  padding: 0.3rem 0.7rem;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
th {
  font-size: var(--text-small);
  color: var(--ink-soft);
}
.num {
  text-align: right;
  white-space: nowrap;
}
.bought {
  font-size: var(--text-small);
  white-space: nowrap;
  line-height: 1.25;
}
.day {
  white-space: nowrap;
}
.count {
  white-space: nowrap;
}
.count button {
  width: 1.9rem;
  height: 1.9rem;
  font: inherit;
  color: var(--ink);
  background: transparent;
  border: 1px solid var(--ink-soft);
  border-radius: 4px;
  cursor: pointer;
}
.count button:disabled {
  opacity: 0.45;
  cursor: default;
}
.count strong {
  display: inline-block;
  min-width: 6.2rem;
  text-align: center;
}
.tag {
  margin-left: 0.4rem;
  padding: 0 0.4rem;
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
.do {
  text-align: right;
  white-space: nowrap;
}
@media (max-width: 1100px) {
  .bought {
    display: none;
  }
  .count strong {
    min-width: 5.4rem;
  }
  .page {
    padding: 1rem;
  }
  th,
  td {
    padding: 0.3rem 0.45rem;
  }
  td > strong {
    white-space: normal;
  }
}
.empty {
  padding: 3rem 1rem;
  text-align: center;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 5px;
}
</style>
