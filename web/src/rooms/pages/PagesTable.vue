<script setup lang="ts">
// Pages by notices, to compare; and the same for a spreadsheet.
import { computed, ref, watch } from 'vue'
import { api, type Moment, type Table } from '../../api/client'
import { reason } from '../../instruments/attempts'
import { saveBlob } from '../../instruments/file'
import { latest } from '../../instruments/latest'
import { tell } from '../../instruments/tell'

const props = defineProps<{ site: string; moment: Moment; shown: Set<string> }>()
const table = ref<Table>()
watch(
  () => [props.site, props.moment],
  latest(
    () => api.table(props.site, { ...props.moment, page: undefined }),
    (t) => (table.value = t),
    (e) => tell(reason(e), 'error'),
  ),
  { immediate: true },
)
/** More rows than these make a screen slow. */
const most = 200
const rows = computed(() => (table.value?.rows ?? []).filter((r) => props.shown.has(r.path)))
const signs: Record<string, string> = { shows: '●', waits: '◐', held: '▨', soon: '○', '': '' }
const words: Record<string, string> = {
  shows: 'shows',
  waits: 'waits for what a visitor does',
  held: 'held back: no room',
  soon: 'not now, within 30 days perhaps',
}
const save = async () => {
  const query = Object.entries({ ...props.moment, page: undefined }).filter(([, value]) => value)
  try {
    const file = await api.file(
      `/api/sites/${props.site}/table.csv?${new URLSearchParams(query as [string, string][])}`,
    )
    saveBlob(`${props.site}-pages.csv`, file)
  } catch (e) {
    tell(reason(e), 'error')
  }
}
</script>

<template>
  <div v-if="table">
    <div class="key small">
      <span v-for="(w, k) in words" :key="k"
        ><b :class="k">{{ signs[k] }}</b> {{ w }}</span
      >
      <el-button size="small" @click="save">Save as CSV</el-button>
    </div>
    <div class="scroll" tabindex="0" role="region" aria-label="Pages by notices">
      <table>
        <thead>
          <tr>
            <th scope="col">Page</th>
            <th v-for="(t, i) in table.titles" :key="table.notices[i]" scope="col">
              <router-link :to="{ name: 'notice', params: { site, notice: table.notices[i] } }">{{ t }}</router-link>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows.slice(0, most)" :key="r.path">
            <th scope="row">
              {{ r.path }} <span class="quiet small">{{ r.title }}</span>
            </th>
            <td
              v-for="(c, i) in table.sets[r.set]"
              :key="i"
              :class="c"
              :title="c && `${table.titles[i]} on ${r.path}: ${words[c]}`"
            >
              <span aria-hidden="true">{{ signs[c] }}</span><span class="unseen">{{ c || 'nothing' }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="table.more" class="quiet small">
      Notices in the table: the {{ table.notices.length }} that come first. {{ table.more }} more have no column.
    </p>
    <p v-if="rows.length > most" class="quiet small">
      And {{ rows.length - most }} pages more: narrow them down, or save the table.
    </p>
  </div>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  margin-bottom: 8px;
}
.scroll {
  overflow: auto;
  width: fit-content;
  max-width: 100%;
  max-height: 70vh;
  border: 1px solid var(--line);
}
table {
  border-collapse: collapse;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  max-width: 120px;
  padding: 6px 8px;
  background: var(--chart);
  font: 600 12px/1.25 var(--head);
  text-align: start;
  vertical-align: bottom;
}
tbody th {
  padding: 3px 8px;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  text-align: start;
  white-space: nowrap;
}
td {
  border-bottom: 1px solid var(--line);
  border-inline-start: 1px solid var(--line);
  text-align: center;
}
.shows {
  color: var(--live);
}
.waits,
.soon {
  color: var(--wait);
}
.held {
  color: var(--alarm);
}
</style>
