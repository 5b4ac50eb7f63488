<script setup lang="ts">
// Why a notice shows here or does not: every gate's answer, in order.
import type { Account } from '../api/client'

defineProps<{ account: Account }>()

const marks: Record<string, [string, string]> = {
  true: ['✓', 'holds'],
  false: ['✕', 'does not hold'],
  'not yet': ['…', 'not yet'],
}

const names: Record<string, string> = {
  display: 'Switch',
  state: 'State',
  schedule: 'Time',
  pages: 'Page',
  audience: 'Visitor',
  memory: 'Memory',
  holdout: 'Held out',
  slot: 'Place',
}
</script>

<template>
  <ol class="gates plainlist">
    <li v-for="s in account.steps" :key="s.gate" :class="{ failed: !s.passed && !s.waits, waits: s.waits }">
      <span class="gate">{{ names[s.gate] ?? s.gate }}</span>
      <span class="mark"
        ><span aria-hidden="true">{{ s.passed ? '✓' : s.waits ? '…' : '✕' }}</span
        ><span class="unseen">{{ s.passed ? 'passes' : s.waits ? 'waits here' : 'stops here' }}</span></span
      >
      <span
        >{{ s.why }} <span class="rule" :title="`Rule ${s.rule} in the documentation`">{{ s.rule }}</span>
        <ul v-if="s.parts && s.parts.length > 1" class="plainlist parts">
          <li
            v-for="(p, i) in s.parts"
            :key="i"
            :style="{ paddingInlineStart: p.depth * 14 + 'px' }"
            :class="p.answer.replace(' ', '-')"
          >
            <span aria-hidden="true" class="mark">{{ marks[p.answer]?.[0] }}</span><span class="unseen"
              >{{ marks[p.answer]?.[1] }}: </span
            >{{ p.why }}
          </li>
        </ul></span
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
.failed > .mark,
.false > .mark {
  color: var(--alarm);
}
.waits > .mark,
.not-yet > .mark {
  color: var(--wait);
}
.parts {
  font-size: 13px;
  font-weight: 400;
}
.parts li {
  display: block;
}
.parts .mark {
  display: inline-block;
  width: 16px;
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
