<script setup lang="ts">
// What became of the questions, a bar for each day, place, language, device or
// version: shares of those asked, with the 95 % interval of the accepted.
import type { Trend } from '../../api/client'

defineProps<{ rows: Trend[]; name: (key: string) => string }>()
const parts = [
  { key: 'accepted', label: 'accepted all', pattern: '' },
  { key: 'chosen', label: 'chose some', pattern: 'dots' },
  { key: 'refused', label: 'refused all', pattern: 'lines' },
  { key: 'unanswered', label: 'no answer', pattern: 'bare' },
] as const
const percent = (n: number) => `${Math.round(100 * n)} %`
/** Where a part begins, 0 to 1. */
function before(t: Trend, i: number): number {
  return parts.slice(0, i).reduce((sum, p) => sum + t[p.key].of, 0)
}
</script>

<template>
  <figure>
    <svg width="0" height="0" aria-hidden="true" class="patterns">
      <pattern id="trend-dots" width="6" height="6" patternUnits="userSpaceOnUse">
        <circle cx="2" cy="2" r="1.4" class="mark" />
      </pattern>
      <pattern id="trend-lines" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0v6" class="stroke" />
      </pattern>
    </svg>
    <figcaption class="small">
      <span v-for="p in parts" :key="p.key" class="key"
        ><svg width="18" height="12" aria-hidden="true">
          <rect width="18" height="12" :class="p.key" />
          <rect v-if="p.pattern && p.pattern !== 'bare'" width="18" height="12" :fill="`url(#trend-${p.pattern})`" />
        </svg>
        {{ p.label }}</span
      >
      <span class="key"
        ><svg width="18" height="12" aria-hidden="true"><path d="M1 6h16M1 2v8M17 2v8" class="whisker" /></svg> where
        the accepted lie with 95 %</span
      >
    </figcaption>
    <ul class="plainlist" aria-hidden="true">
      <li v-for="t in rows" :key="t.key">
        <span class="label small figures">{{ name(t.key) }}</span>
        <svg class="bar" viewBox="0 0 1000 20" preserveAspectRatio="none">
          <template v-for="(p, i) in parts" :key="p.key">
            <rect :x="1000 * before(t, i)" y="2" :width="1000 * t[p.key].of" height="16" :class="p.key" />
            <rect
              v-if="p.pattern && p.pattern !== 'bare'"
              :x="1000 * before(t, i)"
              y="2"
              :width="1000 * t[p.key].of"
              height="16"
              :fill="`url(#trend-${p.pattern})`"
            />
          </template>
          <path
            :d="
              `M${1000 * t.accepted.low} 10H${1000 * t.accepted.high}M${1000 * t.accepted.low} ` +
              `5v10M${1000 * t.accepted.high} 5v10`
            "
            class="whisker halo"
          />
          <path
            :d="
              `M${1000 * t.accepted.low} 10H${1000 * t.accepted.high}M${1000 * t.accepted.low} ` +
              `5v10M${1000 * t.accepted.high} 5v10`
            "
            class="whisker"
          />
        </svg>
        <span class="small figures n">{{ t.asked }}</span>
      </li>
    </ul>
    <details>
      <summary>As a table</summary>
      <div class="scroll" tabindex="0" role="region" aria-label="What became of the questions, as a table">
        <table>
          <thead>
            <tr>
              <th scope="col"></th>
              <th scope="col">Asked</th>
              <th v-for="p in parts" :key="p.key" scope="col">{{ p.label }}, count, share and 95 % interval</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="t in rows" :key="t.key">
              <th scope="row">{{ name(t.key) }}</th>
              <td class="figures">{{ t.asked }}</td>
              <td v-for="p in parts" :key="p.key" class="figures">
                {{ t[p.key].n }}, {{ percent(t[p.key].of) }}
                <span class="quiet">({{ percent(t[p.key].low) }} to {{ percent(t[p.key].high) }})</span>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </details>
  </figure>
</template>

<style scoped>
figure {
  margin: 6px 0 0;
}
.patterns {
  position: absolute;
}
.key {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  margin-inline-end: 14px;
}
li {
  display: grid;
  grid-template-columns: minmax(76px, 130px) 1fr 40px;
  gap: 8px;
  align-items: center;
}
.label {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.n {
  text-align: end;
}
.bar {
  width: 100%;
  height: 18px;
}
.accepted {
  fill: var(--sea);
}
.chosen {
  fill: color-mix(in srgb, var(--sea) 30%, var(--sail));
}
.refused {
  fill: var(--chart);
  stroke: var(--ink-2);
  stroke-width: 0.5;
}
.unanswered {
  fill: var(--sail);
  stroke: var(--line);
  stroke-width: 1;
}
.mark {
  fill: var(--ink);
}
.stroke {
  stroke: var(--ink-2);
  stroke-width: 2;
}
.whisker {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.halo {
  stroke: var(--sail);
  stroke-width: 5;
}
summary {
  margin-top: 6px;
  color: var(--sea);
  cursor: pointer;
}
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  font-size: 12px;
}
th,
td {
  padding: 3px 14px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: start;
  white-space: nowrap;
}
thead th {
  max-width: 130px;
  color: var(--ink-2);
  font-weight: 600;
  white-space: normal;
}
</style>
