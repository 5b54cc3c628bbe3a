<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import AccessDrawing from '@/shared/drawings/AccessDrawing.vue'
import FrameDrawing from '@/shared/drawings/FrameDrawing.vue'
import ItemDrawing from '@/shared/drawings/ItemDrawing.vue'
import { capital } from '@/shared/lib/format'

/** A situation as pictures with a few words under each: frame, camera, kit; the rest in a line. */
const props = defineProps<{ drawn: Schemas['DrawnSituation']; lines: Schemas['Line'][] }>()
const about = (what: Schemas['Line']['about']): string[] =>
  props.lines.filter((l) => l.about === what).map((l) => l.words)
const REST = ['so far', 'room', 'you'] as const
const rest = computed(() => REST.map((what) => [what, about(what)] as const).filter(([, w]) => w.length))
</script>

<template>
  <div class="situation">
    <figure>
      <FrameDrawing
        :framed="drawn.framed"
        :fit="drawn.fit"
        :by-kind="drawn.by_kind"
        :where="drawn.where"
        class="big"
      />
      <figcaption>
        <p v-for="words in about('frame')" :key="words">{{ words }}</p>
      </figcaption>
    </figure>
    <figure>
      <AccessDrawing v-if="drawn.access" :access="drawn.access" class="big" />
      <figcaption>
        <p v-for="words in about('camera')" :key="words">{{ words }}</p>
      </figcaption>
    </figure>
    <ul aria-label="Kit">
      <li v-for="t in drawn.kit" :key="t.words" :class="{ doubtful: t.doubtful }">
        <ItemDrawing :item="t.item" /><span>{{ capital(t.words) }}</span>
      </li>
      <li v-if="!drawn.kit.length" class="none">{{ about('kit').join(' ') }}</li>
    </ul>
    <dl>
      <div v-for="[what, words] in rest" :key="what">
        <dt>{{ capital(what) }}</dt>
        <dd v-for="line in words" :key="line">{{ line }}</dd>
      </div>
    </dl>
  </div>
</template>

<style scoped>
.situation {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) minmax(0, 2fr);
  gap: var(--space-3) var(--space-4);
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
figure {
  display: grid;
  gap: var(--space-2);
  align-content: start;
  margin: 0;
}
.big {
  height: 132px;
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(104px, 1fr));
  gap: var(--space-2);
  align-content: start;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  justify-items: center;
  align-content: start;
  font-size: var(--text-small);
  text-align: center;
}
li svg {
  width: 52px;
  height: 52px;
}
.doubtful {
  color: var(--warn);
  outline: 1px dashed var(--warn);
}
.none {
  grid-column: 1 / -1;
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-5);
  grid-column: 1 / -1;
  margin: 0;
  padding-top: var(--space-3);
  border-top: 1px solid var(--line);
}
dt {
  font-weight: 650;
}
dd {
  margin: 0;
}
@media (max-width: 800px) {
  .situation {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  ul {
    grid-column: 1 / -1;
  }
}
</style>
