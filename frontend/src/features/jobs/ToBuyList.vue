<script setup lang="ts">
import { computed } from 'vue'
import type { ToBuy } from '@/api/client'
import { capital, count, day } from '@/shared/lib/format'
import { amountWords, money } from '@/shared/lib/kit'

/** One list of what to buy, the most pressing first. */
const props = defineProps<{ lines: ToBuy[]; currency: string }>()
const total = computed(() => props.lines.reduce((sum, line) => sum + (line.cost ?? 0), 0))
const unpriced = computed(() => props.lines.filter((line) => line.cost == null).length)
</script>

<template>
  <section class="buy" aria-label="To buy">
    <h2>To buy</h2>
    <p v-if="!lines.length" class="soft">Nothing. The kit reaches for every job ahead.</p>
    <ul v-else>
      <li v-for="line in lines" :key="line.thing" :class="{ late: line.late }">
        <div class="by">
          <template v-if="line.late"
            ><i class="pi pi-exclamation-triangle" aria-hidden="true" /> Too late to order</template
          >
          <template v-else
            >Order by <strong>{{ day(line.order_by) }}</strong></template
          >
        </div>
        <div class="what">
          <strong>{{ capital(line.thing) }}</strong><span>{{
            line.packs
              ? `${count(line.packs, 'pack')} (short by ${amountWords(line.amount, line.unit)})`
              : `at least ${amountWords(line.amount, line.unit)}`
          }}</span>
        </div>
        <div class="soft">
          For {{ line.job }}.
          {{
            line.late
              ? `It takes ${line.lead_days} days${line.lead_assumed ? ', assumed' : ''}: fetch it in a shop.`
              : `${line.lead_days} days${line.lead_assumed ? ', assumed' : ''}.`
          }}
          <template v-if="line.source"
            >{{ line.source }}<template v-if="line.cost != null">, {{ money(line.cost, currency) }}</template
            >.</template
          >
        </div>
      </li>
    </ul>
    <p v-if="total" class="total">
      Together <strong>{{ money(total, currency) }}</strong><span v-if="unpriced" class="soft">
        and {{ count(unpriced, 'thing') }} without a price</span
      >
    </p>
  </section>
</template>

<style scoped>
.buy {
  align-self: start;
  padding: var(--space-3) var(--space-3) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
ul {
  display: grid;
  gap: var(--space-2);
  margin: var(--space-2) 0 0;
  padding: 0;
  list-style: none;
}
li {
  padding-left: var(--space-2);
  border-left: 4px solid var(--accent);
}
li.late {
  border-color: var(--stop);
}
.by {
  font-size: var(--text-small);
}
.late .by {
  color: var(--stop);
  font-weight: 650;
}
.what {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-2);
  justify-content: space-between;
  font-size: var(--text-lead);
}
.soft {
  font-size: var(--text-small);
}
.total {
  margin-top: var(--space-3);
  padding-top: var(--space-2);
  border-top: 1px solid var(--line);
}
</style>
