<script setup lang="ts">
// When it is open: days of the week with times, a line each.
import type { Part } from '../../../api/client'

type Hours = NonNullable<Part['hours']>
const props = defineProps<{ hours: Hours }>()
const emit = defineEmits<{ hours: [h: Hours] }>()

const days = [...Array(7).keys()].map((d) =>
  new Intl.DateTimeFormat('en', { weekday: 'short', timeZone: 'UTC' }).format(Date.UTC(2024, 0, 1 + d)),
)
const change = (i: number, part: Partial<Hours[number]>) =>
  emit(
    'hours',
    props.hours.map((o, j) => (j === i ? { ...o, ...part } : o)),
  )
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <div v-for="(o, i) in hours" :key="i" class="hours">
    <el-checkbox-group
      :model-value="o.days"
      size="small"
      :aria-label="`Days of line ${i + 1}`"
      @change="(d) => d.length && change(i, { days: (d as number[]).sort() })"
    >
      <el-checkbox-button v-for="(d, k) in days" :key="k" :value="k + 1">{{ d }}</el-checkbox-button>
    </el-checkbox-group>
    <span class="times">
      <input
        type="time"
        :value="o.from"
        :aria-label="`Opens, line ${i + 1}`"
        @change="(e) => change(i, { from: value(e) })"
      />
      to
      <input
        type="time"
        :value="o.until"
        :aria-label="`Closes, line ${i + 1}`"
        @change="(e) => change(i, { until: value(e) })"
      />
      <el-button
        size="small"
        text
        :aria-label="`Remove line ${i + 1}`"
        @click="
          emit(
            'hours',
            hours.filter((_, j) => j !== i),
          )
        "
        >✕</el-button
      >
    </span>
  </div>
  <el-button size="small" @click="emit('hours', [...hours, { days: [6], from: '10:00', until: '13:00' }])"
    >Add a line</el-button
  >
</template>

<style scoped>
.hours {
  display: grid;
  gap: 4px;
  width: 100%;
}
.times {
  display: flex;
  gap: 6px;
  align-items: center;
}
.times input {
  padding: 2px 4px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
  font: 14px/1.4 var(--text);
}
</style>
