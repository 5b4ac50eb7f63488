<script setup lang="ts">
// A period of whole days: one of the usual ones, or any, by its first and last day.
import { computed } from 'vue'

export interface Days {
  from: string
  to: string
}
/** `today` is the day on the site's clock; `usual` are periods that end today, by how many days they have. */
const props = defineProps<{ label: string; today: string }>()
const days = defineModel<Days>({ required: true })

const back = (n: number) => new Date(Date.parse(`${props.today}T12:00:00Z`) - n * 86_400_000).toISOString().slice(0, 10)
const usual = [
  { n: 7, label: '7 days' },
  { n: 30, label: '30 days' },
  { n: 90, label: '90 days' },
  { n: 365, label: 'a year' },
]
const chosen = computed(
  () => usual.find((u) => days.value.to === props.today && days.value.from === back(u.n - 1))?.n ?? 0,
)
const range = computed({
  get: () => [days.value.from, days.value.to],
  set: (v: string[] | null) => v && (days.value = { from: v[0]!, to: v[1]! }),
})
</script>

<template>
  <span class="period">
    <el-radio-group
      :model-value="chosen"
      size="small"
      :aria-label="label"
      @change="(n) => (days = { from: back(Number(n) - 1), to: today })"
    >
      <el-radio-button v-for="u in usual" :key="u.n" :value="u.n">{{ u.label }}</el-radio-button>
    </el-radio-group>
    <el-date-picker
      v-model="range"
      type="daterange"
      size="small"
      format="D MMM YYYY"
      value-format="YYYY-MM-DD"
      range-separator="to"
      :clearable="false"
      :aria-label="`${label}: any days`"
    />
  </span>
</template>

<style scoped>
.period {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.period :deep(.el-date-editor) {
  width: 230px;
  flex-grow: 0;
}
</style>
