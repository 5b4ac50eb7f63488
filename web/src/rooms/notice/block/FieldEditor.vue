<script setup lang="ts">
// One field of a form: what it asks, how it is checked, and what it says in one language.
import { computed, defineAsyncComponent } from 'vue'
import type { Part, PartWords } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import TextField from '../../../instruments/TextField.vue'

const RichText = defineAsyncComponent(() => import('../RichText.vue'))
type Field = NonNullable<Part['field']>

const props = defineProps<{
  id: string
  field: Field
  words: PartWords
  lang: string
  name: string
  wordsOnly?: boolean
}>()
const emit = defineEmits<{ field: [f: Field]; words: [w: PartWords] }>()
const say = (w: Partial<PartWords>) => emit('words', { ...props.words, ...w })
const set = (change: { [K in keyof Field]?: Field[K] | undefined }) => emit('field', changed(props.field, change))

const kinds: { value: Field['kind']; label: string }[] = [
  { value: 'email', label: 'E-mail address' },
  { value: 'telephone', label: 'Telephone number' },
  { value: 'text', label: 'Text, one line' },
  { value: 'long', label: 'Text, several lines' },
  { value: 'choice', label: 'One of several' },
  { value: 'choices', label: 'Any of several' },
  { value: 'number', label: 'Number' },
  { value: 'date', label: 'Date' },
  { value: 'agreement', label: 'Agreement, a tick' },
  { value: 'hidden', label: 'Hidden, a fact of the visit' },
]
const fills: { value: NonNullable<Field['fill']>; label: string }[] = [
  { value: 'name', label: 'name' },
  { value: 'given-name', label: 'first name' },
  { value: 'family-name', label: 'family name' },
  { value: 'organization', label: 'company or school' },
  { value: 'organization-title', label: 'position there' },
  { value: 'street-address', label: 'street' },
  { value: 'postal-code', label: 'postal code' },
  { value: 'address-level2', label: 'town' },
  { value: 'country-name', label: 'country' },
  { value: 'bday', label: 'birthday' },
  { value: 'url', label: 'web address' },
]
/** Another kind keeps what the two have in common. */
function kind(to: Field['kind']) {
  const several = (k: string) => k === 'choice' || k === 'choices'
  const next: Field = { kind: to }
  if (props.field.required && to !== 'hidden') next.required = true
  if (several(to)) next.options = several(props.field.kind) ? props.field.options! : ['option-1', 'option-2']
  if (to === 'hidden') next.fact = 'page.path'
  emit('field', next)
}
const options = computed(() => props.field.options ?? [])
const labels = computed(() => options.value.map((_, i) => props.words.answers?.[i] ?? ''))
function label(i: number, said: string) {
  say({ answers: labels.value.map((l, j) => (j === i ? said : l)) })
}
/** A name for another option that none has. */
function addOption() {
  let n = options.value.length + 1
  while (options.value.includes(`option-${n}`)) n++
  set({ options: [...options.value, `option-${n}`] })
}
/** What an agreement says is its name; one that was another kind before may have both. */
const hasLabel = computed(
  () => props.field.kind !== 'hidden' && (props.field.kind !== 'agreement' || !!props.words.heading),
)
const facts = ['page.path', 'page.title', 'utm.source', 'utm.medium', 'utm.campaign', 'device.kind', 'referrer.host']
const toNumber = (text: string) => (text.trim() === '' || Number.isNaN(Number(text)) ? undefined : Number(text))
const toWhole = (text: string) => Math.max(0, Math.round(toNumber(text) ?? 0)) || undefined
</script>

<template>
  <el-input
    v-if="hasLabel"
    :model-value="words.heading"
    :aria-label="`What the field is called, in ${name}`"
    placeholder="What it is called"
    maxlength="300"
    :lang="lang"
    @update:model-value="(heading: string) => say({ heading })"
  />
  <div v-if="!wordsOnly" class="line">
    <el-select :model-value="field.kind" class="kind" aria-label="What is filled in" @change="kind">
      <el-option v-for="k in kinds" :key="k.value" :value="k.value" :label="k.label" />
    </el-select>
    <el-checkbox
      v-if="field.kind !== 'hidden'"
      :model-value="!!field.required"
      label="has to be filled in"
      @change="(on) => set({ required: !!on })"
    />
  </div>
  <template v-if="options.length || field.kind === 'choice' || field.kind === 'choices'">
    <div v-for="(o, i) in options" :key="o" class="option">
      <el-input
        :model-value="labels[i]"
        :aria-label="`Option ${i + 1} in ${name}`"
        :placeholder="o"
        maxlength="100"
        :lang="lang"
        @update:model-value="(v: string) => label(i, v)"
      />
      <el-button
        v-if="!wordsOnly && options.length > 1"
        size="small"
        text
        :aria-label="`Remove option ${i + 1}`"
        @click="
          () => {
            say({ answers: labels.filter((_, j) => j !== i) })
            set({ options: options.filter((_, j) => j !== i) })
          }
        "
        >✕</el-button
      >
    </div>
    <el-button v-if="!wordsOnly && options.length < 30" size="small" @click="addOption">Add an option</el-button>
  </template>
  <RichText
    v-if="field.kind === 'agreement'"
    :model-value="words.text ?? ''"
    :label="`What is agreed to, in ${name}`"
    :lang="lang"
    @update:model-value="(text: string) => say({ text })"
  />
  <el-input
    v-else-if="field.kind !== 'hidden'"
    :model-value="words.text?.replace(/^<p>(.*)<\/p>$/s, '$1')"
    :aria-label="`A line that helps to fill it in, in ${name}`"
    placeholder="A line that helps (may stay empty)"
    maxlength="500"
    :lang="lang"
    @update:model-value="(text: string) => say({ text })"
  />
  <template v-if="!wordsOnly">
    <div v-if="field.kind === 'number'" class="line">
      <label
        >at least
        <TextField
          :model-value="String(field.min ?? '')"
          class="short"
          inputmode="decimal"
          aria-label="The least number"
          @change="(v: string) => set({ min: toNumber(v) })"
        />
      </label>
      <label
        >at most
        <TextField
          :model-value="String(field.max ?? '')"
          class="short"
          inputmode="decimal"
          aria-label="The greatest number"
          @change="(v: string) => set({ max: toNumber(v) })"
        />
      </label>
    </div>
    <label v-if="field.kind === 'text' || field.kind === 'long'" class="line"
      >at most
      <TextField
        :model-value="String(field.maxLength ?? '')"
        class="short"
        inputmode="numeric"
        :placeholder="field.kind === 'long' ? '5000' : '300'"
        aria-label="The most characters"
        @change="(v: string) => set({ maxLength: toWhole(v) })"
      />
      characters
    </label>
    <div v-if="field.kind === 'date'" class="line">
      <label
        >from
        <input
          type="date"
          :value="field.earliest"
          aria-label="The first day"
          @change="(e) => set({ earliest: (e.target as HTMLInputElement).value })"
        />
      </label>
      <label
        >to
        <input
          type="date"
          :value="field.latest"
          aria-label="The last day"
          @change="(e) => set({ latest: (e.target as HTMLInputElement).value })"
        />
      </label>
    </div>
    <label v-if="field.kind === 'text'" class="line"
      >Browsers may fill it in as
      <el-select
        :empty-values="[null, undefined]"
        :model-value="field.fill ?? ''"
        class="kind"
        aria-label="What browsers may fill in by themselves"
        @change="(v: NonNullable<Field['fill']> | '') => set({ fill: v || undefined })"
      >
        <el-option value="" label="nothing" />
        <el-option v-for="f in fills" :key="f.value" :value="f.value" :label="f.label" />
      </el-select>
    </label>
    <label v-if="field.kind === 'telephone'" class="line"
      >Numbers without a country’s own in front are from
      <TextField
        :model-value="field.country"
        class="short"
        maxlength="2"
        placeholder="GB"
        aria-label="Country, two letters"
        @change="(v: string) => set({ country: v.trim().toUpperCase() })"
      />
    </label>
    <label v-if="field.kind === 'hidden'" class="line"
      >It holds
      <el-select
        :model-value="field.fact"
        class="kind"
        filterable
        persistent
        allow-create
        default-first-option
        aria-label="The fact of the visit that it holds"
        @change="(v: string) => set({ fact: v })"
      >
        <el-option v-for="f in facts" :key="f" :value="f" :label="f" />
      </el-select>
      <span class="quiet small">Visitors do not see it.</span>
    </label>
  </template>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
.line label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.option {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px;
  width: 100%;
}
.kind {
  width: 200px;
}
.short {
  width: 88px;
}
input[type='date'] {
  padding: 4px 6px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
}
</style>
