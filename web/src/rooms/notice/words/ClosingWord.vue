<script setup lang="ts">
// Whether visitors can close it, and how long it then stays away.
import { computed } from 'vue'
import type { Notice } from '../../../api/client'

type Memory = NonNullable<Notice['memory']>
const memory = defineModel<Memory>({ required: true })

const periods = [
  { value: 'page', label: 'until the next page' },
  { value: 'session', label: 'for the rest of the visit' },
  { value: 'PT1H', label: 'for an hour' },
  { value: 'PT12H', label: 'for 12 hours' },
  { value: 'P1D', label: 'for a day' },
  { value: 'P3D', label: 'for 3 days' },
  { value: 'P7D', label: 'for a week' },
  { value: 'P30D', label: 'for 30 days' },
  { value: 'P1Y', label: 'for a year' },
  { value: 'ever', label: 'for good' },
]
const closable = computed(() => memory.value.closable !== false)
const options = computed(() => {
  const own = memory.value.closed
  return !own || periods.some((p) => p.value === own) ? periods : [...periods, { value: own, label: own }]
})
function setClosable(on: string | number | boolean) {
  const next = { ...memory.value }
  if (on) delete next.closable
  else next.closable = false
  memory.value = next
}
</script>

<template>
  <div class="closing">
    <el-switch :model-value="closable" active-text="Visitors can close it" aria-label="Visitors can close it" @change="setClosable" />
    <p v-if="!closable" class="warn">
      It stands in the way of everyone on every visit. Use this only for what nobody must miss, and give it an end.
    </p>
    <label v-else>
      Closed, it stays away
      <el-select
        :model-value="memory.closed ?? 'page'"
        aria-label="How long it stays away"
        @change="(v: string) => (memory = { ...memory, closed: v })"
      >
        <el-option v-for="p in options" :key="p.value" :value="p.value" :label="p.label" />
      </el-select>
    </label>
    <p v-if="closable" class="quiet small">Each visitor’s own browser remembers it. You keep no record of them.</p>
  </div>
</template>

<style scoped>
.closing {
  display: grid;
  gap: 8px;
}
label {
  display: grid;
  gap: 2px;
  max-width: 260px;
}
p {
  margin: 0;
  max-width: 44ch;
}
.warn {
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
</style>
