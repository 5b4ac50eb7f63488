<script setup lang="ts">
// Why a notice shows here or does not: every gate's answer, in order.
import type { Account } from '../api/client'

defineProps<{ account: Account }>()

const names: Record<string, string> = {
  display: 'Switch',
  state: 'State',
  schedule: 'Time',
  pages: 'Page',
  memory: 'Visitor',
  slot: 'Place',
}
</script>

<template>
  <ol class="gates plainlist">
    <li v-for="s in account.steps" :key="s.gate" :class="{ failed: !s.passed }">
      <span class="gate">{{ names[s.gate] ?? s.gate }}</span>
      <span class="mark"
        ><span aria-hidden="true">{{ s.passed ? '✓' : '✕' }}</span
        ><span class="unseen">{{ s.passed ? 'passes' : 'stops here' }}</span></span
      >
      <span
        >{{ s.why }} <span class="rule" :title="`Rule ${s.rule} in the documentation`">{{ s.rule }}</span></span
      >
    </li>
  </ol>
</template>

<style scoped>
.gates {
  display: grid;
  gap: 2px;
}
li {
  display: grid;
  grid-template-columns: 56px 16px 1fr;
  gap: 8px;
  align-items: baseline;
}
.gate {
  color: var(--ink-2);
  font-size: 12px;
}
.mark {
  color: var(--live);
}
.failed .mark {
  color: var(--alarm);
}
.failed {
  font-weight: 600;
}
.rule {
  margin-inline-start: 4px;
  color: var(--ink-2);
  font-size: 12px;
  font-weight: 400;
}
</style>
