<script setup lang="ts">
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
  Tooltip,
  type ChartConfiguration,
} from 'chart.js'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useTheme } from '@/shared/composables/useTheme'
import type { PlotColours } from '@/shared/lib/plots'

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
  Tooltip,
)

Chart.defaults.font.family = "'Inter Variable', system-ui, sans-serif"

/** A plot; `make` draws it in the colours of the theme, `says` tells what it shows. */
const props = defineProps<{
  make: (colours: PlotColours) => ChartConfiguration
  says: string
  high?: number
}>()
const canvas = ref<HTMLCanvasElement | null>(null)
const { dim } = useTheme()
let chart: Chart | null = null

function colours(): PlotColours {
  const style = getComputedStyle(document.documentElement)
  const of = (name: string): string => style.getPropertyValue(name).trim()
  return {
    ink: of('--ink'),
    soft: of('--ink-soft'),
    line: of('--line'),
    accent: of('--accent'),
    panel: of('--panel'),
  }
}

function draw(): void {
  chart?.destroy()
  chart = null
  const place = canvas.value?.getContext('2d')
  if (!place) return
  const config = props.make(colours())
  chart = new Chart(place, {
    ...config,
    options: { animation: false, maintainAspectRatio: false, ...config.options },
  })
}

onMounted(draw)
watch([() => props.make, dim], draw, { flush: 'post' })
onBeforeUnmount(() => chart?.destroy())
</script>

<template>
  <div class="plot" :style="{ height: `${high ?? 260}px` }">
    <canvas ref="canvas" role="img" :aria-label="says" />
  </div>
</template>

<style scoped>
.plot {
  position: relative;
  min-width: 0;
}
</style>
