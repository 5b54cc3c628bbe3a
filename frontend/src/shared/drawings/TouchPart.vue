<script setup lang="ts">
import { computed } from 'vue'
import FistPart from './FistPart.vue'
import MoveArrow from './MoveArrow.vue'
import ToolPart from './ToolPart.vue'
import { reach, SHAPES, type Item, type Scene } from './camera'
import { TILTED } from './tools'

/** A tool on the glass, whose middle is 0, 0: pressed, in circles, or drawn along it. */
const props = defineProps<{ scene: Scene; item: Item }>()
const TILT_DEG = 30
const way = computed(() => {
  if (props.item === 'gel_stick' || props.item === 'silicone_pad') return 'press'
  if (props.item === 'sterile_pad' || props.scene.stroke === 'circles') return 'circles'
  return 'stroke'
})
const tilt = computed(() => (TILTED.has(props.item) ? TILT_DEG : 0))
const range = computed(() => reach(props.scene.access, tilt.value))
/** From the hand down to the mount. */
const rest = computed(() => 84 - SHAPES[props.scene.access].glass * 0.8)
const both = computed(
  () => props.scene.stroke === 'return_other_face' || props.scene.stroke === 'across_and_back',
)
</script>

<template>
  <g v-if="way === 'press'" class="presses"><ToolPart :item="item" /></g>
  <g v-else-if="way === 'circles'" class="circles"><ToolPart :item="item" /></g>
  <g
    v-else
    :class="both ? 'strokes both' : 'strokes'"
    :style="{ '--from': `${range[0]}px`, '--to': `${range[1]}px` }"
  >
    <g :transform="`rotate(${tilt})`"
      ><ToolPart :item="item" /><g v-if="tilt" transform="translate(0 -112)"><FistPart :rest="rest" /></g
    ></g>
  </g>
  <MoveArrow v-if="way === 'press'" :x1="70" :y1="-150" :x2="70" :y2="-96" both />
  <path v-else-if="way === 'circles'" d="M92 -120a18 12 0 1 1 -3 -10m3 10l4 -13m-4 13l-12 -6" class="arrow" />
  <MoveArrow v-else :x1="-44" :y1="30" :x2="44" :y2="30" :both="both" />
</template>
