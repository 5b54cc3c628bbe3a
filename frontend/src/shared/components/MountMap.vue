<script setup lang="ts">
import { computed, ref } from 'vue'
import type { HandPlan, MountView, Spot } from '@/api/client'
import { useSpotWalk } from '@/shared/composables/useSpotWalk'
import { placed, TOP_AT } from '@/shared/lib/mount'
import { bandPath } from '@/shared/lib/bands'
import { spotWords } from '@/shared/lib/spots'

/**
 * `reached`: how many presses or strokes of the plan are done. `choosable`: its marks can be pointed at and
 * walked by keyboard; otherwise it is one picture.
 */
const props = defineProps<{
  spots: Spot[]
  view: MountView
  plan?: HandPlan
  reached?: number
  choosable?: boolean
}>()
const selected = defineModel<string | null>('selected', { default: null })
const planned = computed(() => (props.plan?.presses?.length ?? 0) + (props.plan?.strokes?.length ?? 0) > 0)
const dots = computed(() => placed(props.spots, props.view))
const drawing = ref<SVGSVGElement | null>(null)
const { reached: atTab, walk } = useSpotWalk(drawing, () => dots.value, selected)
/** What the plan spares is crossed out, so that nobody presses it. */
const spared = computed(() => {
  const ids = new Set(props.plan?.left_out ?? [])
  return dots.value.filter((d) => ids.has(d.id))
})
const wordsOf = computed(() => new Map(props.spots.map((s) => [s.id, spotWords(s)])))
/** What makes a mark a button, where marks can be chosen. */
function button(id: string) {
  if (!props.choosable) return {}
  return {
    role: 'button',
    tabindex: id === atTab.value ? 0 : -1,
    'aria-label': wordsOf.value.get(id),
    'aria-pressed': id === selected.value,
    onClick: () => {
      selected.value = id
    },
    onKeydown: (event: KeyboardEvent) => {
      if (event.key === 'Enter' || event.key === ' ') {
        event.preventDefault()
        selected.value = id
      } else walk(event, id)
    },
  }
}
const unit = computed(() => Math.max(props.view.width_mm, props.view.height_mm) / 36)
const pad = computed(() => unit.value * 3.4)
const box = computed(() => {
  const w = props.view.width_mm + 2 * pad.value
  const h = props.view.height_mm + 2 * pad.value
  return { x: -w / 2, y: -h / 2, w, h }
})
const flag = computed(() => {
  const a = (TOP_AT[props.view.pose] * Math.PI) / 180
  const out = unit.value * 1.7
  return {
    x: Math.sin(a) * (props.view.width_mm / 2 + out),
    y: -Math.cos(a) * (props.view.height_mm / 2 + out),
    turn: TOP_AT[props.view.pose] % 180,
  }
})
/** The ninth of the sensor that an aim lies in. */
const zones = computed(() => {
  const w = props.view.width_mm / 3
  const h = props.view.height_mm / 3
  const third = (v: number, size: number): number =>
    Math.min(2, Math.max(0, Math.floor((v / size + 0.5) * 3)))
  return props.view.aims.slice(0, 4).map((aim) => ({
    words: aim.words,
    x: -props.view.width_mm / 2 + third(aim.x_mm, props.view.width_mm) * w,
    y: -props.view.height_mm / 2 + third(aim.y_mm, props.view.height_mm) * h,
    w,
    h,
  }))
})

type Press = NonNullable<HandPlan['presses']>[number]

interface Point {
  x: number
  y: number
}
const away = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y)

/** For each press the corner with most room for its number: away from spots, and from numbers placed before. */
const corners = computed(() => {
  const found = new Map<number, Point>()
  for (const p of props.plan?.presses ?? []) {
    const choice = [-1, 1].flatMap((sx) =>
      [-1, 1].map((sy) => ({ x: p.x_mm + (sx * p.width_mm) / 2, y: p.y_mm + (sy * p.height_mm) / 2 })),
    )
    const room = (c: Point): number =>
      Math.min(
        Infinity,
        ...dots.value.map((d) => away(c, d)),
        ...[...found.values()].map((n) => away(c, n) / 2),
      )
    found.set(
      p.n,
      choice.reduce((a, b) => (room(b) > room(a) + 1e-9 ? b : a)),
    )
  }
  return found
})
const corner = (p: Press): string =>
  `translate(${corners.value.get(p.n)?.x ?? p.x_mm} ${corners.value.get(p.n)?.y ?? p.y_mm})`
const isNow = (n: number): boolean => n === (props.reached ?? 0) + 1
/** Presses with the one that is due last: its number is drawn over the others. */
const numbered = computed(() =>
  [...(props.plan?.presses ?? [])].sort((a, b) => Number(isNow(a.n)) - Number(isNow(b.n))),
)

type Stroke = NonNullable<HandPlan['strokes']>[number]
const same = (a: number, b: number): boolean => Math.abs(a - b) < 0.01
const level = (s: Stroke): boolean => Math.abs(s.x2_mm - s.x1_mm) >= Math.abs(s.y2_mm - s.y1_mm)

/** Whether two strokes lie on one another. */
function share(a: Stroke, b: Stroke): boolean {
  if (level(a) !== level(b)) return false
  return level(a)
    ? same(a.y1_mm, b.y1_mm) && overlaps(a.x1_mm, a.x2_mm, b.x1_mm, b.x2_mm)
    : same(a.x1_mm, b.x1_mm) && overlaps(a.y1_mm, a.y2_mm, b.y1_mm, b.y2_mm)
}

/** Side on which each stroke is drawn: those that lie on one another side by side, the rest in place. */
const sides = computed(() => {
  const strokes = props.plan?.strokes ?? []
  const found = new Map<number, number>()
  for (const s of strokes) {
    const before = strokes.filter((o) => o.n < s.n && share(o, s)).map((o) => found.get(o.n))
    const free = [-1, 1].find((side) => !before.includes(side))
    if (strokes.some((o) => o.n !== s.n && share(o, s))) found.set(s.n, free ?? (s.n % 2 === 0 ? 1 : -1))
  }
  return found
})

function lift(s: Stroke): number {
  return (sides.value.get(s.n) ?? 0) * unit.value * 1.3
}

function overlaps(a1: number, a2: number, b1: number, b2: number): boolean {
  return Math.min(Math.max(a1, a2), Math.max(b1, b2)) - Math.max(Math.min(a1, a2), Math.min(b1, b2)) > 0.01
}

/** Where a stroke's number stands: just after its beginning. */
function start(s: Stroke): string {
  const d = lift(s)
  const on = unit.value * 1.6
  const [x, y] = level(s)
    ? [s.x1_mm + Math.sign(s.x2_mm - s.x1_mm) * on, s.y1_mm + d]
    : [s.x1_mm + d, s.y1_mm + Math.sign(s.y2_mm - s.y1_mm) * on]
  return `translate(${x} ${y})`
}

/** The strip that the swab's face goes over. */
function band(s: Stroke): { x: number; y: number; width: number; height: number } {
  const [w, h] = level(s)
    ? [Math.abs(s.x2_mm - s.x1_mm), s.width_mm]
    : [s.width_mm, Math.abs(s.y2_mm - s.y1_mm)]
  return { x: (s.x1_mm + s.x2_mm) / 2 - w / 2, y: (s.y1_mm + s.y2_mm) / 2 - h / 2, width: w, height: h }
}

function arrow(s: Stroke): string {
  const d = lift(s)
  const u = unit.value
  const away = level(s)
  const [x1, y1, x2, y2] = away
    ? [s.x1_mm, s.y1_mm + d, s.x2_mm, s.y2_mm + d]
    : [s.x1_mm + d, s.y1_mm, s.x2_mm + d, s.y2_mm]
  const back = away ? Math.sign(x1 - x2) : Math.sign(y1 - y2)
  const tip = away
    ? `M ${x2 + back * u} ${y2 - u * 0.7} L ${x2} ${y2} L ${x2 + back * u} ${y2 + u * 0.7}`
    : `M ${x2 - u * 0.7} ${y2 + back * u} L ${x2} ${y2} L ${x2 + u * 0.7} ${y2 + back * u}`
  return `M ${x1} ${y1} L ${x2} ${y2} ${tip}`
}
</script>

<template>
  <svg
    ref="drawing"
    :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`"
    :role="choosable ? 'group' : 'img'"
    :aria-label="`${view.sentence} ${view.aims.map((a) => a.words).join('; ')}`"
    preserveAspectRatio="xMidYMid meet"
  >
    <rect
      class="mount"
      :x="box.x + unit * 0.3"
      :y="box.y + unit * 0.3"
      :width="box.w - unit * 0.6"
      :height="box.h - unit * 0.6"
      :rx="unit * 3.5"
      :stroke-width="unit * 0.25"
    />
    <rect
      class="glass"
      :x="-view.width_mm / 2"
      :y="-view.height_mm / 2"
      :width="view.width_mm"
      :height="view.height_mm"
      :stroke-width="unit * 0.18"
    />
    <g class="thirds" :stroke-width="unit * 0.07">
      <path
        v-for="k in [-1, 1]"
        :key="`v${k}`"
        :d="`M ${(k * view.width_mm) / 6} ${-view.height_mm / 2} v ${view.height_mm}`"
      />
      <path
        v-for="k in [-1, 1]"
        :key="`h${k}`"
        :d="`M ${-view.width_mm / 2} ${(k * view.height_mm) / 6} h ${view.width_mm}`"
      />
    </g>
    <g
      v-for="p in plan?.presses ?? []"
      :key="`p${p.n}`"
      class="press"
      :class="{ now: isNow(p.n), past: p.n <= (reached ?? 0) }"
    >
      <rect
        :x="p.x_mm - p.width_mm / 2"
        :y="p.y_mm - p.height_mm / 2"
        :width="p.width_mm"
        :height="p.height_mm"
        :rx="unit * 0.3"
        :stroke-width="unit * 0.18"
      />
    </g>
    <g
      v-for="s in plan?.strokes ?? []"
      :key="`s${s.n}`"
      class="stroke"
      :class="{ now: isNow(s.n), past: s.n <= (reached ?? 0) }"
    >
      <rect v-if="isNow(s.n)" class="band" v-bind="band(s)" :stroke-width="unit * 0.12" />
      <path :d="arrow(s)" :stroke-width="unit * 0.3" />
    </g>
    <g v-for="zone in planned ? [] : zones" :key="zone.words" class="aim">
      <rect
        :x="zone.x + unit * 0.25"
        :y="zone.y + unit * 0.25"
        :width="zone.w - unit * 0.5"
        :height="zone.h - unit * 0.5"
        :stroke-width="unit * 0.2"
        :stroke-dasharray="`${unit * 0.9} ${unit * 0.5}`"
      />
    </g>
    <template v-for="d in dots" :key="d.id">
      <path
        v-if="d.long"
        class="dot"
        :class="[d.kind, { relevant: d.relevant, selected: d.id === selected }]"
        :data-spot="d.id"
        :d="bandPath(d.long.course, Math.max(d.long.halfWidth, unit * 0.12))"
        :transform="`translate(${d.x} ${d.y})`"
        :stroke-width="unit * 0.12"
        :stroke-dasharray="d.kind === 'residue' ? `${unit * 0.6} ${unit * 0.3}` : ''"
        v-bind="button(d.id)"
      />
      <circle
        v-else
        class="dot"
        :class="{ relevant: d.relevant, selected: d.id === selected }"
        :data-spot="d.id"
        :cx="d.x"
        :cy="d.y"
        :r="Math.max(d.radius, unit * (d.relevant ? 0.38 : 0.24))"
        :stroke-width="unit * 0.14"
        v-bind="button(d.id)"
      />
    </template>
    <path
      v-for="d in spared"
      :key="`spared-${d.id}`"
      class="spared"
      :d="`M ${d.x - unit} ${d.y - unit} l ${2 * unit} ${2 * unit} m 0 ${-2 * unit} l ${-2 * unit} ${2 * unit}`"
      :stroke-width="unit * 0.18"
    />
    <g v-for="(zone, i) in planned ? [] : zones" :key="`z${zone.words}`" class="aim">
      <g :transform="`translate(${zone.x + unit * 1.3} ${zone.y + unit * 1.3})`">
        <circle class="plate" :r="unit * 0.85" />
        <text :font-size="unit * 1.2" text-anchor="middle" dominant-baseline="central">{{ i + 1 }}</text>
      </g>
    </g>
    <g
      v-for="p in numbered"
      :key="`n${p.n}`"
      class="number"
      :class="{ now: isNow(p.n), past: p.n <= (reached ?? 0) }"
      :transform="corner(p)"
    >
      <circle class="plate" :r="unit * 0.85" />
      <text :font-size="unit * 1.15" text-anchor="middle" dominant-baseline="central">{{ p.n }}</text>
    </g>
    <g
      v-for="s in plan?.strokes ?? []"
      :key="`m${s.n}`"
      class="number"
      :class="{ now: isNow(s.n), past: s.n <= (reached ?? 0) }"
      :transform="start(s)"
    >
      <circle class="plate" :r="unit * 0.95" />
      <text :font-size="unit * 1.25" text-anchor="middle" dominant-baseline="central">{{ s.n }}</text>
    </g>
    <g class="flag" :transform="`translate(${flag.x} ${flag.y}) rotate(${flag.turn})`">
      <rect :x="-unit * 3.6" :y="-unit * 0.9" :width="unit * 7.2" :height="unit * 1.8" :rx="unit * 0.4" />
      <text :font-size="unit * 1.1" text-anchor="middle" dominant-baseline="central">camera top</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 100%;
  background: var(--surround);
}
.mount {
  fill: var(--camera);
  stroke: var(--camera-edge);
}
.glass {
  fill: var(--ring);
  stroke: var(--ring-edge);
}
.thirds {
  stroke: var(--glass);
  fill: none;
}
.dot {
  fill: none;
  stroke: var(--ring-edge);
}
.dot.relevant {
  fill: var(--mark-dark);
  stroke: var(--mark-light);
}
.dot.residue.relevant {
  fill: color-mix(in srgb, var(--mark-dark) 45%, transparent);
}
.dot[role='button'] {
  cursor: pointer;
  pointer-events: all;
}
.dot.selected {
  fill: var(--mark-chosen);
  stroke: var(--mark-chosen);
  stroke-width: 0.5;
}
.dot:focus {
  outline: none;
}
.dot:focus-visible {
  stroke: var(--mark-light);
  stroke-width: 9px;
  vector-effect: non-scaling-stroke;
  paint-order: stroke;
}
.spared {
  fill: none;
  stroke: var(--mark-light);
}
.press rect {
  fill: color-mix(in srgb, var(--plan) 12%, transparent);
  stroke: var(--plan);
}
.number .plate {
  fill: var(--plan);
}
.number text {
  fill: var(--plan-ink);
  font-weight: 700;
}
.number.now .plate {
  fill: var(--mark-light);
}
.number.past {
  opacity: 0.35;
}
.press.now rect {
  fill: color-mix(in srgb, var(--plan) 45%, transparent);
  stroke: var(--mark-light);
}
.press.past {
  opacity: 0.35;
}
.stroke path {
  fill: none;
  stroke: var(--plan);
  stroke-linecap: round;
}
.stroke .band {
  fill: color-mix(in srgb, var(--mark-light) 16%, transparent);
  stroke: var(--mark-light);
}
.stroke.now path {
  stroke: var(--mark-light);
}
.stroke.past {
  opacity: 0.35;
}
.aim {
  fill: none;
  stroke: var(--plan);
}
.aim .plate {
  fill: var(--plan);
  stroke: none;
}
.aim text {
  fill: var(--plan-ink);
  stroke: none;
  font-weight: 700;
}
.flag rect {
  fill: var(--mark-dark);
}
.flag text {
  fill: var(--mark-light);
  font-weight: 600;
}
</style>
