<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import SelectButton from 'primevue/selectbutton'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { answer, api, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { ROLE_WORDS } from '@/shared/composables/useMe'
import { useTell } from '@/shared/composables/useTell'
import { day } from '@/shared/lib/format'
import { clock, secondsLeft } from './left'
import ReportLink from './ReportLink.vue'

/** Letting a phone or tablet in: sharing on and off, a code, the devices that are let in. */
const props = defineProps<{ visit: number | null }>()
type State = Schemas['SharingState']
type Role = 'owner' | 'helper' | 'viewer'
const ROLES: { value: Role; label: string; may: string }[] = [
  {
    value: 'helper',
    label: 'Helper',
    may: 'Works at the bench: visits, steps, frames, kit. No settings, nothing deleted.',
  },
  { value: 'viewer', label: 'Viewer', may: 'Sees everything, changes nothing.' },
  { value: 'owner', label: 'Owner', may: 'May do all that can be done here.' },
]
const LOOK_MS = 1500
const client = useQueryClient()
const offer = ref<Schemas['PairingOffer'] | null>(null)
// A code that is spent waits no more, some moments before its device is in the list.
const { value: state, error: away } = useAsk(queries.sharing, {
  everyMs: (s) => (s?.waiting || offer.value ? LOOK_MS : false),
})
const keep = (now: State): void => void client.setQueryData(queries.sharing().queryKey, now)
const switching = useTell<State>(keep)
const removing = useTell<State>(keep)
const offering = useTell<Schemas['PairingOffer']>((made) => {
  offer.value = made
  void client.invalidateQueries({ queryKey: queries.sharing().queryKey })
})
const role = ref<Role>('helper')
const error = computed(
  () => switching.error.value || removing.error.value || offering.error.value || away.value,
)
const may = computed(() => ROLES.find((r) => r.value === role.value)?.may ?? '')

const now = ref(Date.now())
const ticking = setInterval(() => {
  now.value = Date.now()
}, 500)
onScopeDispose(() => {
  clearInterval(ticking)
})
const left = computed(() => (offer.value ? secondsLeft(offer.value.expires_at, now.value) : 0))
/** Who came in by the code that is shown. */
const paired = ref('')
const before = ref(new Set<number>())
watch(state, (s) => {
  const fresh = s?.devices.find((d) => !before.value.has(d.id) && d.role !== 'report')
  if (offer.value && fresh) {
    paired.value = `${fresh.name} is in, as ${ROLE_WORDS[fresh.role]}.`
    offer.value = null
  }
})

function turn(on: boolean): void {
  offer.value = null
  void switching.tell(() => answer(api.PUT('/api/sharing', { body: { on } })))
}
function show(): void {
  paired.value = ''
  before.value = new Set(state.value?.devices.map((d) => d.id))
  const to = props.visit === null ? '/' : `/visits/${props.visit}`
  void offering.tell(() => answer(api.POST('/api/sharing/offers', { body: { role: role.value, to } })))
}
function remove(device_id: number): void {
  const params = { path: { device_id } }
  void removing.tell(() => answer(api.DELETE('/api/sharing/devices/{device_id}', { params })))
}
</script>

<template>
  <section class="page">
    <BackLink :home="{ name: 'schools' }" home-words="Settings" />
    <h1>Show on phone</h1>
    <FailureNote :error="error" />
    <template v-if="state && !state.on">
      <p>
        Sharing opens Neat Patch to devices on the same network, over an encrypted connection. Nobody gets in
        without a code from this screen, nothing leaves your network, and it is off again when Neat Patch
        stops.
      </p>
      <p>
        <Button
          label="Turn sharing on"
          icon="pi pi-mobile"
          :disabled="switching.busy.value"
          @click="turn(true)"
        />
      </p>
    </template>
    <template v-else-if="state">
      <div class="panel">
        <p v-if="paired" role="status" class="paired">
          <i class="pi pi-check" aria-hidden="true" /> {{ paired }}
        </p>
        <template v-if="offer && left > 0">
          <div class="offer">
            <img :src="offer.qr" alt="QR code of the address and the code" width="230" height="230" />
            <div>
              <p>Scan it with the phone's camera, or open</p>
              <p class="address">{{ offer.url }}</p>
              <p>and enter</p>
              <p class="code">{{ offer.code.slice(0, 3) }} {{ offer.code.slice(3) }}</p>
              <p class="soft">
                As {{ ROLE_WORDS[offer.role] }}. Lives {{ clock(left) }} more, for one device.
              </p>
            </div>
          </div>
          <details>
            <summary>The phone's browser warns of the certificate</summary>
            <p>
              It does so because Neat Patch made the certificate itself; no authority vouches for a machine on
              your own network. Open the certificate in the browser's warning. If its SHA-256 fingerprint is
              this one, go on; if not, somebody stands between: stop.
            </p>
            <p class="print">{{ state.fingerprint }}</p>
          </details>
        </template>
        <template v-else>
          <p v-if="offer">The code is over.</p>
          <SelectButton
            v-model="role"
            :options="ROLES"
            option-label="label"
            option-value="value"
            :allow-empty="false"
            aria-label="What the device may do"
          />
          <p class="soft">{{ may }}</p>
          <p>
            <Button
              :label="offer || paired ? 'Show a new code' : 'Show the code'"
              icon="pi pi-qrcode"
              :disabled="offering.busy.value"
              @click="show"
            />
          </p>
        </template>
      </div>
      <ReportLink v-if="visit !== null" :visit="visit" />
    </template>
    <template v-if="state?.devices.length">
      <h2>Let in</h2>
      <DataTable :value="state.devices" data-key="id" size="small">
        <Column header="Who">
          <template #body="{ data }">{{ data.name }}</template>
        </Column>
        <Column header="Device">
          <template #body="{ data }">{{ data.label || 'Any' }}</template>
        </Column>
        <Column header="May">
          <template #body="{ data }">{{ ROLE_WORDS[data.role as Role] }}</template>
        </Column>
        <Column header="Last used">
          <template #body="{ data }">{{ data.last_used_at ? day(data.last_used_at) : 'not yet' }}</template>
        </Column>
        <Column header="Until">
          <template #body="{ data }">{{ data.expires_at ? day(data.expires_at) : 'removed' }}</template>
        </Column>
        <Column>
          <template #body="{ data }">
            <Button
              label="Remove"
              size="small"
              severity="secondary"
              variant="text"
              :aria-label="`Remove ${data.name}, ${data.label || 'link'}`"
              @click="remove(data.id)"
            />
          </template>
        </Column>
      </DataTable>
    </template>
    <p v-if="state?.on">
      <Button
        label="Stop sharing"
        severity="secondary"
        variant="outlined"
        size="small"
        :disabled="switching.busy.value"
        @click="turn(false)"
      />
      <span class="soft"> Shared at {{ state.url }}. Devices stay known for the next time.</span>
    </p>
  </section>
</template>

<style scoped>
.panel {
  display: grid;
  gap: var(--space-2);
  justify-items: start;
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.offer {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-4);
  align-items: center;
}
.address,
.print {
  overflow-wrap: anywhere;
  font-weight: 600;
}
.code {
  font-size: var(--text-far);
  font-weight: 650;
  letter-spacing: 0.08em;
}
.paired {
  color: var(--good);
  font-weight: 650;
}
</style>
