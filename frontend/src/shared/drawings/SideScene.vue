<script setup lang="ts">
import { computed } from 'vue'
import OneLens from './OneLens.vue'
import LidPart from './LidPart.vue'
import MoveArrow from './MoveArrow.vue'
import PuffPart from './PuffPart.vue'
import ToolPart from './ToolPart.vue'
import { TABLE_Y, type Item, type Scene } from './camera'

/** What is done away from the camera: tools made ready, and the lens by itself. */
const props = defineProps<{ scene: Scene }>()
const act = computed(() => props.scene.act)
const item = computed<Item>(() => props.scene.tool ?? 'bulb_blower')
const fixed = computed(() => props.scene.access === 'fixed_lens')
/** Its glass looks down, over the blower. */
const lensY = computed(() => (fixed.value ? 74 : 156))
const isPad = computed(() => item.value === 'sterile_pad' || item.value === 'moist_wipe')
const wet = computed(
  () => item.value === 'wet_swab' || item.value === 'cloth_wand' || item.value === 'corner_swab',
)
</script>

<template>
  <path :d="`M20 ${TABLE_Y}h440`" class="table" />
  <template v-if="act === 'gather'">
    <path d="M40 306h400v16h-400z" class="soft" />
    <g :transform="item === 'gas_can' ? 'translate(100 156)' : 'translate(236 276) rotate(-90)'"
      ><ToolPart :item="item" :up="item === 'gas_can'"
    /></g>
    <g v-if="wet" transform="translate(290 202)"><ToolPart item="fluid" up /></g>
    <g transform="translate(382 306)"><LidPart :access="scene.access" /></g>
  </template>
  <template v-else-if="act === 'clear'">
    <g :transform="item === 'gas_can' ? 'translate(250 130)' : 'translate(210 170) rotate(-72)'"
      ><ToolPart :item="item" :up="item === 'gas_can'"
    /></g>
    <PuffPart v-if="item === 'gas_can'" :x="250" :y="116" />
    <PuffPart v-else :x="236" :y="180" sideways />
  </template>
  <template v-else-if="act === 'charge'">
    <g transform="translate(330 250) rotate(14)"><ToolPart :item="item" /></g>
    <g transform="translate(180 206) rotate(-80)"><ToolPart item="bulb_blower" /></g>
    <PuffPart :x="216" :y="212" sideways />
  </template>
  <template v-else-if="act === 'ready_tip'">
    <path d="M140 300h200v14h-200z" class="soft" />
    <path d="M206 300v14M274 300v14" />
    <g transform="translate(240 298)"
      ><g class="presses"><ToolPart :item="item" /></g
    ></g>
    <MoveArrow :x1="310" :y1="150" :x2="310" :y2="230" />
  </template>
  <template v-else-if="act === 'unwrap'">
    <template v-if="isPad">
      <path d="M70 210h120v96h-120l8 -16l-8 -16l8 -16l-8 -16l8 -16z" class="soft" />
      <MoveArrow :x1="206" :y1="256" :x2="270" :y2="256" />
      <g transform="translate(340 306)"><ToolPart :item="item" /></g>
    </template>
    <template v-else>
      <g transform="translate(310 200) rotate(-90)"><ToolPart :item="item" up /></g>
      <path d="M220 168h190v64h-190l10 -11l-10 -11l10 -10l-10 -11l10 -11z" class="soft" />
      <MoveArrow :x1="300" :y1="266" :x2="400" :y2="266" />
    </template>
  </template>
  <template v-else-if="act === 'fold'">
    <g transform="translate(240 290)"><ToolPart item="cloth_wand" /></g>
    <path d="M150 290h66v-50h-66z" class="soft" />
    <path d="M183 232q24 -34 44 2m0 0l0 -14m0 14l-13 -4" class="arrow" />
  </template>
  <template v-else>
    <g v-if="act === 'lens_air'" :transform="`translate(240 ${lensY}) rotate(${fixed ? 180 : 0})`"
      ><OneLens :fixed="fixed"
    /></g>
    <g v-else transform="translate(300 226) rotate(-90)"><OneLens :fixed="fixed" /></g>
    <template v-if="act === 'lens_air'">
      <g transform="translate(246 186) rotate(-4)"><ToolPart :item="item" up /></g>
      <PuffPart :x="242" :y="176" />
    </template>
    <g v-else :transform="fixed ? 'translate(480 0) scale(-1 1) translate(-26 0)' : ''">
      <template v-if="act === 'lens_look'">
        <path d="M400 212h50v28h-50l-16 -6v-16z" class="metal" />
        <path d="M374 212l-52 -14M372 226h-54M374 240l-52 14" class="arrow" />
      </template>
      <template v-else>
        <g transform="translate(306 226) rotate(90)"><ToolPart :item="item" /></g>
        <path d="M336 190q14 -18 4 -40m0 0l-8 10m8 -10l10 8" class="arrow" />
      </template>
    </g>
  </template>
</template>
