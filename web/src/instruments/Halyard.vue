<script setup lang="ts">
// The state of a notice as a small staff with a flag on it. The word stands beside it, always.
import type { Card } from '../api/client'

defineProps<{ flag: Card['flag']; draft?: boolean }>()

const words = { draft: 'Draft', scheduled: 'Scheduled', live: 'Live', paused: 'Paused', ended: 'Ended' }
</script>

<template>
  <span class="halyard" :class="flag">
    <svg viewBox="0 0 20 24" width="20" height="24" aria-hidden="true">
      <path d="M5 1v22M2 23h6" class="staff" />
      <rect v-if="flag === 'live'" x="6" y="2" width="12" height="9" class="full" />
      <rect v-if="flag === 'scheduled'" x="6.5" y="8.5" width="11" height="8" class="full" />
      <g v-if="flag === 'paused'">
        <rect x="6.5" y="8.5" width="11" height="8" class="hollow" />
        <path d="M12 7v11" class="bar" />
      </g>
      <path v-if="flag === 'draft'" d="M6 22v-7l3 2 3-2v7z" class="full" />
    </svg>
    <span>{{ words[flag] }}<small v-if="draft"> + draft</small></span>
  </span>
</template>

<style scoped>
.halyard {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  font: 600 12px/1.2 var(--head);
  font-stretch: 88%;
  white-space: nowrap;
}
.staff,
.bar {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
}
.full {
  fill: currentColor;
}
.hollow {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.5;
}
small {
  font-size: 12px;
  font-weight: 400;
  color: var(--wait);
}
.live {
  color: var(--live);
}
.scheduled {
  color: var(--wait);
}
.draft,
.ended,
.paused {
  color: var(--ink-2);
}
</style>
