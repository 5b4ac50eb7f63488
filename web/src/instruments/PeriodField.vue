<script setup lang="ts">
// A stretch of time as a number of one unit, kept as an ISO 8601 duration.
import { computed } from 'vue'

defineProps<{ label: string }>()
const span = defineModel<string | undefined>({ required: true })

const letters = { weeks: 'W', days: 'D', hours: 'H', minutes: 'M', seconds: 'S' } as const
type Unit = keyof typeof letters
const units = Object.keys(letters) as Unit[]
/** What it is now; two hours where it is none, or more than one unit. */
const now = computed(() => {
  const found = /^P(?:(\d+)W|(\d+)D|T(\d+)H|T(\d+)M|T(\d+)S)$/.exec(span.value ?? '')
  const i = found ? found.slice(1).findIndex(Boolean) : -1
  return i < 0 ? { many: 2, unit: 'hours' as Unit } : { many: Number(found![i + 1]), unit: units[i]! }
})
function put(many: number, unit: Unit) {
  span.value = (unit === 'weeks' || unit === 'days' ? 'P' : 'PT') + Math.max(1, many) + letters[unit]
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
