<script setup lang="ts">
// Whether visitors can close it and how long it then stays away, and how often
// they are shown it.
import { computed } from 'vue'
import type { Notice } from '../../../api/client'
import OptionField from '../../../instruments/OptionField.vue'
import { withOwn } from '../../../instruments/options'

type Memory = NonNullable<Notice['memory']>
/**
 * A consent notice has a cross, if anything, and cannot be folded away; what stands over the page, `over`, can always
 * be closed.
 */
const props = defineProps<{ level?: Notice['level']; kind: Notice['kind']; over?: boolean }>()
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
const outside = computed(() => !!props.over && props.kind !== 'consent' && props.kind !== 'disclaimer')
const always = computed(() => outside.value && !memory.value.foldable)
const closable = computed(() => always.value || memory.value.closable !== false)
const itself = [
  { value: '', label: 'not' },
  { value: 'PT20S', label: 'after 20 seconds' },
  { value: 'PT30S', label: 'after 30 seconds' },
  { value: 'PT1M', label: 'after a minute' },
  { value: 'PT5M', label: 'after 5 minutes' },
]
const options = computed(() => withOwn(periods, memory.value.closed))
const limits = computed(() => memory.value.limits ?? [])
const perPeriods = [
  { value: 'session', label: 'a visit' },
  { value: 'P1D', label: 'a day' },
  { value: 'P7D', label: 'a week' },
  { value: 'P30D', label: '30 days' },
  { value: 'P1Y', label: 'a year' },
]
function setLimits(list: NonNullable<Memory['limits']>) {
  setPart('limits', list.length ? list : undefined)
}
/** Sets a part of the memory; undefined leaves it out. */
function setPart<K extends keyof Memory>(key: K, v: Memory[K] | undefined) {
  const next: Memory = { ...memory.value, [key]: v }
  if (v === undefined) delete next[key]
  memory.value = next
}
const closeWith = computed<NonNullable<Memory['closeWith']>>({
  get: () => memory.value.closeWith ?? 'cross',
  set: (v) => setPart('closeWith', v === 'cross' ? undefined : v),
})
const closers = [
  { value: 'cross' as const, label: 'a cross' },
  { value: 'button' as const, label: 'a button with words' },
  { value: 'both' as const, label: 'a cross, and a button with words' },
]
function setClicked(v: string) {
  setPart('clicked', v || undefined)
}
function setClosable(on: string | number | boolean) {
  setPart('closable', on ? undefined : false)
}
</script>

<template>
  <div class="closing">
    <p v-if="level === 'emergency'" class="warn">
      It is an emergency: closed, it is back on the next page, and how often it was shown does not hold it back.
    </p>
    <p v-if="always" class="quiet small">
      It stands over the page: visitors can always close it, by its cross or button and by Escape.
    </p>
    <el-switch
      v-else
      :model-value="closable"
      active-text="Visitors can close it"
      aria-label="Visitors can close it"
      @change="setClosable"
    />
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
    <label v-if="closable && kind !== 'consent'">
      Visitors close it by
      <OptionField v-model="closeWith" label="What closes it" :options="closers" />
    </label>
    <el-switch
      v-if="outside && closable"
      :model-value="!!memory.closeOutside"
      active-text="A press outside closes it too"
      aria-label="A press outside closes it too"
      @change="(on) => setPart('closeOutside', on ? true : undefined)"
    />
    <label v-if="closable && kind !== 'consent' && kind !== 'block'">
      It closes by itself
      <el-select
        :empty-values="[null, undefined]"
        :model-value="memory.closeAfter ?? ''"
        aria-label="After how long it closes by itself"
        @change="(v: string) => setPart('closeAfter', v || undefined)"
      >
        <el-option v-for="p in withOwn(itself, memory.closeAfter)" :key="p.value" :value="p.value" :label="p.label" />
      </el-select>
      <span v-if="memory.closeAfter" class="quiet small">Counted from when nothing is done with it any more.</span>
    </label>
    <el-switch
      v-if="kind !== 'consent' && kind !== 'tab-title'"
      :model-value="!!memory.foldable"
      active-text="Visitors can fold it away to a tab at the edge"
      aria-label="Visitors can fold it away"
      @change="(on) => setPart('foldable', on ? true : undefined)"
    />
    <label>
      Once its link is followed
      <el-select
        :empty-values="[null, undefined]"
        :model-value="memory.clicked ?? ''"
        aria-label="How long it stays away once its link is followed"
        @change="setClicked"
      >
        <el-option value="" label="it stays" />
        <el-option v-for="p in periods" :key="p.value" :value="p.value" :label="'it stays away ' + p.label" />
      </el-select>
    </label>
    <div v-for="(l, i) in limits" :key="i" class="limit">
      at most
      <el-input-number
        :model-value="l.times"
        :min="1"
        :max="1000"
        size="small"
        controls-position="right"
        :aria-label="`How often, limit ${i + 1}`"
        @change="(v) => setLimits(limits.map((x, j) => (j === i ? { ...x, times: v ?? 1 } : x)))"
      />
      {{ l.times === 1 ? 'time' : 'times' }} in
      <el-select
        :model-value="l.per"
        size="small"
        :aria-label="`Within how long, limit ${i + 1}`"
        @change="(v: string) => setLimits(limits.map((x, j) => (j === i ? { ...x, per: v } : x)))"
      >
        <el-option v-for="p in withOwn(perPeriods, l.per)" :key="p.value" :value="p.value" :label="p.label" />
      </el-select>
      <el-button
        text
        size="small"
        :aria-label="`Remove limit ${i + 1}`"
        title="Remove"
        @click="setLimits(limits.filter((_, j) => j !== i))"
        >✕</el-button
      >
    </div>
    <el-button
      v-if="limits.length < 3"
      size="small"
      class="add"
      @click="setLimits([...limits, { times: 3, per: 'P7D' }])"
      >Limit how often it is shown</el-button
    >
    <p v-if="closable || limits.length" class="quiet small">
      Each visitor’s own browser remembers it. You keep no record of them.
    </p>
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
.limit {
  display: flex;
  gap: 6px;
  align-items: center;
}
.limit .el-input-number {
  width: 80px;
}
.limit .el-select {
  width: 110px;
}
.add {
  justify-self: start;
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
