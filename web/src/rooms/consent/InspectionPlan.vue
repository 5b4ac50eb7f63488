<script setup lang="ts">
// When the site is inspected by itself.
import { computed } from 'vue'
import { local } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { useConsent } from './consent'

const { setup, detail, save } = useConsent()
const { view } = useViewpoint()
const now = computed(() => local(view.value?.now ?? new Date().toISOString(), detail.value!.site.timeZone))
const plan = computed(() => setup.value.inspect)
const choices = {
  never: 'never by itself',
  DAILY: 'every night at 03:00',
  WEEKLY: 'every week at 03:00',
  MONTHLY: 'every month at 03:00',
}
const chosen = computed(
  () => /^FREQ=(DAILY|WEEKLY|MONTHLY)$/.exec(plan.value?.rule ?? '')?.[1] ?? (plan.value ? 'own' : 'never'),
)
function choose(freq: string) {
  const day = now.value.slice(0, 10)
  const next = { ...setup.value }
  if (freq === 'never') delete next.inspect
  else next.inspect = { from: `${day}T03:00`, until: `${day}T05:00`, rule: `FREQ=${freq}` }
  void save(next)
}
</script>

<template>
  <label class="plan small"
    >It is inspected
    <el-select :model-value="chosen" size="small" aria-label="It is inspected" @change="choose">
      <el-option v-for="(label, k) in choices" :key="k" :value="k" :label="label" />
      <el-option v-if="chosen === 'own'" value="own" label="by a rule of its own" />
    </el-select>
  </label>
</template>

<style scoped>
.plan {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 12px;
}
.plan .el-select {
  width: 190px;
}
</style>
