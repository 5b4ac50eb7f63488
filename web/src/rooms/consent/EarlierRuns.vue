<script setup lang="ts">
// Earlier inspections: each opens with all it found, and with what differs from the one before
// and from the one after.
import { ref } from 'vue'
import { api, type ConsentRoom, type Difference, type RunDetail } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { say } from '../../instruments/time'
import { kinds, lasting, useConsent } from './consent'
import { phases, seenIn } from './inventory'

defineProps<{ runs: ConsentRoom['runs']; zone: string }>()
const { site, setup } = useConsent()
const details = ref<Record<string, RunDetail>>({})

const open = (began: string, shown: boolean) =>
  shown && !details.value[began] && attempt(async () => void (details.value[began] = await api.run(site.value, began)))
const short = (r: ConsentRoom['runs'][number]) =>
  `${r.things} things on ${r.pages} pages` +
  `${r.how === 'http' ? ', read only' : ''}${r.stopped ? ', stopped before its end' : ''}`
const change = (d: Difference) => [d.before, d.now].filter(Boolean).join(' → ')
const purposeOf = (t: RunDetail['things'][number]) =>
  t.item < 0 ? 'not listed' : setup.value.inventory?.[t.item]?.purpose || 'for no purpose yet'
const sides = (d: RunDetail) => [
  { title: 'Unlike the one before', list: d.before },
  { title: 'Unlike the one after', list: d.after },
]
</script>

<template>
  <ul class="plainlist runs">
    <li v-for="r in runs" :key="r.began">
      <details @toggle="open(r.began, ($event.target as HTMLDetailsElement).open)">
        <summary>
          {{ say(r.began, zone) }} <span class="quiet">{{ short(r) }}</span><b v-if="r.leaks" class="leak"
            >, {{ r.leaks }} leaked</b
          >
        </summary>
        <template v-if="details[r.began]">
          <template v-for="s in sides(details[r.began]!)" :key="s.title">
            <h4 v-if="s.list.length">{{ s.title }}</h4>
            <ul v-if="s.list.length" class="plainlist">
              <li v-for="d in s.list" :key="d.what + d.kind + d.name + d.host">
                <b>{{ d.what }}</b> <code>{{ d.name }}</code> <span class="quiet">{{ change(d) }}</span>
              </li>
            </ul>
          </template>
          <h4>All it found</h4>
          <table v-if="details[r.began]!.things.length">
            <thead>
              <tr>
                <th scope="col">What</th>
                <th v-for="p in phases" :key="p.phase" scope="col">{{ p.name }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="t in details[r.began]!.things" :key="t.kind + t.name + t.host">
                <th scope="row">
                  <code>{{ t.name }}</code>
                  <span class="quiet">
                    {{ kinds[t.kind] }}, {{ lasting(t.lasts) || 'fetched' }}, {{ purposeOf(t) }}</span
                  >
                  <b v-if="t.leaks" class="leak"> leaked</b>
                </th>
                <td v-for="p in phases" :key="p.phase">{{ seenIn(t, p.phase)?.page ?? '' }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="quiet">Nothing.</p>
          <p class="quiet">Pages: {{ details[r.began]!.run.pages.join(', ') }}</p>
        </template>
      </details>
    </li>
  </ul>
</template>

<style scoped>
h4 {
  margin: 8px 0 2px;
  font-size: 13px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 3px 8px 3px 0;
  border-top: 1px solid var(--line);
  font-weight: 400;
  text-align: start;
  vertical-align: top;
  overflow-wrap: anywhere;
}
summary {
  cursor: pointer;
}
.leak {
  color: var(--alarm);
}
p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}
</style>
