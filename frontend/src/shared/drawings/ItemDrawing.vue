<script setup lang="ts">
import ToolPart from './ToolPart.vue'
import type { Item } from './camera'

/** One thing of the kit, as it is drawn in the guide. */
defineProps<{ item: Item }>()
const UPRIGHT_AT: Partial<Record<Item, string>> = {
  gas_can: 'translate(4 -70)',
  fluid: 'translate(0 -44)',
}
</script>

<template>
  <svg class="drawing fine" viewBox="-62 -62 124 124" aria-hidden="true">
    <g :transform="UPRIGHT_AT[item] ?? 'rotate(-40) translate(0 46)'">
      <g v-if="item === 'fluid'" transform="translate(0 -8)"><ToolPart :item="item" up /></g>
      <ToolPart v-else :item="item" :up="item === 'gas_can'" />
    </g>
  </svg>
</template>
