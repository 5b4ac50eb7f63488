<script setup lang="ts">
// A kind's emblem: a small rectangle of two plain fields. An alert is divided per
// bend, a countdown quartered, a consent notice bordered, a disclaimer per pale,
// a block in three bars, code per chevron; of the others the coloured field is where the notice stands. The name stands
// beside it.
import { computed } from 'vue'
import type { Notice } from '../api/client'

type Slot = NonNullable<Notice['slot']>

const props = defineProps<{ edge?: Slot; colour: string; kind?: string }>()

/** x, y, width and height of the coloured field, by slot. */
const fields: Record<Slot, [number, number, number, number]> = {
  top: [1, 1, 20, 5],
  bottom: [1, 10, 20, 5],
  'corner-start': [1, 8, 8, 7],
  'corner-end': [13, 8, 8, 7],
  centre: [6, 4, 10, 8],
  cover: [1, 1, 20, 14],
  title: [1, 1, 9, 4],
  inline: [4, 6, 14, 4],
  code: [1, 1, 20, 14],
}
const field = computed(() => fields[props.edge ?? 'top'])
</script>

<template>
  <svg viewBox="0 0 22 16" width="22" height="16" aria-hidden="true" class="emblem">
    <rect x="0.5" y="0.5" width="21" height="15" class="field" />
    <path v-if="kind === 'alert'" d="M1 1L21 15H1z" :fill="props.colour" class="place" />
    <path
      v-else-if="kind === 'consent'"
      d="M1 1h20v14H1zM5 5v6h12V5z"
      fill-rule="evenodd"
      :fill="props.colour"
      class="place"
    />
    <path v-else-if="kind === 'countdown'" d="M1 1h10v7H1zM11 8h10v7H11z" :fill="props.colour" class="place" />
    <path v-else-if="kind === 'disclaimer'" d="M1 1h10v14H1z" :fill="props.colour" class="place" />
    <path v-else-if="kind === 'block'" d="M1 4h20v3H1zM1 10h20v3H1z" :fill="props.colour" class="place" />
    <path v-else-if="kind === 'code'" d="M1 15L11 5L21 15z" :fill="props.colour" class="place" />
    <rect v-else :x="field[0]" :y="field[1]" :width="field[2]" :height="field[3]" :fill="props.colour" class="place" />
  </svg>
</template>

<style scoped>
.emblem {
  flex: none;
}
.place {
  stroke: var(--ink);
  stroke-width: 0.5;
}
.field {
  fill: var(--sail);
  stroke: var(--ink);
}
</style>
