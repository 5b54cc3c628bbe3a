<script setup lang="ts">
import { computed } from 'vue'
import CarrierPart from './CarrierPart.vue'
import LensPart from './LensPart.vue'
import LidPart from './LidPart.vue'
import { GLASS, SHAPES, type Scene } from './camera'

/** A camera cut open through its mount, which lies at 0, 0 with the light from above.
 *
 * `along`: cut along the glass's long side, where a raised mirror lies behind the cut. */
const props = defineProps<{
  access: Scene['access']
  mouth: Scene['mouth']
  mirror: Scene['mirror']
  covered: boolean
  along?: boolean
}>()
const shape = computed(() => SHAPES[props.access])
const glass = computed(() => (props.along ? GLASS.along : GLASS.across))
const isBack = computed(() => props.access === 'digital_back')
const body = computed(() => {
  const { half, hump, thick } = shape.value
  const side = props.along ? half + 30 : half
  const top = props.along ? 0 : hump
  return (
    `M${-side + 10} 0h${2 * side - 20}q10 0 10 10` +
    (top ? `v14l${top} 12v${thick - 72}l${-top} 12v14` : `v${thick - 20}`) +
    `q0 10 -10 10h${-2 * side + 20}q-10 0 -10 -10v${-thick + 20}q0 -10 10 -10z`
  )
})
const hinge = computed(() => ({ x: shape.value.throat - 3, y: 8 }))
</script>

<template>
  <g>
    <path :d="body" class="metal" />
    <path :d="`M${-shape.throat} 0v${shape.glass}h${2 * shape.throat}v${-shape.glass}z`" class="inside" />
    <path v-if="mirror === 'up' && along" :d="`M-42 6h84v${shape.glass - 26}h-84z`" class="behind" />
    <path v-if="!isBack" :d="`M${-shape.throat - 9} -5h9v10h-9zM${shape.throat} -5h9v10h-9z`" class="metal" />
    <path :d="`M${-glass} ${shape.glass}h${2 * glass}`" class="sensor" />
    <path :d="`M${-glass - 3} ${shape.glass - 7}h${2 * glass + 6}v4h${-2 * glass - 6}z`" class="soft" />
    <path v-if="covered" :d="`M${-glass - 10} ${shape.glass - 13}h${2 * glass + 20}`" class="shutter" />
    <template v-if="mirror && !along">
      <path
        v-if="mirror === 'down'"
        :d="`M${hinge.x} ${hinge.y}L${-shape.throat + 14} ${shape.glass - 20}`"
        class="mirror"
      />
      <path v-else :d="`M${hinge.x} ${hinge.y}V${shape.glass - 18}`" class="mirror" />
    </template>
    <template v-if="mouth === 'lens'">
      <CarrierPart v-if="isBack" />
      <LensPart v-else />
    </template>
    <LidPart v-else-if="mouth === 'cap'" :access="access" />
  </g>
</template>
