<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { count, fStop } from '@/shared/lib/format'

/** The apertures one works at, counted in a folder of one's own pictures when asked to. */
const emit = defineEmits<{ use: [stops: number[]] }>()
const typed = ref('')
const folder = ref('')
const { value: found, error } = useAsk(() => (folder.value ? queries.pictureHabits(folder.value) : null))
const most = computed(() => Math.max(...(found.value?.stops.map((s) => s.share) ?? []), 0.01))
const usual = computed(() => found.value?.stops.filter((s) => s.usual).map((s) => s.f_number) ?? [])
const percent = (share: number): string =>
  share === 0 ? 'none' : share < 0.01 ? '< 1 %' : `${Math.round(100 * share)} %`
const used = ref(false)

function look(): void {
  used.value = false
  folder.value = typed.value.trim()
}
function use(): void {
  used.value = true
  emit('use', usual.value)
}
</script>

<template>
  <details>
    <summary>Count apertures in your pictures</summary>
    <div class="counted">
      <!-- Within the camera's own form: Enter counts, and does not save. -->
      <div class="line">
        <label class="path"
          >Folder<InputText
            v-model="typed"
            maxlength="1000"
            placeholder="The folder's path on this machine"
            @keydown.enter.prevent="look"
        /></label>
        <Button
          label="Count"
          severity="secondary"
          variant="outlined"
          :disabled="!typed.trim()"
          :loading="folder !== '' && !found && !error"
          @click="look"
        />
      </div>
      <FailureNote :error="error" />
      <p v-if="folder && !found && !error" class="soft" role="status">Reading how they were taken</p>
      <template v-if="found">
        <p v-if="!found.told" role="status">
          None of {{ count(found.pictures, 'picture') }} tells its aperture.
        </p>
        <template v-else>
          <ul class="bars" aria-label="Pictures by aperture">
            <li v-for="s in found.stops" :key="s.f_number" :class="{ usual: s.usual }">
              <span>{{ fStop(s.f_number) }}</span>
              <span class="bar" aria-hidden="true"
                ><span :style="{ inlineSize: `${(100 * s.share) / most}%` }"
              /></span>
              <span>{{ percent(s.share) }}</span>
            </li>
          </ul>
          <p class="soft" role="status">
            {{ count(found.told, 'picture') }} counted<template v-if="found.skipped"
              >, {{ found.skipped }} could not be read</template
            >.
          </p>
          <Button
            :label="used ? 'Used' : `Use ${usual.map(fStop).join(', ')}`"
            :icon="used ? 'pi pi-check' : undefined"
            severity="secondary"
            variant="outlined"
            @click="use"
          />
        </template>
      </template>
    </div>
  </details>
</template>

<style scoped>
.counted {
  display: grid;
  gap: var(--space-2);
  justify-items: start;
  padding-block: var(--space-2);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: end;
  inline-size: 100%;
}
.path {
  display: grid;
  flex: 0 1 420px;
}
.bars {
  display: grid;
  gap: 2px;
  inline-size: 100%;
  max-inline-size: 420px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.bars li {
  display: grid;
  grid-template-columns: 48px 1fr 64px;
  gap: var(--space-2);
  align-items: center;
  color: var(--ink-soft);
}
.bars .usual {
  color: var(--ink);
  font-weight: 600;
}
.bar span {
  display: block;
  block-size: 12px;
  background: var(--ink-soft);
  border-radius: 2px;
}
.usual .bar span {
  background: var(--accent);
}
</style>
