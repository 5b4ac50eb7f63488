<script setup lang="ts">
// One condition: a fact, a test, and the value it is tested with.
import { computed, inject, ref, useId } from 'vue'
import type { FactChoice, Node } from '../../../api/client'
import DateTime from '../../../instruments/DateTime.vue'
import { findNames } from '../../../instruments/names'
import { begin, formOf, labelOf, nameIn, namesOf, retest, testWords, wants } from './facts'
import TextField from '../../../instruments/TextField.vue'

const find = inject(findNames, undefined)
const props = defineProps<{ facts: FactChoice[]; notices: { id: string; title: string }[] }>()
const leaf = defineModel<Node>({ required: true })

const rooms = computed(() => [...new Set(props.facts.map((f) => f.room))])
const form = computed(() => formOf(props.facts, leaf.value.fact ?? ''))
const fact = computed(() => form.value.fact)
const label = (f: FactChoice) => labelOf(f, [])
const take = computed(() => wants(leaf.value.is))
const list = computed(() => (Array.isArray(leaf.value.value) ? (leaf.value.value as unknown[]) : []))
const numeric = computed(
  () =>
    fact.value?.kind === 'number' ||
    (fact.value?.kind === 'trait' && ['gte', 'lte', 'gt', 'lt', 'between'].includes(leaf.value.is as string)),
)

/** What the condition means is shown: of one just chosen, and wherever it is asked for. */
const explained = ref(false)
const explanation = useId()

function chooseFact(name: string) {
  explained.value = true
  const next = props.facts.find((f) => f.name === name)
  if (next)
    leaf.value = {
      ...begin(next, name.startsWith('notice.') ? [props.notices[0]?.id ?? 'notice'] : []),
      ...(leaf.value.off ? { off: true } : {}),
    }
}
function rename(to: string, at = 0) {
  if (fact.value && to) leaf.value = { ...leaf.value, fact: nameIn(fact.value.name, form.value.own.with(at, to)) }
}
/** A text as the value it stands for: a number where numbers are compared. */
function read(s: string): unknown {
  if (!numeric.value) return s
  const n = Number(s.replace(',', '.'))
  return s.trim() === '' || Number.isNaN(n) ? s : n
}
function setValue(v: Node['value']) {
  leaf.value = { ...leaf.value, value: v }
}
function setEnd(i: number, v: unknown) {
  const two: unknown[] = [list.value[0] ?? '', list.value[1] ?? '']
  two[i] = v
  setValue(two)
}
const clocked = computed(() => leaf.value.fact?.startsWith('clock.'))
const counted = computed(() => /^event\..*\.count$/.test(leaf.value.fact ?? ''))
function setExtra(key: 'clock' | 'within' | 'since', v: string) {
  const next = { ...leaf.value }
  if (v) next[key] = v
  else delete next[key]
  leaf.value = next
}
const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'].map((d, i) => ({
  value: i + 1,
  label: d,
}))
</script>

<template>
  <div class="leaf">
    <el-select
      :model-value="fact?.name ?? leaf.fact"
      filterable
      persistent
      class="fact"
      aria-label="What is asked about"
      @change="chooseFact"
    >
      <el-option-group v-for="r in rooms" :key="r" :label="r">
        <el-option
          v-for="f in facts.filter((x) => x.room === r)"
          :key="f.name"
          :value="f.name"
          :label="label(f)"
          :title="f.means"
        />
      </el-option-group>
    </el-select>
    <template v-for="(what, at) in fact ? namesOf(fact) : []" :key="at">
      <el-select
        v-if="fact?.name.startsWith('notice.')"
        :model-value="form.own[at]"
        filterable
        persistent
        :remote="!!find"
        :remote-method="find"
        class="name"
        :aria-label="what"
        @change="(to: string) => rename(to)"
      >
        <el-option v-for="n in notices" :key="n.id" :value="n.id" :label="n.title" />
      </el-select>
      <TextField
        v-else
        :model-value="form.own[at]"
        class="name"
        :aria-label="what"
        placeholder="name"
        @change="(to: string) => rename(to, at)"
      />
    </template>
    <el-select
      v-if="fact"
      :model-value="leaf.is"
      class="test"
      aria-label="Test"
      @change="(t: string) => (leaf = retest(leaf, t as Node['is'], fact!))"
    >
      <el-option v-for="t in fact.tests" :key="t" :value="t" :label="testWords[t]" />
    </el-select>

    <template v-if="take === 'one'">
      <el-select
        v-if="fact?.choices"
        :model-value="leaf.value as string"
        class="value"
        aria-label="Value"
        @change="setValue"
      >
        <el-option v-for="c in fact.choices" :key="c.value" :value="c.value" :label="c.label" />
      </el-select>
      <el-select
        v-else-if="leaf.fact === 'clock.weekday'"
        :model-value="leaf.value as number"
        class="value"
        aria-label="Value"
        @change="setValue"
      >
        <el-option v-for="d in weekdays" :key="d.value" :value="d.value" :label="d.label" />
      </el-select>
      <DateTime
        v-else-if="fact?.kind === 'date-time'"
        :model-value="String(leaf.value ?? '')"
        label="Value"
        @update:model-value="setValue"
      />
      <span v-else class="value"
        ><el-input
          :model-value="String(leaf.value ?? '')"
          aria-label="Value"
          @update:model-value="(v: string) => setValue(read(v))"
      /></span>
    </template>
    <el-select
      v-else-if="take === 'list'"
      :model-value="list as string[]"
      multiple
      filterable
      persistent
      :allow-create="!fact?.choices"
      default-first-option
      class="value list"
      aria-label="Values"
      placeholder="type, then Enter"
      @change="setValue"
    >
      <el-option v-for="c in fact?.choices ?? []" :key="c.value" :value="c.value" :label="c.label" />
    </el-select>
    <template v-else-if="take === 'two'">
      <span v-for="i in [0, 1]" :key="i" class="end">
        <span v-if="i" class="quiet">and</span>
        <DateTime
          v-if="fact?.kind === 'date-time'"
          :model-value="String(list[i] ?? '')"
          :label="i ? 'Last' : 'First'"
          @update:model-value="(v) => setEnd(i, v)"
        />
        <el-input
          v-else
          :model-value="String(list[i] ?? '')"
          class="number"
          :aria-label="i ? 'Last' : 'First'"
          @update:model-value="(v: string) => setEnd(i, read(v))"
        />
      </span>
    </template>
    <span v-if="take !== 'none' && fact?.unit && fact.unit !== '%'" class="quiet small"
      >{{ fact.unit }}{{ leaf.value === 1 ? '' : 's' }}</span
    >
    <span v-if="fact?.unit === '%'" class="quiet small">%</span>
    <el-select
      v-if="clocked"
      :model-value="leaf.clock ?? 'visitor'"
      class="clock"
      aria-label="By whose clock"
      @change="(v: string) => setExtra('clock', v === 'visitor' ? '' : v)"
    >
      <el-option value="visitor" label="by the visitor’s clock" />
      <el-option value="site" label="by the site’s clock" />
      <el-option v-if="leaf.clock && leaf.clock !== 'site'" :value="leaf.clock" :label="leaf.clock" />
    </el-select>
    <el-select
      v-if="counted"
      :empty-values="[null, undefined]"
      :model-value="leaf.within ?? ''"
      class="clock"
      aria-label="How far back"
      @change="(v: string) => setExtra('within', v)"
    >
      <el-option value="" label="ever" />
      <el-option value="P1D" label="in the last day" />
      <el-option value="P7D" label="in the last 7 days" />
      <el-option value="P30D" label="in the last 30 days" />
      <el-option
        v-if="leaf.within && !['P1D', 'P7D', 'P30D'].includes(leaf.within)"
        :value="leaf.within"
        :label="leaf.within"
      />
    </el-select>
    <TextField
      v-if="counted"
      :model-value="leaf.since ?? ''"
      class="clock"
      placeholder="since another event, such as order"
      aria-label="Since which other event"
      @change="(v: string) => setExtra('since', v.trim())"
    />
    <button
      v-if="fact"
      type="button"
      class="word small"
      :aria-expanded="explained"
      :aria-controls="explanation"
      :aria-label="`What it means: ${label(fact)}`"
      @click="explained = !explained"
    >
      ?
    </button>
    <p v-if="fact && explained" :id="explanation" class="small explanation">
      {{ fact.means }} <span class="quiet">For example: {{ fact.example }} {{ fact.limits }}</span>
    </p>
  </div>
</template>

<style scoped>
.leaf > .word {
  min-width: 24px;
  min-height: 24px;
}
.explanation {
  flex: 1 0 100%;
  margin: 0;
}
.leaf {
  display: flex;
  flex: 1;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
  min-width: 0;
}
.fact {
  width: 236px;
}
.test {
  width: 132px;
}
.name {
  width: 110px;
}
.value {
  width: 128px;
}
.list {
  width: 190px;
}
.clock {
  width: 160px;
}
.end {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.number {
  width: 64px;
}
</style>
