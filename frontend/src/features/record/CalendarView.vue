<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { day, dayOf } from '@/shared/lib/format'
import { entriesOn, KIND_ICONS, KIND_NAMES, monthDays, WEEKDAYS } from './calendar'

/** Looks, jobs, services and best-before dates: a month, or a list of what is ahead. */
const today = dayOf(new Date())
const month = ref(today.slice(0, 7))
const view = ref<'month' | 'list'>('month')
const VIEWS = [
  { label: 'Month', value: 'month' },
  { label: 'List', value: 'list' },
]
const days = computed(() => monthDays(month.value))
const asked = computed(() =>
  view.value === 'month'
    ? { since: days.value[0] ?? today, until: days.value[days.value.length - 1] ?? today }
    : { since: today },
)
const { value: entries, error } = useAsk(() => queries.calendar(asked.value), { keeps: true })
const title = computed(() =>
  new Date(`${month.value}-15T12:00`).toLocaleDateString('en-GB', { month: 'long', year: 'numeric' }),
)
function turn(by: number): void {
  const middle = new Date(`${month.value}-15T12:00`)
  middle.setMonth(middle.getMonth() + by)
  month.value = dayOf(middle).slice(0, 7)
}
const address = `${location.origin}/api/calendar.ics`
</script>

<template>
  <section class="page">
    <p><BackLink :home="{ name: 'jobs' }" home-words="Jobs" /></p>
    <div class="head">
      <h1>Calendar</h1>
      <ChoiceBar v-model="view" :options="VIEWS" label="View" />
      <template v-if="view === 'month'">
        <span class="turn">
          <Button
            icon="pi pi-chevron-left"
            size="small"
            severity="secondary"
            variant="text"
            aria-label="The month before"
            @click="turn(-1)"
          />
          <strong aria-live="polite">{{ title }}</strong>
          <Button
            icon="pi pi-chevron-right"
            size="small"
            severity="secondary"
            variant="text"
            aria-label="The month after"
            @click="turn(1)"
          />
        </span>
      </template>
    </div>
    <FailureNote :error="error" />
    <table v-if="view === 'month'" class="month">
      <thead>
        <tr>
          <th v-for="w in WEEKDAYS" :key="w" scope="col">{{ w }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="week in days.length / 7" :key="week">
          <td
            v-for="d in days.slice(7 * (week - 1), 7 * week)"
            :key="d"
            :class="{ away: d.slice(0, 7) !== month, today: d === today }"
          >
            <span class="number"
              >{{ Number(d.slice(8)) }}<span v-if="d === today" class="now"> today</span></span
            >
            <RouterLink
              v-for="e in entriesOn(entries ?? [], d)"
              :key="e.uid"
              :to="e.at"
              :title="`${KIND_NAMES[e.kind]}: ${e.title}. ${e.note}`"
              ><i :class="['pi', KIND_ICONS[e.kind]]" aria-hidden="true" />
              <span class="what">{{ e.title }}</span></RouterLink
            >
          </td>
        </tr>
      </tbody>
    </table>
    <ul v-else-if="entries?.length" class="list">
      <li v-for="e in entries" :key="e.uid">
        <strong
          >{{ day(e.on) }}<template v-if="e.until"> to {{ day(e.until) }}</template></strong
        >
        <span
          ><i :class="['pi', KIND_ICONS[e.kind]]" aria-hidden="true" />
          <RouterLink :to="e.at">{{ e.title }}</RouterLink> <span class="soft">{{ e.note }}</span></span
        >
      </li>
    </ul>
    <p v-else-if="entries" class="soft">
      Nothing is ahead. Looks, booked jobs, services and best-before dates stand here.
    </p>
    <p class="soft">
      For another calendar on this machine: <a :href="address">save as a file</a>, or subscribe to
      <code>{{ address }}</code>
    </p>
  </section>
</template>

<style scoped>
.head,
.turn {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
  align-items: center;
}
.turn {
  margin-left: auto;
}
.month {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
  background: var(--panel);
}
th,
td {
  padding: var(--space-1);
  text-align: left;
  vertical-align: top;
  border: 1px solid var(--line);
}
td {
  height: 92px;
  overflow: hidden;
}
td.away .number {
  color: var(--ink-soft);
  font-weight: 400;
}
td.today {
  outline: 2px solid var(--accent);
  outline-offset: -2px;
}
.number {
  display: block;
  font-weight: 600;
}
.now {
  color: var(--accent);
}
td a {
  display: block;
  margin-top: var(--space-1);
  text-decoration: none;
  overflow: hidden;
  font-size: var(--text-small);
  text-overflow: ellipsis;
}
.list {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
.list li {
  display: grid;
  grid-template-columns: 240px minmax(0, 1fr);
  gap: var(--space-3);
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
code {
  overflow-wrap: anywhere;
}
@media (max-width: 760px) {
  .month .what {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  td {
    height: 60px;
  }
  .list li {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}
</style>
