<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import Select from 'primevue/select'
import ToggleSwitch from 'primevue/toggleswitch'
import { computed, onMounted, ref } from 'vue'
import { answer, api, type KitEntry, type KitItem } from '../api/client'
import { changed, FLUID_WORDS, hasWidth, isCounted, isPatched, ITEM_WORDS, itemWords, left, NEVER_ON_SENSOR, type ItemName } from '../lib/kit'

const kit = ref<KitEntry[] | null>(null)
const error = ref('')
const draft = ref<KitItem>({ item: 'dry_swab', quantity: 10, width_mm: 24 })
const note = ref('')
const items = (Object.keys(ITEM_WORDS) as ItemName[]).map((value) => ({ label: ITEM_WORDS[value], value }))
const fluids = Object.entries(FLUID_WORDS).map(([value, label]) => ({ label, value }))
const name = computed(() => draft.value.item)

async function run(call: Promise<unknown>): Promise<void> {
  try {
    kit.value = (await call) as KitEntry[]
    error.value = ''
  } catch (problem) {
    error.value = (problem as Error).message
  }
}

onMounted(() => run(answer(api.GET('/api/kit'))))

function choose(item: ItemName): void {
  draft.value = { item, ...(isCounted(item) ? { quantity: 10 } : {}), ...(isPatched(item) ? { fresh_patches: 20, tip_mm: [8, 6] as [number, number] } : {}), ...(hasWidth(item) ? { width_mm: 24 } : {}), ...(item === 'fluid' ? { kind: 'mild' } : {}) }
}

function add(): void {
  void run(answer(api.POST('/api/kit', { body: { item: draft.value, note: note.value } })))
  note.value = ''
}

function step(entry: KitEntry, by: number): void {
  void run(answer(api.PUT('/api/kit/{item_id}', { params: { path: { item_id: entry.id } }, body: { item: changed(entry.item, by), note: entry.note } })))
}

function remove(entry: KitEntry): void {
  void run(answer(api.DELETE('/api/kit/{item_id}', { params: { path: { item_id: entry.id } } })))
}
</script>

<template>
  <section class="page">
    <div><h1>Kit</h1><p class="soft">What you own decides what is advised. A step takes its swab or its patches from here by itself.</p></div>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <table v-if="kit?.length">
      <thead><tr><th>Thing</th><th>Left</th><th>Note</th><th><span class="hidden-label">Remove</span></th></tr></thead>
      <tbody>
        <tr v-for="entry in kit" :key="entry.id" :class="{ out: left(entry.item) === 0 }">
          <td>{{ itemWords(entry.item) }}<span v-if="NEVER_ON_SENSOR.has(entry.item.item)" class="never">never on a sensor</span><span v-if="entry.item.item === 'gel_stick' && !entry.item.matched_coating" class="never">coating not matched</span></td>
          <td class="count">
            <template v-if="left(entry.item) !== null">
              <button :aria-label="`One ${itemWords(entry.item)} less`" @click="step(entry, -1)">−</button>
              <strong>{{ left(entry.item) }}</strong>
              <button :aria-label="`One ${itemWords(entry.item)} more`" @click="step(entry, 1)">+</button>
              <span class="soft unit">{{ isPatched(entry.item.item) ? 'fresh patches' : '' }}</span>
            </template>
          </td>
          <td class="soft">{{ entry.note }}</td>
          <td><Button icon="pi pi-trash" size="small" severity="secondary" variant="text" :aria-label="`Remove ${itemWords(entry.item)}`" @click="remove(entry)" /></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="kit" class="empty">Nothing yet. Begin with a blower: it is all that most visits need.</p>
    <form @submit.prevent="add">
      <h2>Add</h2>
      <div class="row">
        <label>Thing<Select :model-value="name" :options="items" option-label="label" option-value="value" filter @update:model-value="choose" /></label>
        <label v-if="hasWidth(name)">Width<InputNumber v-model="draft.width_mm" suffix=" mm" :min="4" :max="60" :max-fraction-digits="1" /></label>
        <label v-if="isCounted(name)">Left<InputNumber v-model="draft.quantity" :min="0" :max="10000" /></label>
        <label v-if="isPatched(name)">Fresh patches<InputNumber v-model="draft.fresh_patches" :min="0" :max="10000" /></label>
        <label v-if="name === 'fluid'">Kind<Select v-model="draft.kind" :options="fluids" option-label="label" option-value="value" /></label>
        <label v-if="name === 'fluid'">The swab kit's own<ToggleSwitch :model-value="draft.kit_own ?? false" @update:model-value="draft.kit_own = $event" /></label>
        <label v-if="isPatched(name)">Tip<span class="tip"><InputNumber :model-value="draft.tip_mm?.[0] ?? 8" :min="1" :max="60" :max-fraction-digits="1" aria-label="Tip width in mm" @update:model-value="draft.tip_mm = [$event, draft.tip_mm?.[1] ?? 6]" /> × <InputNumber :model-value="draft.tip_mm?.[1] ?? 6" :min="1" :max="60" :max-fraction-digits="1" aria-label="Tip height in mm" @update:model-value="draft.tip_mm = [draft.tip_mm?.[0] ?? 8, $event]" /> mm</span></label>
        <label v-if="name === 'gel_stick'">Suits this maker's coating<ToggleSwitch :model-value="draft.matched_coating ?? false" @update:model-value="draft.matched_coating = $event" /></label>
        <label class="grow">Note<InputText v-model="note" maxlength="200" /></label>
        <Button type="submit" label="Add" icon="pi pi-plus" />
      </div>
    </form>
  </section>
</template>

<style scoped>
.page { display: grid; gap: 1rem; max-width: 1000px; margin: 0 auto; padding: 1.4rem 2rem; }
table { border-collapse: collapse; background: var(--panel); border: 1px solid var(--line); }
th, td { padding: 0.4rem 0.8rem; text-align: left; border-bottom: 1px solid var(--line); }
.count button { width: 2rem; height: 2rem; font: inherit; color: var(--ink); background: transparent; border: 1px solid var(--ink-soft); border-radius: 4px; cursor: pointer; }
.count strong { display: inline-block; min-width: 2.4rem; text-align: center; }
.unit { margin-left: 0.7rem; }
.never { margin-left: 0.7rem; padding: 0 0.4rem; font-size: 0.85rem; color: var(--stop); border: 1px solid var(--stop); border-radius: 3px; }
.out strong { color: var(--stop); }
form { padding: 0.8rem 1rem 1rem; background: var(--panel); border: 1px solid var(--line); border-radius: 5px; }
.row { display: flex; flex-wrap: wrap; gap: 0.8rem 1.2rem; align-items: end; margin-top: 0.5rem; }
label { display: grid; gap: 0.25rem; }
label :deep(.p-inputnumber-input) { width: 6.5rem; }

.tip { display: flex; gap: 0.4rem; align-items: center; }
.tip :deep(.p-inputnumber-input) { width: 4rem; }
.grow { flex: 1; min-width: 160px; }
.empty { padding: 3rem 1rem; text-align: center; color: var(--ink-soft); border: 1px solid var(--line); border-radius: 5px; }
</style>
