<script setup lang="ts">
// Sums side by side, each act with its share of those who saw the notice, where there are enough.
import type { Tally } from '../../api/client'
import { figure, percent, type acts } from './figures'

defineProps<{
  /** What the rows are. */
  of: string
  rows: (Tally & { name: string })[]
  columns: (typeof acts)[number][]
}>()
const shareOf = (t: Tally, act: string) => t.shares?.[act as keyof NonNullable<Tally['shares']>]
const rangeOf = (t: Tally, act: string) => {
  const { low, high } = shareOf(t, act)!
  return low === undefined ? undefined : `${percent(low)} to ${percent(high!)}`
}
</script>

<template>
  <div class="wide">
    <table>
      <thead>
        <tr>
          <th scope="col" class="of">{{ of }}</th>
          <th scope="col">seen</th>
          <th scope="col">visitors</th>
          <th v-for="c in columns" :key="c.act" scope="col">{{ c.says }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in rows" :key="t.key">
          <th scope="row">{{ t.name }}</th>
          <td>{{ figure(t.seen) }}</td>
          <td>{{ figure(t.visitors) }}</td>
          <td v-for="c in columns" :key="c.act">
            {{ figure(t[c.act]) }}
            <span v-if="shareOf(t, c.act)" class="quiet" :title="rangeOf(t, c.act)">{{
              percent(shareOf(t, c.act)!.of)
            }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
.of {
  text-transform: capitalize;
}
th,
td {
  padding: 3px 14px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: end;
  white-space: nowrap;
}
thead th {
  color: var(--ink-2);
  font-weight: 500;
}
th:first-child {
  max-width: 40ch;
  overflow: hidden;
  font-weight: 400;
  text-align: start;
  text-overflow: ellipsis;
}
</style>
