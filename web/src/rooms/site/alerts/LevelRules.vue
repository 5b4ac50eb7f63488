<script setup lang="ts">
// Which level a message gets by its severity, urgency and certainty: rules read
// from the top, the first that fits decides.
import { computed } from 'vue'
import type { LevelRule } from '../../../api/client'

const rules = defineModel<LevelRule[] | undefined>({ required: true })
const props = defineProps<{ defaults: LevelRule[] }>()

const values = {
  severity: ['Extreme', 'Severe', 'Moderate', 'Minor', 'Unknown'],
  urgency: ['Immediate', 'Expected', 'Future', 'Past', 'Unknown'],
  certainty: ['Observed', 'Likely', 'Possible', 'Unlikely', 'Unknown'],
} as const
type Name = keyof typeof values
const names = Object.keys(values) as Name[]
const list = computed(() => rules.value ?? props.defaults)
function put(i: number, part: Partial<LevelRule>) {
  rules.value = list.value.map((r, j) => {
    if (j !== i) return r
    const next = { ...r, ...part }
    for (const n of names) if (!next[n]?.length) delete next[n]
    return next
  })
}
/** A rule as it is read. */
const sentence = (r: LevelRule) =>
  names
    .map((n) =>
      r[n]?.length
        ? new Intl.ListFormat('en', { type: 'disjunction' }).format(r[n]!.map((v) => v.toLowerCase()))
        : `any ${n}`,
    )
    .join('; ')
    .replace(/^./, (c) => c.toUpperCase()) + `: ${r.level}.`
function move(i: number) {
  const next = [...list.value]
  next.splice(i - 1, 0, ...next.splice(i, 1))
  rules.value = next
}
</script>

<template>
  <div class="rules">
    <div v-for="(r, i) in list" :key="i" class="rule">
      <p class="says">{{ sentence(r) }}</p>
      <label v-for="n in names" :key="n" class="small"
        >{{ n }}
        <el-select
          :model-value="r[n] ?? []"
          multiple
          collapse-tags
          collapse-tags-tooltip
          placeholder="any"
          size="small"
          :aria-label="`${n} of rule ${i + 1}`"
          @change="(v: string[]) => put(i, { [n]: v })"
        >
          <el-option v-for="v in values[n]" :key="v" :value="v" :label="v.toLowerCase()" />
        </el-select>
      </label>
      <label class="small"
        >is shown as
        <el-select
          :model-value="r.level"
          size="small"
          :aria-label="`Level of rule ${i + 1}`"
          @change="(v: LevelRule['level']) => put(i, { level: v })"
        >
          <el-option value="emergency" label="emergency" />
          <el-option value="warning" label="warning" />
          <el-option value="information" label="information" />
        </el-select>
      </label>
      <span class="acts">
        <el-button v-if="i > 0" text size="small" :aria-label="`Move rule ${i + 1} up`" title="Up" @click="move(i)"
          >↑</el-button
        >
        <el-button
          text
          size="small"
          :aria-label="`Remove rule ${i + 1}`"
          title="Remove"
          @click="rules = list.filter((_, j) => j !== i)"
          >✕</el-button
        >
      </span>
    </div>
    <p class="quiet small">What fits no rule is shown as information.</p>
    <el-button size="small" @click="rules = [...list, { level: 'warning' }]">Add a rule</el-button>
    <el-button v-if="rules" size="small" text @click="rules = undefined">As it was at first</el-button>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.rule {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr)) auto;
  gap: 8px;
  align-items: end;
  width: 100%;
}
label {
  display: grid;
  gap: 2px;
  color: var(--ink-2);
}
.says {
  grid-column: 1 / -1;
  color: var(--ink);
}
.acts .el-button {
  margin: 0;
}
p {
  margin: 0;
}
@media (max-width: 640px) {
  .rule {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
</style>
