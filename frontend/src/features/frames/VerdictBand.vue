<script setup lang="ts">
import { computed } from 'vue'
import type { Verdict } from './verdict'

/** The verdict across the top of a frame's page, and beside it the one thing to do about it. */
const props = defineProps<{ verdict: Verdict }>()
const SIGNS = {
  stop: 'pi-times-circle',
  shows: 'pi-circle-fill',
  clear: 'pi-check-circle',
  unknown: 'pi-question-circle',
} as const
const sign = computed(() => SIGNS[props.verdict.tone])
</script>

<template>
  <header class="band" :class="verdict.tone">
    <i class="pi sign" :class="sign" aria-hidden="true" />
    <div class="words">
      <h1>{{ verdict.headline }}</h1>
      <div class="rest">
        <span v-if="verdict.rest">{{ verdict.rest }}</span>
        <slot name="rest" />
      </div>
    </div>
    <div class="acts"><slot /></div>
  </header>
</template>

<style scoped>
.band {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  border-left: 6px solid var(--accent);
}
.sign {
  font-size: var(--text-title);
  color: var(--accent);
}
.words {
  flex: 1 1 14rem;
  min-width: 0;
}
.rest {
  display: flex;
  flex-wrap: wrap;
  gap: 0 var(--space-3);
  color: var(--ink-soft);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: center;
}
.stop {
  background: var(--stop-wash);
  border-left-color: var(--stop);
}
.stop .sign,
.stop h1 {
  color: var(--stop);
}
.stop .rest {
  color: var(--ink);
}
.unknown {
  background: var(--warn-wash);
  border-left-color: var(--warn);
}
.unknown .sign {
  color: var(--warn);
}
.clear {
  border-left-color: var(--good);
}
.clear .sign {
  color: var(--good);
}
</style>
