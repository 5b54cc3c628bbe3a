<script setup lang="ts">
import { computed } from 'vue'
import CameraPart from './CameraPart.vue'
import CarrierPart from './CarrierPart.vue'
import HandPart from './HandPart.vue'
import LensPart from './LensPart.vue'
import LidPart from './LidPart.vue'
import MoveArrow from './MoveArrow.vue'
import PuffPart from './PuffPart.vue'
import SideScene from './SideScene.vue'
import ToolPart from './ToolPart.vue'
import TouchPart from './TouchPart.vue'
import { GLASS, MIDDLE_X, placing, POWERS, SHAPES, TABLE_Y, WITHOUT_CAMERA, type Scene } from './camera'

const props = defineProps<{ scene: Scene }>()
const act = computed(() => props.scene.act)
/** Drops are put on and even out away from the camera, which waits smaller at the side. */
const aside = computed(() => act.value === 'wet' || act.value === 'even')
const shape = computed(() => SHAPES[props.scene.access])
const lies = computed(() =>
  props.scene.lies === 'table' && act.value === 'open' ? 'back' : props.scene.lies,
)
const place = computed(() =>
  placing(props.scene.access, lies.value, POWERS.has(act.value) ? MIDDLE_X + 76 : MIDDLE_X),
)
const along = computed(() => act.value === 'touch')
/** What lies on the mount now; a lid or lens on its way is drawn apart. */
const mouth = computed(() => (MOVING.has(act.value) ? 'open' : props.scene.mouth))
const MOVING: ReadonlySet<Scene['act']> = new Set<Scene['act']>(['open', 'close', 'lens_on', 'lens_to_cap'])
const turn = computed(() => place.value.turn + (act.value === 'sheen' ? 16 : 0))
const isBack = computed(() => props.scene.access === 'digital_back')
</script>

<template>
  <SideScene v-if="WITHOUT_CAMERA.has(act)" :scene="scene" />
  <template v-else>
    <path v-if="scene.lies !== 'down'" :d="`M20 ${TABLE_Y}h440`" class="table" />
    <g v-if="aside" :transform="`translate(${350} ${TABLE_Y - shape.thick * 0.7}) scale(0.7)`">
      <CameraPart
        :access="scene.access"
        :mouth="scene.mouth"
        :mirror="scene.mirror"
        :covered="scene.covered"
      />
    </g>
    <g v-else :class="{ trembles: act === 'shake' }">
      <g :transform="`translate(${place.x} ${place.y}) rotate(${turn})`">
        <CameraPart
          :access="scene.access"
          :mouth="mouth"
          :mirror="scene.mirror"
          :covered="scene.covered"
          :along="along"
        />
        <template v-if="lies === 'down'">
          <g :transform="`translate(${-shape.half} ${shape.thick / 2})`"><HandPart /></g>
          <g :transform="`translate(${shape.half + shape.hump} ${shape.thick / 2}) scale(-1 1)`"
            ><HandPart
          /></g>
        </template>
        <path
          v-if="scene.mirror && POWERS.has(act)"
          :d="
            scene.mirror === 'up'
              ? `M-22 62q34 4 48 -28m0 0l-12 6m12 -6l3 13`
              : `M30 28q0 34 -40 36m0 0l10 -9m-10 9l11 8`
          "
          class="arrow"
        />
        <template v-if="act === 'open'">
          <g class="lifts off" transform="translate(0 -54)">
            <LidPart v-if="scene.was === 'cap'" :access="scene.access" />
            <CarrierPart v-else-if="isBack" />
            <LensPart v-else />
          </g>
          <MoveArrow :x1="96" :y1="-24" :x2="96" :y2="-84" />
        </template>
        <template v-if="act === 'close'">
          <g class="lifts on" transform="translate(0 -44)"><LidPart :access="scene.access" /></g>
          <MoveArrow :x1="96" :y1="-84" :x2="96" :y2="-24" />
        </template>
        <template v-if="act === 'lens_on'">
          <g class="lifts on" transform="translate(0 -40)"
            ><CarrierPart v-if="isBack" /><LensPart v-else
          /></g>
          <MoveArrow :x1="92" :y1="-96" :x2="92" :y2="-30" />
        </template>
        <template v-if="act === 'lens_to_cap'">
          <g class="lifts on" transform="translate(0 -34)"><LidPart :access="scene.access" /></g>
          <MoveArrow :x1="-78" :y1="-76" :x2="-78" :y2="-18" />
        </template>
        <g v-if="act === 'shake'" class="marks">
          <path :d="`M${-GLASS.across - 20} ${shape.glass - 14}l6 8l-6 8l6 8`" class="arrow" />
          <path :d="`M${GLASS.across + 20} ${shape.glass - 14}l-6 8l6 8l-6 8`" class="arrow" />
        </g>
        <path
          v-if="scene.fluid !== 'none' && act === 'touch'"
          :d="`M${-GLASS.along + 6} ${shape.glass - 10}h${GLASS.along}`"
          class="damp"
        />
      </g>
    </g>

    <template v-if="act === 'touch' && scene.tool">
      <g :transform="`translate(${place.x} ${place.y + shape.glass - 8})`">
        <TouchPart :scene="scene" :item="scene.tool" />
      </g>
    </template>
    <template v-else-if="act === 'air' && scene.tool">
      <PuffPart :x="place.x" :y="place.y - 6" :falls="true" />
      <g :transform="`translate(${place.x + 14} ${place.y + 22}) rotate(-8)`"
        ><ToolPart :item="scene.tool" up
      /></g>
      <path :d="`M${place.x - 120} ${place.y + 14}h240`" class="limit" />
    </template>
    <template v-else-if="act === 'wash' && scene.tool">
      <g :transform="`translate(150 190) rotate(-74)`"><ToolPart :item="scene.tool" /></g>
      <PuffPart :x="172" :y="204" sideways />
      <path
        d="M52 66q-14 20 0 26t0 -26zM84 44q-14 20 0 26t0 -26zM112 74q-14 20 0 26t0 -26z"
        class="damp drop"
      />
    </template>
    <template v-else-if="act === 'wet' && scene.tool">
      <g transform="translate(96 268) rotate(90)"><ToolPart :item="scene.tool" /></g>
      <g transform="translate(94 172)"><ToolPart item="fluid" /></g>
      <path
        v-for="n in Math.min(scene.count ?? 1, 4)"
        :key="n"
        :d="`M94 ${158 + 22 * n}q-9 15 0 19t0 -19z`"
        class="damp drop falls"
      />
    </template>
    <template v-else-if="act === 'even' && scene.tool">
      <g transform="translate(60 130) rotate(122)"><ToolPart :item="scene.tool" /></g>
      <path d="M48 124q-6 14 -2 30" class="damp" />
      <g transform="translate(210 108)">
        <circle r="38" class="metal" /><path d="M0 -24V0l16 10" class="arrow" />
      </g>
    </template>
    <template v-else-if="act === 'sheen'">
      <g :transform="`translate(${place.x + 40} ${place.y - 130}) rotate(16)`">
        <path d="M-22 0h44l14 30h-72z" class="metal" />
        <path d="M-16 42l-6 30M0 42v34M16 42l6 30" class="arrow" />
      </g>
    </template>
    <template v-else-if="act === 'look'">
      <path d="M190 60q50 -44 100 0q-50 44 -100 0z" class="soft" /><circle
        cx="240"
        cy="60"
        r="14"
        class="ink"
      />
      <path :d="`M240 90V${place.y - 10}`" class="limit" />
    </template>
    <template v-else-if="act === 'latch_up' || act === 'latch_down'">
      <MoveArrow
        v-if="act === 'latch_up'"
        :x1="place.x + 26"
        :y1="place.y + 10"
        :x2="place.x + 26"
        :y2="place.y - 36"
      />
      <MoveArrow v-else :x1="place.x + 26" :y1="place.y - 36" :x2="place.x + 26" :y2="place.y + 10" />
    </template>
    <template v-else-if="act === 'retest'">
      <path d="M30 90h26v220h-26z" class="soft" />
      <path
        :d="`M62 150L${place.x - 96} ${place.y - 26}M62 260L${place.x - 96} ${place.y + 26}`"
        class="limit"
      />
      <g class="sways"><MoveArrow :x1="place.x + 30" :y1="128" :x2="place.x + 30" :y2="56" both /></g>
    </template>
    <g v-if="POWERS.has(act)" transform="translate(96 92)">
      <path d="M-22 -22a31 31 0 1 0 44 0M0 -40V-8" class="power" :class="scene.power" />
      <text y="58" text-anchor="middle">{{ scene.power === 'out' ? 'no battery' : scene.power }}</text>
      <g transform="translate(-34 82)">
        <path d="M0 0h60v30h-60zM60 9h7v12h-7" :class="{ limit: scene.power === 'out' }" />
        <path
          v-if="scene.power === 'on'"
          d="M6 6h14v18h-14zM24 6h14v18h-14zM42 6h12v18h-12z"
          class="accent"
        />
      </g>
      <MoveArrow v-if="scene.power === 'out'" :x1="-4" :y1="122" :x2="-4" :y2="160" />
    </g>
  </template>
</template>
