<script setup lang="ts">
import Button from 'primevue/button'
import { RouterLink, RouterView } from 'vue-router'
import { useTheme } from '@/shared/composables/useTheme'

const { dim, toggle } = useTheme()
const rooms = [
  ['bench', 'Bench'],
  ['bodies', 'Cameras'],
  ['jobs', 'Jobs'],
  ['kit', 'Kit'],
  ['costs', 'Costs'],
  ['schools', 'Settings'],
] as const
</script>

<template>
  <div class="frame">
    <header>
      <RouterLink :to="{ name: 'bench' }" class="name">
        <img src="/mark.svg" alt="" width="26" height="26" />
        <span>Neat Patch</span>
      </RouterLink>
      <nav aria-label="Rooms">
        <RouterLink v-for="[name, label] in rooms" :key="name" :to="{ name }">{{ label }}</RouterLink>
      </nav>
      <Button
        :icon="dim ? 'pi pi-sun' : 'pi pi-moon'"
        :label="dim ? 'Light' : 'Dim'"
        size="small"
        severity="secondary"
        variant="text"
        @click="toggle"
      />
    </header>
    <main><RouterView /></main>
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr);
  height: 100%;
}
header {
  display: flex;
  overflow-x: auto;
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
  padding: 0.35rem 0.8rem;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
nav a.router-link-active {
  font-weight: 650;
  border-bottom-color: var(--accent);
}
main {
  min-height: 0;
  overflow: auto;
}
</style>
