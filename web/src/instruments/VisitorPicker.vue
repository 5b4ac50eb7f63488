<script setup lang="ts">
// The visitor of the viewpoint, made from facts: ready examples to begin with,
// each fact changed where it stands.
import { onClickOutside, onKeyStroke } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { FactChoice } from '../api/client'
import { formOf, labelOf as labelWith, nameIn, namesOf, useFacts } from '../rooms/notice/audience/facts'
import { keyOf, shortcutsOff } from './shortcuts'
import { say } from './time'
import { useViewpoint } from './viewpoint'
import TextField from './TextField.vue'

const { visitor, zone, view, look } = useViewpoint()
const list = useFacts()
const open = ref(false)
const box = useTemplateRef<HTMLElement>('box')
const zones = Intl.supportedValuesOf('timeZone')

const facts = computed<Record<string, unknown>>(() => {
  try {
    return JSON.parse(visitor.value || '{}')
  } catch {
    return {}
  }
})
const example = computed(() => list.value?.examples.find((e) => same(e.facts, facts.value))?.name)
const name = computed(() => {
  const n = Object.keys(facts.value).length
  return n === 0 ? 'anyone' : (example.value ?? `someone of whom ${n === 1 ? 'one fact is' : `${n} facts are`} known`)
})
const same = (a: object, b: object) =>
  JSON.stringify(Object.entries(a).sort()) === JSON.stringify(Object.entries(b).sort())
const factOf = (f: string) => formOf(list.value?.facts ?? [], f).fact
function labelOf(f: string) {
  const { fact, own } = formOf(list.value?.facts ?? [], f)
  return fact ? labelWith(fact, own) : f
}

function set(next: Record<string, unknown>) {
  look({ visitor: Object.keys(next).length ? JSON.stringify(next) : '' })
}
function change(f: string, v: unknown) {
  set({ ...facts.value, [f]: v })
}
function drop(f: string) {
  const next = { ...facts.value }
  delete next[f]
  set(next)
}
/** What is typed, as the fact's kind has it; a number that is none is not taken. */
function read(f: string, s: string) {
  const kind = factOf(f)?.kind
  if (kind === 'number') {
    const n = Number(s.replace(',', '.'))
    if (s.trim() !== '' && !Number.isNaN(n)) change(f, n)
  } else if (kind === 'set')
    change(
      f,
      s
        .split(',')
        .map((x) => x.trim())
        .filter(Boolean),
    )
  else change(f, s)
}
const addable = computed(() =>
  (list.value?.facts ?? []).filter(
    (f) => !(f.name in facts.value) && !f.name.startsWith('page.') && !f.name.startsWith('notice.'),
  ),
)
function first(f: FactChoice): unknown {
  if (f.kind === 'number') return Math.max(1, f.min)
  if (f.kind === 'set') return []
  if (f.kind === 'date-time') return view.value?.at.slice(0, 16) ?? ''
  return f.choices?.[0]?.value ?? ''
}
/** A fact that takes names of the site's own, while those are typed. */
const naming = ref<{ fact: FactChoice; own: string[] }>()
function add(n: string) {
  const f = addable.value.find((x) => x.name === n)
  if (!f) return
  if (namesOf(f).length) naming.value = { fact: f, own: namesOf(f).map(() => '') }
  else change(n, first(f))
}
const named = computed(() => naming.value?.own.every((o) => /^[\w-]{1,100}$/.test(o)))
function addNamed() {
  if (!naming.value || !named.value) return
  change(nameIn(naming.value.fact.name, naming.value.own), first(naming.value.fact))
  naming.value = undefined
}

function toggle() {
  open.value = !open.value
  if (open.value) nextTick(() => box.value?.querySelector<HTMLElement>('.panel button')?.focus())
}
function close() {
  open.value = false
  box.value?.querySelector<HTMLElement>('.who')?.focus()
}
onClickOutside(box, () => (open.value = false), { ignore: ['.el-popper'] })
onKeyStroke('Escape', () => open.value && !document.querySelector('.el-popper[aria-hidden="false"]') && close())
defineExpose({ toggle })
</script>

<template>
  <span ref="box" class="visitor">
    <button
      type="button"
      class="word who"
      :aria-expanded="open"
      :title="shortcutsOff ? 'Another visitor' : `Another visitor  ${keyOf('visitor')}`"
      @click="toggle"
    >
      {{ name }}
    </button>
    <template v-if="zone && view"
      ><span class="quiet small">
        in {{ zone.replaceAll('_', ' ') }}, their clock: {{ say(view.at, zone) }}</span
      ></template
    >
    <div v-if="open" class="panel" role="dialog" aria-label="The visitor">
      <div class="examples">
        <el-button size="small" :type="name === 'anyone' ? 'primary' : 'default'" @click="set({})">anyone</el-button>
        <el-button
          v-for="e in list?.examples ?? []"
          :key="e.name"
          size="small"
          :type="e.name === example ? 'primary' : 'default'"
          @click="set(e.facts)"
          >{{ e.name }}</el-button
        >
      </div>
      <div v-for="(v, f) in facts" :key="f" class="fact">
        <span>{{ labelOf(f) }}</span>
        <el-select
          v-if="factOf(f)?.choices"
          :model-value="v as string"
          size="small"
          :aria-label="labelOf(f)"
          @change="(x: string) => change(f, x)"
        >
          <el-option v-for="c in factOf(f)?.choices ?? []" :key="c.value" :value="c.value" :label="c.label" />
        </el-select>
        <el-switch
          v-else-if="typeof v === 'boolean'"
          :model-value="v"
          :aria-label="labelOf(f)"
          @change="(x) => change(f, x)"
        />
        <TextField
          v-else
          :model-value="Array.isArray(v) ? v.join(', ') : String(v)"
          size="small"
          :aria-label="labelOf(f)"
          @change="(x: string) => read(f, x)"
        />
        <el-button text size="small" :aria-label="`Forget ${labelOf(f)}`" title="Forget" @click="drop(f)">✕</el-button>
      </div>
      <div class="fact">
        <el-select
          model-value=""
          size="small"
          filterable
          persistent
          placeholder="Another fact"
          aria-label="Another fact"
          @change="add"
        >
          <el-option v-for="f in addable" :key="f.name" :value="f.name" :label="labelWith(f, [])" />
        </el-select>
      </div>
      <form v-if="naming" class="naming" @submit.prevent="addNamed">
        <span>{{ labelWith(naming.fact, naming.own) }}</span>
        <el-input
          v-for="(what, at) in namesOf(naming.fact)"
          :key="at"
          v-model.trim="naming.own[at]"
          size="small"
          :aria-label="what"
          :placeholder="what"
        />
        <el-button size="small" native-type="submit" :disabled="!named">Add</el-button>
      </form>
      <label class="zone"
        >Their time zone
        <el-select
          :model-value="zone || view?.zone"
          size="small"
          filterable
          persistent
          aria-label="Visitor’s time zone"
          @change="(v: string) => look({ zone: v === view?.zone ? '' : v })"
        >
          <el-option v-for="z in zones" :key="z" :value="z" :label="z.replaceAll('_', ' ')" />
        </el-select>
      </label>
    </div>
  </span>
</template>

<style scoped>
.visitor {
  position: relative;
}
.panel {
  position: absolute;
  z-index: 30;
  top: calc(100% + 8px);
  inset-inline-end: 0;
  display: grid;
  gap: 6px;
  width: min(440px, calc(100vw - 24px));
  padding: 14px;
  border: 1px solid var(--ink-2);
  border-radius: 3px;
  background: var(--sail);
  box-shadow: var(--float);
}
.examples {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-bottom: 4px;
}
.examples .el-button {
  margin: 0;
}
.fact {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 160px 32px;
  gap: 6px;
  align-items: center;
}
.naming {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.naming span {
  flex: 1 0 100%;
}
.naming .el-input {
  flex: 1 1 120px;
  width: auto;
}
.zone {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 160px 32px;
  gap: 6px;
  align-items: center;
  padding-top: 6px;
  border-top: 1px solid var(--line);
}
@media (max-width: 700px) {
  .visitor {
    position: static;
  }
  .panel {
    inset-inline: 12px;
    top: auto;
  }
}
</style>
