<script setup lang="ts">
// Whether a notice's goal was reached because of it: its groups side by side, each share with the
// range in which it may lie, one sentence, and how many visitors it takes.
import { computed } from 'vue'
import type { ExperimentResults } from '../../api/client'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { figure, percent } from './figures'

const props = defineProps<{ results: ExperimentResults }>()
const { view } = useViewpoint()
/** The end of the scale on which ranges are drawn. */
const most = computed(() => Math.max(0.01, ...props.results.groups.map((g) => g.high ?? 0)))
const at = (share: number) => `${(100 * share) / most.value}%`
const points = (d: number) => `${d > 0 ? '+' : d < 0 ? '−' : ''}${Math.abs(100 * d).toFixed(1)}`
const ranges =
  'The first range holds for one look at a time that was fixed beforehand, the second whenever one looks. ' +
  'Only the second decides.'
const compared = computed(() => props.results.groups.length > 1)
</script>

<template>
  <section class="experiment" aria-label="The goal">
    <h3>Its goal: that visitors {{ results.goal }}</h3>
    <p v-if="results.verdict" class="verdict">{{ results.verdict }}</p>
    <table>
      <thead>
        <tr>
          <th scope="col"><span class="unseen">Group</span></th>
          <th scope="col">visitors</th>
          <th scope="col">reached it</th>
          <th scope="col">share</th>
          <th scope="col" class="scale">0 to {{ percent(most) }}</th>
          <th v-if="compared" scope="col">against “{{ results.groups[0]!.name }}”</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in results.groups" :key="g.variant">
          <th scope="row">{{ g.name }}</th>
          <td>{{ figure(g.visitors) }}</td>
          <td>{{ figure(g.reached) }}</td>
          <td>
            <template v-if="g.share != null">{{ percent(g.share) }}</template>
            <span v-else class="quiet">too few to say</span>
          </td>
          <td class="scale">
            <span
              v-if="g.share != null"
              class="range"
              role="img"
              :aria-label="`between ${percent(g.low!)} and ${percent(g.high!)}`"
              :title="`between ${percent(g.low!)} and ${percent(g.high!)}`"
            >
              <i :style="{ left: at(g.low!), width: at(g.high! - g.low!) }" /><b :style="{ left: at(g.share) }" />
            </span>
          </td>
          <td v-if="compared">
            <template v-if="g.difference"
              >{{ points(g.difference.share) }} points
              <span class="quiet small" :title="ranges"
                >{{ points(g.difference.low) }} to {{ points(g.difference.high) }}; whenever one looks
                {{ points(g.difference.always.low) }} to {{ points(g.difference.always.high) }}</span
              ></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p class="quiet small">
      Counted since it was published as it is<template v-if="view">, {{ say(results.since, view.zone) }}</template
      >; about {{ results.daily < 10 ? results.daily.toFixed(1) : figure(Math.round(results.daily)) }} visitors meet it
      a day. Visitors are counted where that may be remembered in their browser; none of it is about one of them.
    </p>
    <details v-if="results.plans.length" class="small">
      <summary>How many visitors does it take?</summary>
      <ul>
        <li v-for="p in results.plans" :key="p.points">
          To find a difference of {{ p.points }} {{ p.points === 1 ? 'point' : 'points' }}, with a chance of 80 %:
          {{ figure(p.once) }} visitors for one look at the end, {{ figure(p.daily) }} where one looks every
          day<template v-if="p.days"
            >, which takes {{ figure(p.days) }} {{ p.days === 1 ? 'day' : 'days' }} at the present number</template
          >.
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
.experiment {
  margin: 0 0 12px;
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
  overflow-x: auto;
}
h3,
.verdict {
  margin: 0 0 6px;
}
.verdict {
  font-weight: 600;
}
table {
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
th,
td {
  padding: 3px 14px 3px 0;
  text-align: start;
  font-weight: 400;
  white-space: nowrap;
}
thead th {
  color: var(--ink-2);
}
tbody th {
  font-weight: 600;
}
.scale {
  min-width: 180px;
}
.range {
  position: relative;
  display: block;
  height: 14px;
  border-bottom: 1px solid var(--line);
}
.range i {
  position: absolute;
  top: 4px;
  height: 6px;
  background: color-mix(in srgb, var(--sea) 30%, transparent);
}
.range b {
  position: absolute;
  top: 1px;
  width: 2px;
  height: 12px;
  background: var(--sea);
}
p {
  margin: 6px 0 0;
}
ul {
  margin: 4px 0 0;
  padding-inline-start: 18px;
}
</style>
