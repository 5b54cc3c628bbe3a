<script setup lang="ts">
import type { Mark } from '@/shared/lib/marks'

/** `reached`: the one mark that the tab key comes to; arrow keys lead on from it. */
defineProps<{ mark: Mark; selected: boolean; label: string; reached: boolean }>()
defineEmits<{ choose: []; move: [event: KeyboardEvent] }>()
</script>

<template>
  <g
    class="mark"
    :class="{ selected }"
    :data-spot="mark.id"
    role="button"
    :tabindex="reached ? 0 : -1"
    :aria-label="label"
    :aria-pressed="selected"
    @pointerdown.stop
    @click.stop="$emit('choose')"
    @keydown.enter.prevent="$emit('choose')"
    @keydown.space.prevent="$emit('choose')"
    @keydown="$emit('move', $event)"
  >
    <title>{{ label }}</title>
    <template v-for="layer in ['under', 'over']" :key="layer">
      <path
        v-if="mark.shape === 'band'"
        :class="layer"
        :d="mark.outline"
        :transform="`translate(${mark.x} ${mark.y})`"
        :stroke-dasharray="layer === 'over' ? mark.dash : ''"
      />
      <path
        v-else-if="mark.shape === 'cross'"
        :class="layer"
        :d="`M${mark.x - mark.radius} ${mark.y - mark.radius} l${2 * mark.radius} ${2 * mark.radius} m0 ${-2 * mark.radius} l${-2 * mark.radius} ${2 * mark.radius}`"
      />
      <circle
        v-else
        :class="layer"
        :cx="mark.x"
        :cy="mark.y"
        :r="mark.radius"
        :stroke-dasharray="layer === 'over' ? mark.dash : ''"
      />
    </template>
    <circle v-if="mark.inner" class="over" :cx="mark.x" :cy="mark.y" :r="mark.inner" />
  </g>
</template>

<style scoped>
.mark {
  pointer-events: all;
  cursor: pointer;
  fill: transparent;
}
.mark:focus {
  outline: none;
}
.mark:focus-visible .under {
  stroke: var(--mark-light);
  stroke-width: 9px;
}
.under,
.over {
  vector-effect: non-scaling-stroke;
}
.under {
  stroke: color-mix(in srgb, var(--mark-light) 75%, transparent);
  stroke-width: 3.5px;
}
.over {
  stroke: var(--mark-line);
  stroke-width: 1.6px;
  stroke-linecap: round;
}
.selected .under {
  stroke: var(--mark-light);
  stroke-width: 7px;
}
.selected .over {
  stroke: var(--mark-chosen);
  stroke-width: 3.5px;
}
</style>
