<script setup lang="ts">
// A kind's emblem: a small rectangle of two plain fields. The name stands beside it.
import type { Card } from '../api/client'

const props = defineProps<{ edge: Card['slot']; colour: string }>()
</script>

<template>
  <svg viewBox="0 0 22 16" width="22" height="16" aria-hidden="true" class="emblem">
    <rect x="0.5" y="0.5" width="21" height="15" class="field" />
    <rect x="1" :y="props.edge === 'bottom' ? 10 : 1" width="20" height="5" :fill="props.colour" />
  </svg>
</template>

<style scoped>
.emblem {
  flex: none;
}
.field {
  fill: var(--sail);
  stroke: var(--ink);
}
</style>
