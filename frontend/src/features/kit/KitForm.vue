<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import ToggleSwitch from 'primevue/toggleswitch'
import { computed, ref, watch } from 'vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { KitEntry, Prices, StockMove } from '@/api/client'
import { day } from '@/shared/lib/format'
import {
  amountWords,
  countOf,
  FLUID_WORDS,
  freshThing,
  hasWidth,
  ITEM_WORDS,
  isPatched,
  NEVER_ON_SENSOR,
  unitOf,
  withCount,
  type ItemName,
} from '@/shared/lib/kit'
import MeasureInput from '@/shared/components/MeasureInput.vue'

/** `moves`: where the stock of a thing that is here already went. */
const props = defineProps<{
  owned: KitEntry | null
  /** What a new entry begins as. */
  suggested?: ItemName | null
  moves: StockMove[]
  bodies: { id: number; name: string }[]
  prices: Prices | null
  error: string
}>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ save: [owned: KitEntry]; remove: [] }>()
const sure = ref(false)
const draft = ref<KitEntry>(freshThing('dry_swab'))
watch(
  open,
  (now) => {
    sure.value = false
    if (!now) return
    draft.value = props.owned
      ? (JSON.parse(JSON.stringify(props.owned)) as KitEntry)
      : freshThing(props.suggested ?? 'dry_swab')
  },
  { immediate: true },
)

const items = (Object.keys(ITEM_WORDS) as ItemName[]).map((value) => ({ label: ITEM_WORDS[value], value }))
const fluids = Object.entries(FLUID_WORDS).map(([value, label]) => ({ label, value }))
const item = computed(() => draft.value.item)
const unit = computed(() => unitOf(item.value.item))
const inUnit = computed(() => ({ piece: '', patch: ' patches', ml: ' ml' })[unit.value ?? 'piece'])
const count = computed({
  get: () => countOf(item.value),
  set: (n: number | null) => {
    draft.value.item = withCount(item.value, n)
  },
})
const certain = computed({
  get: () => draft.value.suits != null,
  set: (on: boolean) => {
    draft.value.suits = on ? [] : null
  },
})
const MOVE_WORDS = { entered: 'entered', bought: 'arrived', counted: 'recounted', used: 'used' } as const

function pair(key: 'tip_mm' | 'focus_mm', at: 0 | 1, value: number | null | undefined): void {
  const now = item.value[key] ?? [0, 0]
  const next: [number, number] = at === 0 ? [value ?? 0, now[1]] : [now[0], value ?? 0]
  item.value[key] = next[0] || next[1] ? next : null
}

/** The dialog begins at its first field. */
const first = (yes: boolean) => (yes ? { pcInputText: { root: { autofocus: true } } } : {})

function save(): void {
  emit('save', {
    ...draft.value,
    opened_on: draft.value.opened_on || null,
    best_before: draft.value.best_before || null,
  })
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="owned ? ITEM_WORDS[item.item] : 'Add to the kit'"
    :style="{ width: '760px' }"
  >
    <form id="kit-form" class="form" @submit.prevent="save">
      <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
      <div class="row">
        <label v-if="!owned" class="grow"
          >Item<Select
            :model-value="item.item"
            :options="items"
            option-label="label"
            option-value="value"
            filter
            autofocus
            aria-label="Item"
            @update:model-value="draft = freshThing($event)"
        /></label>
        <label v-if="item.item === 'fluid'"
          >Kind<Select
            v-model="item.kind"
            :options="fluids"
            aria-label="Kind"
            option-label="label"
            option-value="value"
        /></label>
        <label v-if="hasWidth(item.item) || item.item === 'corner_swab'"
          >Width<MeasureInput of="length" v-model="item.width_mm" :min="2" :max="80"
        /></label>
        <label v-if="hasWidth(item.item)"
          >Drops, by its maker<InputNumber v-model="item.drops" :min="1" :max="10" placeholder="usual"
        /></label>
        <template v-if="isPatched(item.item)">
          <label
            >Tip, wide<MeasureInput
              of="length"
              :model-value="item.tip_mm?.[0]"
              :min="0.5"
              :max="60"
              @update:model-value="pair('tip_mm', 0, $event)"
          /></label>
          <label
            >Tip, high<MeasureInput
              of="length"
              :model-value="item.tip_mm?.[1]"
              :min="0.5"
              :max="60"
              @update:model-value="pair('tip_mm', 1, $event)"
          /></label>
          <label
            >Patches on a sheet<InputNumber v-model="item.patches_per_sheet" :min="1" :max="1000"
          /></label>
        </template>
        <template v-if="item.item === 'loupe'">
          <label
            >Focuses from<MeasureInput
              of="length"
              :model-value="item.focus_mm?.[0]"
              :min="1"
              :max="500"
              @update:model-value="pair('focus_mm', 0, $event)"
          /></label>
          <label
            >to<MeasureInput
              of="length"
              :model-value="item.focus_mm?.[1]"
              :min="1"
              :max="500"
              @update:model-value="pair('focus_mm', 1, $event)"
          /></label>
        </template>
      </div>
      <p v-if="NEVER_ON_SENSOR.has(item.item)" class="never">
        This may be owned, and never touches a sensor: it is barred by name in every visit.
      </p>
      <div v-if="unit" class="row">
        <label
          >There now<InputNumber
            v-model="count"
            :pt="first(!!owned)"
            :min="0"
            :max="100000"
            :max-fraction-digits="unit === 'ml' ? 2 : 0"
            :suffix="inUnit"
        /></label>
        <label
          >A pack holds<InputNumber
            v-model="draft.pack_size"
            :min="0"
            :max="100000"
            :max-fraction-digits="1"
            :suffix="inUnit"
        /></label>
        <label
          >Price of a pack<InputNumber
            v-model="draft.pack_price"
            :min="0"
            :max="1000000"
            :max-fraction-digits="2"
            :prefix="`${prices?.currency ?? '€'} `"
        /></label>
        <label>Days to deliver<InputNumber v-model="draft.lead_days" :min="0" :max="365" /></label>
      </div>
      <div class="row">
        <label v-if="!unit"
          >Price<InputNumber
            v-model="draft.pack_price"
            :min="0"
            :max="1000000"
            :max-fraction-digits="2"
            :prefix="`${prices?.currency ?? '€'} `"
        /></label>
        <label class="grow">Where it is bought<InputText v-model="draft.source" maxlength="120" /></label>
        <label v-if="unit">Opened on<DayInput v-model="draft.opened_on" /></label>
        <label v-if="unit">Best before<DayInput v-model="draft.best_before" /></label>
      </div>
      <div class="row switches">
        <label v-if="item.item === 'fluid'" class="switch"
          ><ToggleSwitch
            :model-value="item.kit_own ?? false"
            @update:model-value="item.kit_own = $event"
          />The swab kit's own</label
        >
        <label v-if="item.item === 'electric_blower'" class="switch"
          ><ToggleSwitch
            :model-value="item.filtered ?? false"
            @update:model-value="item.filtered = $event"
          />Filters its air</label
        >
        <label v-if="item.item === 'gel_stick' && !certain" class="switch"
          ><ToggleSwitch
            :model-value="item.matched_coating ?? false"
            @update:model-value="item.matched_coating = $event"
          />Suits the coating of every body here</label
        >
        <label
          v-if="bodies.length && (item.item === 'gel_stick' || item.item === 'fluid' || unit === 'piece')"
          class="switch"
          ><ToggleSwitch v-model="certain" />For certain cameras only</label
        >
        <label v-if="certain" class="grow"
          >Suits<MultiSelect
            v-model="draft.suits"
            :options="bodies"
            option-label="name"
            option-value="id"
            :show-toggle-all="false"
            :filter="bodies.length > 12"
            placeholder="None yet"
            aria-label="Suits"
        /></label>
      </div>
      <label>Note<InputText v-model="draft.note" maxlength="200" /></label>
    </form>
    <details v-if="moves.length" class="moves">
      <summary>Stock history</summary>
      <ul>
        <li v-for="(m, i) in moves" :key="i">
          <span>{{ day(m.at) }}</span> {{ MOVE_WORDS[m.why] }}
          <strong>{{ m.change > 0 ? '+' : '−' }}{{ amountWords(Math.abs(m.change), unit) }}</strong>
        </li>
      </ul>
    </details>
    <template #footer>
      <Button
        v-if="owned"
        class="remove deletes"
        :label="sure ? 'Remove it for good' : 'Remove'"
        icon="pi pi-trash"
        severity="danger"
        variant="text"
        @click="sure ? emit('remove') : (sure = true)"
      />
      <Button label="Cancel" severity="secondary" variant="text" @click="open = false" />
      <Button type="submit" form="kit-form" :label="owned ? 'Save' : 'Add'" />
    </template>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-3);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3) var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
  font-size: var(--text-body);
}
.grow {
  flex: 1;
  min-width: 220px;
}
.switch {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
label :deep(.p-inputnumber-input) {
  width: 7.2rem;
}
.never {
  color: var(--stop);
  font-weight: 600;
}
.moves {
  margin-top: var(--space-3);
}
.moves ul {
  display: grid;
  gap: 0.15rem;
  max-height: 180px;
  margin: var(--space-2) 0 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
.moves li span {
  display: inline-block;
  width: 7rem;
  color: var(--ink-soft);
}
.remove {
  margin-right: auto;
}
</style>
