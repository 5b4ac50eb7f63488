<script setup lang="ts">
// A stretch of time as a number of one unit, kept as an ISO 8601 duration.
import { computed } from 'vue'

/** `calendar` is for long times: it has months and years, and nothing below an hour. */
const props = defineProps<{ label: string; calendar?: boolean }>()
const span = defineModel<string | undefined>({ required: true })

/** How a number of each unit is written, as ISO 8601 has it, the longest first. */
const forms = {
  years: /^P(\d+)Y$/,
  months: /^P(\d+)M$/,
  weeks: /^P(\d+)W$/,
  days: /^P(\d+)D$/,
  hours: /^PT(\d+)H$/,
  minutes: /^PT(\d+)M$/,
  seconds: /^PT(\d+)S$/,
}
type Unit = keyof typeof forms
const all = Object.keys(forms) as Unit[]
const units = computed(() => (props.calendar ? all.slice(0, 5) : all.slice(2)))
/** What it is now; two hours where it is none, or more than one unit. */
const now = computed(() => {
  for (const unit of all) {
    const many = forms[unit].exec(span.value ?? '')?.[1]
    if (many) return { many: Number(many), unit }
  }
  return { many: 2, unit: 'hours' as Unit }
})
function put(many: number, unit: Unit) {
  const clock = all.indexOf(unit) > all.indexOf('days')
  span.value = `P${clock ? 'T' : ''}${Math.max(1, Math.round(many))}${unit[0]!.toUpperCase()}`
}
</script>

<template>
  <span class="period">
    <el-input-number
      :model-value="now.many"
      :min="1"
      :controls="false"
      :aria-label="`${label}, number`"
      @change="(n: number | undefined) => put(n ?? 1, now.unit)"
    />
    <el-select :model-value="now.unit" :aria-label="`${label}, unit`" @change="(u: Unit) => put(now.many, u)">
      <el-option v-for="u in units" :key="u" :value="u" :label="u" />
    </el-select>
  </span>
</template>

<style scoped>
.period {
  display: flex;
  gap: 6px;
  align-items: center;
}
.period .el-input-number {
  width: 100%;
}
</style>
