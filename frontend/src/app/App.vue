<script setup lang="ts">
import Button from 'primevue/button'
import ConfirmDialog from 'primevue/confirmdialog'
import { computed, defineAsyncComponent, reactive, ref, watch } from 'vue'
import { RouterLink, RouterView, useRoute } from 'vue-router'
import { provideIntake } from '@/shared/composables/useIntake'
import { useFileDrop } from '@/shared/composables/useFileDrop'
import { ROLE_WORDS, useMe } from '@/shared/composables/useMe'
import { useGlobalKeys } from '@/shared/composables/useGlobalKeys'
import { useTheme } from '@/shared/composables/useTheme'
import { inTrial } from '@/api/root'
import { interrupted } from '@/shared/lib/stream'
import TrialRibbon from './TrialRibbon.vue'
import UndoNote from './UndoNote.vue'
import UploadTray from './UploadTray.vue'

const FindDialog = defineAsyncComponent(() => import('./FindDialog.vue'))
const KeysDialog = defineAsyncComponent(() => import('./KeysDialog.vue'))
const { dim, toggle } = useTheme()
const { me, shared, isOwner, isViewer } = useMe()
const ROOMS = [
  ['bench', 'Bench'],
  ['bodies', 'Cameras'],
  ['pictures', 'Pictures'],
  ['jobs', 'Jobs'],
  ['kit', 'Kit'],
  ['practice', 'Practice'],
  ['schools', 'Settings'],
] as const
const rooms = computed(() => ROOMS.filter(([name]) => isOwner.value || name !== 'schools'))
/** Pages that lie within a room without lying under its address. */
const within: Record<string, string> = {
  body: 'bodies',
  costs: 'kit',
  odds: 'bodies',
  calendar: 'jobs',
  'picture-set': 'pictures',
  frame: 'bench',
  visit: 'bench',
  tray: 'bench',
  compare: 'bench',
  light: 'bench',
  share: 'schools',
  'practice-moves': 'practice',
  'practice-places': 'practice',
  'practice-frames': 'practice',
  'practice-hand': 'practice',
  'practice-clean': 'practice',
}
const route = useRoute()
const here = computed(() => within[String(route.name)] ?? route.name)
const unfolded = ref(false)
watch(
  () => route.fullPath,
  () => {
    unfolded.value = false
  },
)
const intake = provideIntake()
/** Said only when it lasts: a short break mends itself unseen. */
const cutOff = ref(false)
watch(interrupted, (is, _was, onCleanup) => {
  const later = setTimeout(() => (cutOff.value = is), is ? 1500 : 0)
  onCleanup(() => clearTimeout(later))
})
const { over } = useFileDrop(intake.take)
const finding = ref(false)
const keysShown = ref(false)
/** Once loaded a dialog stays, so that it can give the focus back. */
const asked = reactive({ find: false, keys: false })
watch([finding, keysShown], ([find, keys]) => {
  asked.find ||= find
  asked.keys ||= keys
})
useGlobalKeys({
  find: () => {
    finding.value = !inTrial
  },
  keys: () => {
    keysShown.value = true
  },
  paste: intake.take,
})
const dropWords = computed(() => {
  if (route.name === 'pictures') return 'Drop a folder of pictures to patch or search'
  if (intake.aim.value.visit !== undefined) return 'Drop to add to this visit'
  if (intake.aim.value.body !== undefined) return 'Drop to measure for this camera'
  return 'Drop to measure'
})
</script>

<template>
  <div class="frame" :class="{ helping: !isOwner, viewing: isViewer }">
    <a class="skip" href="#content">Skip to the content</a>
    <header>
      <RouterLink :to="{ name: 'bench' }" class="name" aria-label="Neat Patch, to the bench">
        <img src="/mark.svg" alt="" width="26" height="26" />
        <span>Neat Patch</span>
      </RouterLink>
      <TrialRibbon v-if="inTrial" />
      <Button
        v-if="!inTrial"
        class="fold"
        icon="pi pi-bars"
        label="Menu"
        size="small"
        severity="secondary"
        variant="text"
        :aria-expanded="unfolded"
        aria-controls="rooms"
        @click="unfolded = !unfolded"
      />
      <nav v-if="!inTrial" id="rooms" aria-label="Rooms" :class="{ unfolded }">
        <RouterLink
          v-for="[name, label] in rooms"
          :key="name"
          :to="{ name }"
          :class="{ here: here === name }"
          :aria-current="here === name ? 'page' : undefined"
          >{{ label }}</RouterLink
        >
      </nav>
      <Button
        v-if="!inTrial"
        icon="pi pi-search"
        label="Find"
        size="small"
        severity="secondary"
        variant="text"
        aria-keyshortcuts="Control+K"
        @click="finding = true"
      />
      <span v-if="shared && me" class="me soft">{{ me.name }}, {{ ROLE_WORDS[me.role] }}</span>
      <Button
        :icon="dim ? 'pi pi-sun' : 'pi pi-moon'"
        :label="dim ? 'Light' : 'Dim'"
        size="small"
        severity="secondary"
        variant="text"
        @click="toggle"
      />
    </header>
    <p v-if="cutOff" class="cut" role="status">
      <i class="pi pi-exclamation-triangle" aria-hidden="true" /> The connection to Neat Patch is interrupted.
      What you see may be old; it is tried again.
    </p>
    <main id="content" tabindex="-1"><RouterView /></main>
    <div v-if="over" class="drop" aria-hidden="true">
      <span>{{ dropWords }}</span>
    </div>
    <UploadTray />
    <UndoNote />
    <section id="layers" aria-label="Menus" />
    <FindDialog v-if="asked.find" v-model:open="finding" />
    <KeysDialog v-if="asked.keys" v-model:open="keysShown" />
    <ConfirmDialog :style="{ width: '460px' }" :draggable="false" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr);
  height: 100%;
}
.cut {
  position: fixed;
  left: 50%;
  bottom: var(--space-3);
  z-index: 25;
  transform: translateX(-50%);
  max-width: calc(100vw - 2 * var(--space-3));
  padding: var(--space-2) var(--space-3);
  color: var(--warn);
  background: var(--warn-wash);
  border: 1px solid var(--warn);
  border-radius: 5px;
}
.skip {
  position: absolute;
  left: var(--space-3);
  top: -5rem;
  z-index: 30;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
}
.skip:focus {
  top: var(--space-1);
}
header {
  display: flex;
  position: relative;
  align-items: center;
  justify-content: space-between;
  padding: var(--space-1) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.name {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  color: var(--ink);
  font-weight: 650;
  text-decoration: none;
}
nav {
  display: flex;
  gap: var(--space-1);
  margin: 0 auto 0 var(--space-5);
}
nav a {
  padding: var(--space-1) var(--space-3);
  color: var(--ink);
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
nav a.here {
  text-shadow: 0.4px 0 0 currentcolor;
  border-bottom-color: var(--accent);
}
.fold {
  display: none;
}
.me {
  max-width: 9rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
main {
  min-height: 0;
  overflow: auto;
}
main:focus {
  outline: none;
}
.drop {
  position: fixed;
  inset: 0;
  z-index: 40;
  display: grid;
  place-items: center;
  pointer-events: none;
  background: color-mix(in srgb, var(--accent-wash) 80%, transparent);
  outline: 4px dashed var(--accent);
  outline-offset: -14px;
}
.drop span {
  padding: var(--space-3) var(--space-5);
  font-size: var(--text-title);
  font-weight: 650;
  background: var(--panel);
  border-radius: 6px;
}
@media (max-width: 860px) {
  .fold {
    display: inline-flex;
    margin-left: auto;
  }
  nav {
    display: none;
    position: absolute;
    top: 100%;
    left: 0;
    right: 0;
    z-index: 25;
    flex-direction: column;
    margin: 0;
    background: var(--panel);
    border-bottom: 1px solid var(--line);
  }
  nav.unfolded {
    display: flex;
  }
  nav a {
    padding: var(--space-3) var(--space-3);
    border-bottom: 0;
    border-left: 4px solid transparent;
  }
  nav a.here {
    border-left-color: var(--accent);
  }
}
</style>
