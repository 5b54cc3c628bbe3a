<script setup lang="ts">
import type { BodyDetail } from '@/api/client'
import { useSettings } from '@/shared/composables/useSettings'
import { ACCESS_WORDS, HOLD_WORDS } from '@/shared/lib/bodies'
import { day, fStop } from '@/shared/lib/format'

/** What is known about a camera, as its owner entered it or the product learned it. */
defineProps<{ detail: BodyDetail }>()
const { mm, by } = useSettings()
</script>

<template>
  <details>
    <summary>About this camera</summary>
    <dl>
      <dt>Lens and mirror</dt>
      <dd>{{ ACCESS_WORDS[detail.body.access ?? 'mirrorless'] }}</dd>
      <dt>Sensor</dt>
      <dd>
        {{ by(...detail.body.sensor_mm)
        }}<template v-if="detail.body.pitch_um"
          >, pixels of {{ detail.body.pitch_um.toFixed(2) }} µm (learned)</template
        >
      </dd>
      <dt>Filter stack height</dt>
      <dd>
        {{
          detail.body.stack_mm
            ? `${mm(detail.body.stack_mm)} above the photosites (learned)`
            : 'learned from the first sharp frame'
        }}
      </dd>
      <dt>Stabilised</dt>
      <dd>
        {{
          detail.body.stabilised === true
            ? detail.body.hold_rule
              ? `Locked for cleaning by: ${HOLD_WORDS[detail.body.hold_rule]}`
              : 'Yes; how it is locked is not known: no contact'
            : detail.body.stabilised === false
              ? 'No'
              : 'Not known: no contact'
        }}
        <span class="soft">{{ detail.body.hold_note }}</span>
      </dd>
      <dt>You work at</dt>
      <dd>{{ detail.body.works_at?.map(fStop).join(', ') }}</dd>
      <template v-if="detail.body.lockup_note"
        ><dt>Mirror lock-up</dt>
        <dd>{{ detail.body.lockup_note }}</dd></template
      >
      <template v-if="detail.body.lockup_minutes"
        ><dt>It stays open</dt>
        <dd>
          {{ detail.body.lockup_minutes }} min on a full battery, by your note; you are warned at half of that
        </dd></template
      >
      <template v-if="detail.loupe"
        ><dt>Loupe</dt>
        <dd>{{ detail.loupe }}</dd></template
      >
      <template v-if="detail.body.lens_focal_mm"
        ><dt>Test frames</dt>
        <dd>
          with {{ detail.body.lens_focal_mm }} mm<template v-if="detail.body.lens_smallest_f">
            at {{ fStop(detail.body.lens_smallest_f) }}</template
          >
        </dd></template
      >
      <template v-if="detail.body.access === 'mirrorless'"
        ><dt>Switched off</dt>
        <dd>
          {{
            detail.body.closes_when_off == null
              ? 'Not known whether it closes over the sensor'
              : detail.body.closes_when_off
                ? 'It closes over the sensor'
                : 'The sensor stays open'
          }}
          <span class="soft">{{ detail.body.cleaning_note }}</span>
        </dd></template
      >
      <template v-if="detail.body.filter_removed"
        ><dt>Filter removed</dt>
        <dd>
          {{
            detail.body.modifier_allows == null
              ? 'Not asked yet whether it may be touched: no contact'
              : detail.body.modifier_allows
                ? 'May be touched, says whoever removed it'
                : 'Must not be touched, says whoever removed it'
          }}
        </dd></template
      >
      <dt>Warranty</dt>
      <dd>
        {{
          detail.body.guarantee_until
            ? `until ${day(detail.body.guarantee_until)}`
            : detail.body.no_guarantee
              ? 'None'
              : 'Not known: no contact'
        }}
      </dd>
      <template v-if="detail.body.serviced_on"
        ><dt>Last service</dt>
        <dd>{{ day(detail.body.serviced_on) }}</dd></template
      >
      <template v-if="detail.body.serial"
        ><dt>Serial number</dt>
        <dd>{{ detail.body.serial }}</dd></template
      >
      <template v-if="detail.body.camera_name"
        ><dt>Camera name in files</dt>
        <dd>{{ detail.body.camera_name }}</dd></template
      >
    </dl>
  </details>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 160px 1fr;
  gap: var(--space-1) var(--space-3);
  margin: 0;
  padding: var(--space-3) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
</style>
