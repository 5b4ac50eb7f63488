<script setup lang="ts">
// How a window of time repeats: the rule, what is left out of it, and the next
// five times it comes to.
import { computed } from 'vue'
import type { Times, Window } from '../../../api/client'
import DateTime from '../../../instruments/DateTime.vue'
import { dayOf, nthOf, read, weekdays, write, type Often, type Repeat } from './rule'
import TextField from '../../../instruments/TextField.vue'

const props = defineProps<{ n: number; times?: Times }>()
const range = defineModel<Window>({ required: true })

const from = computed(() => range.value.from ?? '')
const repeat = computed(() => read(range.value.rule, from.value))
const ordinal: Record<string, string> = { '1': 'first', '2': 'second', '3': 'third', '4': 'fourth', '-1': 'last' }
const long = (day: string) =>
  new Date(Date.UTC(2024, 0, 1 + weekdays.findIndex((d) => d.value === day))).toLocaleDateString('en', {
    weekday: 'long',
    timeZone: 'UTC',
  })
const choices = computed<{ value: Often; label: string }[]>(() => [
  { value: 'never', label: 'does not repeat' },
  { value: 'daily', label: 'every day' },
  { value: 'weekly', label: 'every week, on' },
  { value: 'monthday', label: `every month, on day ${Number(from.value.slice(8, 10))}` },
  { value: 'weekday', label: `every month, on the ${ordinal[String(nthOf(from.value))]} ${long(dayOf(from.value))}` },
  { value: 'yearly', label: 'every year' },
  { value: 'hourly', label: 'every hour' },
  { value: 'own', label: 'by a rule of your own' },
])
const units: Record<string, string> = {
  hourly: 'hours',
  daily: 'days',
  weekly: 'weeks',
  monthday: 'months',
  weekday: 'months',
  yearly: 'years',
}

function set(change: Partial<Repeat>) {
  const next = { ...repeat.value, ...change }
  if (change.often === 'own')
    next.rule = range.value.rule || write({ ...repeat.value, often: 'weekly' }, from.value) + ';WKST=MO'
  const rule = write(next, from.value)
  const w: Window = { ...range.value, rule }
  if (!rule) {
    delete w.rule
    delete w.except
    delete w.also
  }
  range.value = w
}
function leaveOut(at: string) {
  range.value = { ...range.value, except: [...(range.value.except ?? []), at].sort() }
}
function list(key: 'except' | 'also', to: string[]) {
  const w = { ...range.value, [key]: to }
  if (!to.length) delete w[key]
  range.value = w
}
const say = (at: string) => {
  const d = new Date(at + 'Z')
  return (
    d.toLocaleDateString('en-GB', {
      weekday: 'short',
      day: 'numeric',
      month: 'short',
      year: 'numeric',
      timeZone: 'UTC',
    }) +
    ' ' +
    at.slice(11, 16)
  )
}
</script>

<template>
  <div class="repeat">
    <div class="line">
      <el-select
        :model-value="repeat.often"
        class="often"
        :aria-label="`How time ${n} repeats`"
        @change="(o: Often) => set({ often: o })"
      >
        <el-option v-for="c in choices" :key="c.value" :value="c.value" :label="c.label" />
      </el-select>
      <el-checkbox-group
        v-if="repeat.often === 'weekly'"
        :model-value="repeat.days"
        size="small"
        class="days"
        :aria-label="`Weekdays of time ${n}`"
        @change="(d: unknown) => set({ days: d as string[] })"
      >
        <el-checkbox-button v-for="d in weekdays" :key="d.value" :value="d.value" :label="d.label" />
      </el-checkbox-group>
    </div>
    <TextField
      v-if="repeat.often === 'own'"
      :model-value="range.rule"
      :aria-label="`Rule of time ${n}`"
      placeholder="FREQ=MONTHLY;BYDAY=-1FR"
      @change="(v: string) => set({ rule: v })"
    />
    <div v-else-if="repeat.often !== 'never'" class="line">
      every
      <el-input-number
        :model-value="repeat.every"
        :min="1"
        :max="99"
        size="small"
        controls-position="right"
        :aria-label="`Every so many, time ${n}`"
        @change="(v) => set({ every: v ?? 1 })"
      />
      {{ repeat.every === 1 ? units[repeat.often]?.slice(0, -1) : units[repeat.often] }},
      <el-select
        :model-value="repeat.ends"
        size="small"
        class="ends"
        :aria-label="`When time ${n} stops repeating`"
        @change="(e: Repeat['ends']) => set({ ends: e })"
      >
        <el-option value="never" label="with no end" />
        <el-option value="count" label="so many times:" />
        <el-option value="until" label="last on:" />
      </el-select>
      <el-input-number
        v-if="repeat.ends === 'count'"
        :model-value="repeat.count"
        :min="1"
        :max="9999"
        size="small"
        controls-position="right"
        :aria-label="`How many times, time ${n}`"
        @change="(v) => set({ count: v ?? 1 })"
      />
      <el-date-picker
        v-if="repeat.ends === 'until'"
        :model-value="repeat.until"
        type="date"
        size="small"
        class="until"
        format="ddd D MMM YYYY"
        value-format="YYYY-MM-DD"
        :clearable="false"
        :aria-label="`Last day, time ${n}`"
        @update:model-value="(v: string) => set({ until: v })"
      />
    </div>
    <div v-if="range.rule || range.also?.length" class="next">
      <div v-if="times" class="small quiet read">{{ times.words }}. The next times:</div>
      <ol class="plainlist figures small">
        <li v-for="o in times?.next ?? []" :key="o.from">
          {{ say(o.from) }} to {{ o.from.slice(0, 10) === o.until.slice(0, 10) ? o.until.slice(11, 16) : say(o.until) }}
          <button type="button" class="word" :aria-label="`Leave out ${say(o.from)}`" @click="leaveOut(o.from)">
            leave out
          </button>
          <div v-if="o.clock" class="clock">{{ o.clock }}</div>
        </li>
        <li v-if="times && !times.next.length" class="quiet">None from this moment on.</li>
      </ol>
      <div v-for="key in ['except', 'also'] as const" :key="key" class="extras small">
        <template v-if="range[key]?.length">
          <span class="quiet">{{ key === 'except' ? 'Left out:' : 'Also:' }}</span>
          <el-tag
            v-for="at in range[key]"
            :key="at"
            closable
            type="info"
            size="small"
            @close="
              list(
                key,
                (range[key] ?? []).filter((x) => x !== at),
              )
            "
            >{{ say(at) }}</el-tag
          >
        </template>
      </div>
      <label class="also small"
        >and also at
        <DateTime
          model-value=""
          size="small"
          placeholder="another time"
          :label="`Extra start, time ${n}`"
          @update:model-value="(v) => v && list('also', [...(range.also ?? []), v].sort())"
      /></label>
    </div>
    <p v-else-if="props.times?.next[0]?.clock" class="small clock">{{ props.times.next[0].clock }}</p>
  </div>
</template>

<style scoped>
.repeat {
  display: grid;
  gap: 6px;
  grid-column: 1 / -1;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.often {
  width: 250px;
}
.ends {
  width: 130px;
}
.line .el-input-number {
  width: 84px;
}
.line :deep(.until) {
  width: 150px;
}
.next {
  display: grid;
  gap: 4px;
  padding-inline-start: 8px;
  border-inline-start: 2px solid var(--line);
}
.clock {
  margin: 0;
  color: var(--wait);
}
.extras {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.read::first-letter {
  text-transform: uppercase;
}
.also > :first-child {
  white-space: nowrap;
}
.also {
  white-space: nowrap;
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
