<script setup lang="ts">
// A time chosen from a few that are usual, or any other, typed.
import { computed, ref } from 'vue'
import PeriodField from './PeriodField.vue'

const props = defineProps<{ label: string; usual: { value: string; label: string }[] }>()
const span = defineModel<string>({ required: true })
/** Another is wanted, though one that is usual stands there still. */
const other = ref(false)
const typed = computed(() => other.value || !props.usual.some((p) => p.value === span.value))
function choose(value: string) {
  other.value = value === 'other'
  if (!other.value) span.value = value
  else if (!span.value.startsWith('P')) span.value = 'P30D'
}
</script>

<template>
  <span class="choice">
    <el-select :model-value="typed ? 'other' : span" :aria-label="label" @change="choose">
      <el-option v-for="p in usual" :key="p.value" :value="p.value" :label="p.label" />
      <el-option value="other" label="another time…" />
    </el-select>
    <PeriodField v-if="typed" v-model="span" :label="label" calendar />
  </span>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 4px;
}
</style>
