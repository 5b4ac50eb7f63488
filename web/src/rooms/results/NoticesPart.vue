<script setup lang="ts">
// What was seen and done of each notice in the days that are looked at; one of them in full.
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type NoticeResults, type ResultQuery, type SiteResults } from '../../api/client'
import { reason, useAttempts } from '../../instruments/attempts'
import Emblem from '../../instruments/Emblem.vue'
import { saveBlob } from '../../instruments/file'
import { latest } from '../../instruments/latest'
import { useViewpoint } from '../../instruments/viewpoint'
import NoticeResult from './NoticeResult.vue'
import { figure } from './figures'

const DaysChart = defineAsyncComponent(() => import('./DaysChart.vue'))
const { site } = useViewpoint()
const { error, busy, attempt } = useAttempts()
const route = useRoute()
const router = useRouter()
const all = ref<SiteResults>()
const one = ref<NoticeResults>()
const days = ref<[string, string] | null>(null)
const by = ref<NonNullable<ResultQuery['by']>>('page')
const chosen = computed(() => (typeof route.query.notice === 'string' ? route.query.notice : ''))
const range = computed<ResultQuery>(() => (days.value ? { from: days.value[0], until: days.value[1] } : {}))

const load = latest(
  () => api.results(site.value, range.value),
  (r) => (all.value = r),
  (e) => (error.value = reason(e)),
)
const loadOne = latest(
  async () =>
    chosen.value ? api.noticeResults(site.value, chosen.value, { ...range.value, by: by.value }) : undefined,
  (r) => (one.value = r),
  (e) => (error.value = reason(e)),
)
watch(range, () => attempt('all', async () => void (await load())), { immediate: true })
watch([range, chosen, by], () => attempt('one', async () => void (await loadOne())), { immediate: true })

/** Opens a notice's results, or closes them. */
const choose = (id: string) =>
  router.replace({ query: { ...route.query, notice: chosen.value === id ? undefined : id } })
/** All notices together, as the chart of their days takes it. */
const together = computed(() => {
  const { from, until, strip, days, all: sum } = all.value!
  return {
    from,
    until,
    strip,
    days,
    all: sum,
    deeds: [],
    aside: 0,
    says: `All notices together were seen ${figure(sum.seen)} times.`,
  }
})
const most = computed(() => Math.max(1, ...(all.value?.notices ?? []).map((n) => n.all.seen)))
const exportAll = () =>
  attempt('csv', async () =>
    saveBlob(
      `${site.value}-results.csv`,
      await api.file(
        `/api/sites/${site.value}/results.csv?${new URLSearchParams(range.value as Record<string, string>)}`,
      ),
    ),
  )
/** Ready choices of days, as the calendar offers them. */
const shortcuts = [
  ['the last 7 days', 6],
  ['the last 30 days', 29],
  ['the last 90 days', 89],
  ['the last year', 364],
].map(([text, back]) => ({
  text: text as string,
  value: () => {
    const until = all.value ? new Date(`${all.value.until}T12:00`) : new Date()
    const from = new Date(until)
    from.setDate(from.getDate() - (back as number))
    return [from, until]
  },
}))
</script>

<template>
  <section aria-labelledby="notices">
    <div class="head">
      <h2 id="notices">Notices</h2>
      <el-date-picker
        v-model="days"
        type="daterange"
        value-format="YYYY-MM-DD"
        :start-placeholder="all?.from ?? 'from'"
        :end-placeholder="all?.until ?? 'until'"
        aria-label="Days"
        :shortcuts="shortcuts"
        unlink-panels
      />
      <el-button size="small" :disabled="!all?.notices.length" :loading="busy === 'csv'" @click="exportAll"
        >CSV</el-button
      >
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <p v-if="all && !all.notices.length" class="empty">
      Nothing was counted in these days. A notice counts as seen once half of it was in a visitor’s window for a second.
      Nothing is kept about any one person.
    </p>
    <DaysChart v-if="all?.notices.length && !chosen" :result="together" />
    <ul v-if="all" class="notices">
      <li v-for="n in all.notices" :key="n.id" :class="{ chosen: n.id === chosen }">
        <button type="button" class="row" :aria-expanded="n.id === chosen" @click="choose(n.id)">
          <Emblem v-if="n.kind" :kind="n.kind" :edge="n.slot" colour="var(--sea)" />
          <span class="title">{{ n.title }}</span>
          <span class="seen"
            ><i :style="{ width: `${(100 * n.all.seen) / most}%` }" /><b>{{ figure(n.all.seen) }}</b
            ><span class="unseen"> times seen</span></span
          >
          <span v-if="n.id !== chosen" class="says quiet small">{{ n.says }}</span>
        </button>
        <NoticeResult
          v-if="n.id === chosen && one?.id === n.id"
          v-model:by="by"
          :result="one"
          :others="all.notices.filter((o) => o.id !== n.id)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 28px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
  margin-bottom: 8px;
}
.head h2 {
  margin: 0;
  margin-inline-end: auto;
}
.head :deep(.el-date-editor) {
  flex: 0 1 300px;
}
.notices {
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--line);
  list-style: none;
}
.notices > li {
  border-bottom: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: 28px minmax(160px, 1fr) 140px minmax(0, 2fr);
  align-items: center;
  gap: 4px 12px;
  width: 100%;
  min-height: 40px;
  padding: 6px 8px;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: start;
  cursor: pointer;
}
.row:hover,
.chosen > .row {
  background: var(--chart);
}
.title {
  font-weight: 600;
}
.seen {
  position: relative;
  display: block;
  height: 22px;
  padding-inline-start: 4px;
  font-variant-numeric: tabular-nums;
}
.seen i {
  position: absolute;
  inset-block: 2px;
  inset-inline-start: 0;
  min-width: 1px;
  background: color-mix(in srgb, var(--sea) 22%, transparent);
}
.seen b {
  position: relative;
  font-weight: 500;
}
.empty {
  max-width: 70ch;
}
@media (max-width: 700px) {
  .row {
    grid-template-columns: 28px 1fr 80px;
  }
  .says {
    grid-column: 2 / -1;
  }
}
</style>
