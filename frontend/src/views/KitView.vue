<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { computed, onMounted, ref } from 'vue'
import { answer, api, freshKey, seen, type KitEntry, type Owned, type Prices, type StockMove } from '../api/client'
import KitForm from '../components/KitForm.vue'
import { useRun } from '../composables/useRun'
import { useBodyNames } from '../composables/useBodyNames'
import { useSettings } from '../composables/useSettings'
import { day } from '../lib/format'
import { amountWords, itemWords, money, NEVER_ON_SENSOR, withCount } from '../lib/kit'

const { value: kit, error, run } = useRun<KitEntry[]>()
const { bodies, bodiesError } = useBodyNames()
const prices = ref<Prices | null>(null)
const formError = ref('')
const editing = ref<KitEntry | null>(null)
const moves = ref<StockMove[]>([])
const open = ref(false)
const { mm } = useSettings()
const currency = computed(() => prices.value?.currency ?? '€')
const groups = computed(() => [
  { title: 'Single use and refills', rows: kit.value?.filter((k) => k.unit !== null) ?? [] },
  { title: 'Lasting', rows: kit.value?.filter((k) => k.unit === null) ?? [] },
].filter((g) => g.rows.length))

onMounted(async () => {
  await run(() => answer(api.GET('/api/kit')))
  try {
    prices.value = await answer(api.GET('/api/prices'))
  } catch (problem) {
    error.value = (problem as Error).message
  }
})

const path = (entry: KitEntry) => ({ params: { path: { item_id: entry.id } } })
const versioned = (entry: KitEntry) => ({ params: { path: { item_id: entry.id }, header: seen(entry.version) } })
const keyed = () => ({ header: { 'Idempotency-Key': freshKey() } })
let adding = keyed()

async function edit(entry: KitEntry | null): Promise<void> {
  editing.value = entry
  adding = keyed()
  formError.value = ''
  moves.value = entry?.unit ? await answer(api.GET('/api/kit/{item_id}/moves', path(entry))) : []
  open.value = true
}

async function save(owned: Owned): Promise<void> {
  const entry = editing.value
  const call = () => (entry ? api.PUT('/api/kit/{item_id}', { ...versioned(entry), body: owned }) : api.POST('/api/kit', { params: adding, body: owned }))
  if (await run(() => answer(call() as Promise<{ data?: unknown }>), formError)) open.value = false
  else await lookAgain(entry)
}

/** After a refusal to overwrite: what is there now, so that saving once more is meant. */
async function lookAgain(entry: KitEntry | null): Promise<void> {
  if (!entry) return
  try {
    kit.value = (await answer(api.GET('/api/kit'))) as KitEntry[]
    editing.value = kit.value.find((k) => k.id === entry.id) ?? null
  } catch {
    // The form shows why it could not be saved.
  }
}

async function remove(): Promise<void> {
  const entry = editing.value
  if (entry && (await run(() => answer(api.DELETE('/api/kit/{item_id}', path(entry)))))) open.value = false
}

function recount(entry: KitEntry, by: number): void {
  const item = withCount(entry.owned.item, Math.max(0, (entry.left ?? 0) + by))
  void run(() => answer(api.PUT('/api/kit/{item_id}', { ...versioned(entry), body: { ...entry.owned, item } })))
}

function arrived(entry: KitEntry): void {
  void run(() => answer(api.POST('/api/kit/{item_id}/packs', { params: { ...path(entry).params, ...keyed() } })))
}

function suitsWords(entry: KitEntry): string {
  const suits = entry.owned.suits
  if (suits == null) return entry.owned.item.item === 'gel_stick' && !entry.owned.item.matched_coating ? 'none: coating not matched' : 'all'
  return bodies.value.filter((b) => suits.includes(b.id)).map((b) => b.name).join(', ') || 'none'
}
</script>

<template>
  <section class="page">
    <div class="head">
      <div><h1>Kit</h1><p class="soft">What you own decides what is advised. A step takes what it uses from here by itself.</p></div>
      <Button label="Add a thing" icon="pi pi-plus" @click="edit(null)" />
    </div>
    <Message v-if="error || bodiesError" severity="error" :closable="false">{{ error || bodiesError }}</Message>
    <template v-for="g in groups" :key="g.title">
      <h2>{{ g.title }}</h2>
      <table>
        <thead v-if="g.title !== 'Lasting'"><tr><th>Thing</th><th>Left</th><th>Best before</th><th>For bodies</th><th class="num">Each</th><th class="bought">Bought at</th><th><span class="hidden-label">Do</span></th></tr></thead>
        <thead v-else><tr><th>Thing</th><th>Note</th><th class="num">Price</th><th><span class="hidden-label">Do</span></th></tr></thead>
        <tbody>
          <tr v-for="entry in g.rows" :key="entry.id">
            <td>
              <strong>{{ itemWords(entry.owned.item, mm) }}</strong>
              <span v-if="NEVER_ON_SENSOR.has(entry.owned.item.item)" class="tag stop">never on a sensor</span>
              <span v-if="entry.owned.note && entry.unit" class="soft note">{{ entry.owned.note }}</span>
            </td>
            <template v-if="entry.unit">
              <td class="count">
                <button :aria-label="`One less: ${itemWords(entry.owned.item, mm)}`" :disabled="!entry.left" @click="recount(entry, -1)">−</button>
                <strong :class="{ out: entry.left === 0 }">{{ entry.left === null ? 'not counted' : amountWords(entry.left, entry.unit) }}</strong>
                <button :aria-label="`One more: ${itemWords(entry.owned.item, mm)}`" @click="recount(entry, 1)">+</button>
              </td>
              <td class="day"><template v-if="entry.owned.best_before">{{ day(entry.owned.best_before) }}<span v-if="entry.expired" class="tag stop">past it</span></template><span v-else class="soft">–</span><span v-if="entry.owned.opened_on" class="soft note">opened {{ day(entry.owned.opened_on) }}</span></td>
              <td>{{ suitsWords(entry) }}</td>
              <td class="num">{{ money(entry.unit_price, currency) }}</td>
              <td class="soft bought">{{ entry.owned.source || '–' }}<template v-if="entry.owned.lead_days != null"><br>{{ entry.owned.lead_days }} days to deliver</template></td>
            </template>
            <template v-else>
              <td class="soft">{{ entry.owned.note || '–' }}</td>
              <td class="num">{{ money(entry.owned.pack_price, currency) }}</td>
            </template>
            <td class="do">
              <Button v-if="entry.unit && entry.owned.pack_size" label="Pack arrived" size="small" severity="secondary" variant="outlined" :aria-label="`A pack arrived: ${itemWords(entry.owned.item, mm)}`" @click="arrived(entry)" />
              <Button icon="pi pi-pencil" size="small" severity="secondary" variant="text" :aria-label="`Change ${itemWords(entry.owned.item, mm)}`" @click="edit(entry)" />
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-if="kit && !kit.length" class="empty">Nothing yet. Begin with a blower: it is all that most visits need.</p>
    <KitForm v-model:open="open" :owned="editing?.owned ?? null" :moves="moves" :bodies="bodies" :prices="prices" :error="formError" @save="save" @remove="remove" />
  </section>
</template>

<style scoped>
.page { display: grid; grid-template-columns: minmax(0, 1fr); gap: 0.7rem; max-width: 1240px; margin: 0 auto; padding: 1.2rem 2rem; }
.head { display: flex; gap: 1rem; align-items: center; justify-content: space-between; }
table { width: 100%; border-collapse: collapse; background: var(--panel); border: 1px solid var(--line); }
td > strong { white-space: nowrap; }
th, td { padding: 0.3rem 0.7rem; text-align: left; border-bottom: 1px solid var(--line); }
th { font-size: 0.88rem; color: var(--ink-soft); }
.num { text-align: right; white-space: nowrap; }
.bought { font-size: 0.9rem; white-space: nowrap; line-height: 1.25; }
.day { white-space: nowrap; }
.count { white-space: nowrap; }
.count button { width: 1.9rem; height: 1.9rem; font: inherit; color: var(--ink); background: transparent; border: 1px solid var(--ink-soft); border-radius: 4px; cursor: pointer; }
.count button:disabled { opacity: 0.45; cursor: default; }
.count strong { display: inline-block; min-width: 6.2rem; text-align: center; }
.tag { margin-left: 0.4rem; padding: 0 0.4rem; font-size: 0.85rem; border: 1px solid currentcolor; border-radius: 3px; white-space: nowrap; }
.stop, .out { color: var(--stop); }
.note { display: block; font-size: 0.88rem; }
.do { text-align: right; white-space: nowrap; }
@media (max-width: 1100px) { .bought { display: none; } .count strong { min-width: 5.4rem; } .page { padding: 1rem; } th, td { padding: 0.3rem 0.45rem; } td > strong { white-space: normal; } }
.empty { padding: 3rem 1rem; text-align: center; color: var(--ink-soft); border: 1px solid var(--line); border-radius: 5px; }
</style>
