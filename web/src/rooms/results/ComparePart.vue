<script setup lang="ts">
// What came of a notice beside what came of it in other days, or of another notice in the same days.
import { computed, ref, watch } from 'vue'
import { api, type NoticeResults, type ResultQuery, type SiteResults, type Tally } from '../../api/client'
import { reason, useAttempts } from '../../instruments/attempts'
import { latest } from '../../instruments/latest'
import { useViewpoint } from '../../instruments/viewpoint'
import TallyTable from './TallyTable.vue'
import { happened } from './figures'

const props = defineProps<{ result: NoticeResults; others: SiteResults['notices'] }>()
const { site } = useViewpoint()
const { error, attempt } = useAttempts()
const beside = ref('')
const other = ref<NoticeResults>()

const moved = (day: string, how: (d: Date) => void) => {
  const d = new Date(`${day}T12:00Z`)
  how(d)
  return d.toISOString().slice(0, 10)
}
const length = computed(
  () => (Date.parse(`${props.result.until}T12:00Z`) - Date.parse(`${props.result.from}T12:00Z`)) / 864e5 + 1,
)
/** The days of a choice: as many before these, or the same a year before. */
function daysOf(choice: string): ResultQuery {
  const { from, until } = props.result
  const back = (d: Date) =>
    choice === 'before' ? d.setUTCDate(d.getUTCDate() - length.value) : d.setUTCFullYear(d.getUTCFullYear() - 1)
  return { from: moved(from, back), until: moved(until, back) }
}
const load = latest(
  async () => {
    if (!beside.value) return undefined
    if (beside.value === 'before' || beside.value === 'year')
      return api.noticeResults(site.value, props.result.id, daysOf(beside.value))
    return api.noticeResults(site.value, beside.value, { from: props.result.from, until: props.result.until })
  },
  (r) => (other.value = r),
  (e) => (error.value = reason(e)),
)
watch([beside, () => props.result], () => attempt('beside', async () => void (await load())))

const named = (r: NoticeResults): Tally & { name: string } => ({
  ...r.all,
  key: `${r.id} ${r.from}`,
  name: `${r.id === props.result.id ? '' : `${r.title}, `}${r.from} to ${r.until}`,
})
const rows = computed(() => (other.value ? [named(props.result), named(other.value)] : []))
</script>

<template>
  <div class="head">
    <h3>Beside</h3>
    <el-select
      v-model="beside"
      :empty-values="[null, undefined]"
      filterable
      persistent
      aria-label="What it is compared with"
    >
      <el-option value="" label="nothing" />
      <el-option value="before" :label="length === 1 ? 'the day before' : `the ${length} days before`" />
      <el-option value="year" label="the same days a year before" />
      <el-option v-for="n in others" :key="n.id" :value="n.id" :label="`“${n.title}” in the same days`" />
    </el-select>
  </div>
  <p v-if="error" class="error" role="alert">{{ error }}</p>
  <TallyTable v-if="rows.length" of="Days" :rows="rows" :columns="happened(rows)" />
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 14px;
}
.head :deep(.el-select) {
  width: 300px;
}
h3 {
  margin: 0;
}
</style>
