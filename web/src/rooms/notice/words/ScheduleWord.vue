<script setup lang="ts">
// When: windows of time on one clock, each perhaps repeating.
import { computed } from 'vue'
import type { Notice, Times, Window } from '../../../api/client'
import DateTime from '../../../instruments/DateTime.vue'
import { later } from '../../../instruments/time'
import RepeatEditor from './RepeatEditor.vue'

type Plan = NonNullable<Notice['schedule']>
const props = defineProps<{ zone: string; now: string; times: Times[] }>()
const plan = defineModel<Plan>({ required: true })

const windows = computed(() => plan.value.windows ?? [])
function put(list: Window[]) {
  const next: Plan = { ...plan.value, windows: list }
  if (!list.length) delete next.windows
  plan.value = next
}
function set(i: number, end: 'from' | 'until', value: string | undefined) {
  put(
    windows.value.map((w, j) => {
      if (j !== i) return w
      const next = { ...w, [end]: value }
      if (!value) delete next[end]
      return next
    }),
  )
}
/** Noon of the next Monday, which is never today's. */
function mondayNoon(at: string): string {
  const day = (new Date(at + 'Z').getUTCDay() + 6) % 7
  return later(at, 7 - day).slice(0, 11) + '12:00'
}
/**
 * Common lengths. They begin at the start that is set; without one some begin now, the others whenever it is published.
 */
const quick: { label: string; now?: boolean; until: (at: string) => string }[] = [
  { label: 'Until tonight', until: (at) => later(at, 1).slice(0, 11) + '00:00' },
  { label: 'Until Monday noon', until: mondayNoon },
  { label: 'For a day', now: true, until: (at) => later(at, 1) },
  { label: 'For a week', now: true, until: (at) => later(at, 7) },
  { label: 'For 30 days', now: true, until: (at) => later(at, 30) },
]
function choose(q: (typeof quick)[number]) {
  const from = windows.value[0]?.from ?? (q.now ? props.now : undefined)
  put([{ ...(from && { from }), until: q.until(from ?? props.now) }])
}
</script>

<template>
  <div class="schedule">
    <p v-if="!windows.length" class="quiet">From the moment you publish it, until you unpublish it.</p>
    <div v-for="(w, i) in windows" :key="i" class="window">
      <label>
        from
        <DateTime
          :model-value="w.from"
          clearable
          placeholder="when published"
          :label="`From, time ${i + 1}`"
          @update:model-value="(v) => set(i, 'from', v)"
        />
      </label>
      <label>
        until
        <DateTime
          :model-value="w.until"
          clearable
          placeholder="no end"
          :label="`Until, time ${i + 1}`"
          @update:model-value="(v) => set(i, 'until', v)"
        />
      </label>
      <el-button
        text
        :aria-label="`Remove time ${i + 1}`"
        title="Remove"
        @click="put(windows.filter((_, j) => j !== i))"
        >✕</el-button
      >
      <RepeatEditor
        v-if="w.from && w.until"
        :n="i + 1"
        :model-value="w"
        :times="times[i]"
        @update:model-value="(next) => put(windows.map((x, j) => (j === i ? next : x)))"
      />
    </div>
    <div class="quick">
      <el-button size="small" @click="put([...windows, { from: props.now, until: later(props.now, 1) }])">{{
        windows.length ? 'Add another time' : 'Set a time'
      }}</el-button>
      <template v-if="windows.length < 2 && !windows[0]?.rule">
        <el-button v-for="q in quick" :key="q.label" size="small" @click="choose(q)">{{ q.label }}</el-button>
      </template>
    </div>
    <label class="clock">
      On the clock of
      <el-select
        :model-value="plan.clock ?? 'site'"
        aria-label="Whose clock"
        @change="(v: string) => (plan = { ...plan, clock: v })"
      >
        <el-option value="site" :label="`the site, ${zone}`" />
        <el-option value="visitor" label="each visitor, wherever they are" />
        <el-option
          v-if="plan.clock && plan.clock !== 'site' && plan.clock !== 'visitor'"
          :value="plan.clock"
          :label="plan.clock"
        />
      </el-select>
    </label>
  </div>
</template>

<style scoped>
.schedule {
  display: grid;
  gap: 10px;
}
.schedule p {
  margin: 0;
}
.window {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 6px 10px;
  align-items: end;
}
.window :deep(.el-date-editor) {
  width: 100%;
}
@media (max-width: 560px) {
  .window {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .window label {
    grid-column: 1;
  }
}
label {
  display: grid;
  gap: 2px;
  color: var(--ink-2);
}
.quick {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.quick .el-button {
  margin: 0;
}
.clock {
  max-width: 320px;
}
</style>
