<script setup lang="ts">
// When the site is inspected by itself, and how many of its pages are visited.
import { computed } from 'vue'
import { local } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { useConsent } from './consent'

const { room, setup, detail, save } = useConsent()
const { view } = useViewpoint()
const now = computed(() => local(view.value?.now ?? new Date().toISOString(), detail.value!.site.timeZone))
const plan = computed(() => setup.value.inspect)
const choices = {
  never: 'never by itself',
  DAILY: 'every day',
  WEEKLY: 'every week, from today on',
  MONTHLY: 'every month, from today on',
}
const chosen = computed(
  () => /^FREQ=(DAILY|WEEKLY|MONTHLY)$/.exec(plan.value?.rule ?? '')?.[1] ?? (plan.value ? 'own' : 'never'),
)
/** The hour at which it begins; it may begin for two hours. */
const hour = computed(() => plan.value?.from?.slice(11, 16) ?? '03:00')
function put(freq: string, at: string) {
  const next = { ...setup.value }
  if (freq === 'never') delete next.inspect
  else {
    const from = `${plan.value?.from?.slice(0, 10) ?? now.value.slice(0, 10)}T${at}`
    const until = new Date(Date.parse(`${from}Z`) + 2 * 3_600_000).toISOString().slice(0, 16)
    next.inspect = { from, until, rule: `FREQ=${freq}` }
  }
  void save(next)
}
const setPages = (n: number | undefined) => save({ ...setup.value, inspectPages: n })
</script>

<template>
  <div class="plan small">
    <label
      >Pages visited
      <el-input-number
        :model-value="room!.mostPages"
        :min="1"
        :max="2000"
        size="small"
        controls-position="right"
        aria-label="Pages visited in an inspection"
        @change="setPages"
      />
      <span class="quiet">of {{ detail!.pages.length }}</span>
    </label>
    <label
      >Inspected
      <el-select
        :model-value="chosen"
        size="small"
        aria-label="It is inspected"
        @change="(freq: string) => put(freq, hour)"
      >
        <el-option v-for="(label, k) in choices" :key="k" :value="k" :label="label" />
        <el-option v-if="chosen === 'own'" value="own" label="by a rule of its own" />
      </el-select>
    </label>
    <label v-if="chosen !== 'never' && chosen !== 'own'"
      >at
      <el-time-picker
        :model-value="hour"
        format="HH:mm"
        value-format="HH:mm"
        :clearable="false"
        size="small"
        aria-label="The hour at which it is inspected"
        @change="(at: string) => put(chosen, at)"
      />
    </label>
  </div>
</template>

<style scoped>
.plan {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin-top: 12px;
}
.plan label {
  display: flex;
  gap: 8px;
  align-items: center;
}
.plan .el-select {
  width: 190px;
}
.plan .el-input-number {
  width: 100px;
}
.plan :deep(.el-date-editor) {
  width: 100px;
}
</style>
