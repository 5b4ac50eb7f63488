<script setup lang="ts">
// What a notice is to bring about, and how that is found out: its goal, how long that counts, who
// never sees it, and the variants that are compared.
import { computed } from 'vue'
import type { Notice, SiteDetail } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import OptionField from '../../../instruments/OptionField.vue'
import PeriodChoice from '../../../instruments/PeriodChoice.vue'
import ColourField from '../look/ColourField.vue'
import RichText from '../RichText.vue'

type Experiment = NonNullable<Notice['experiment']>
type Goal = Experiment['goal']
type Variant = NonNullable<Experiment['variants']>[number]
type Wording = NonNullable<Variant['wordings']>[string]

const props = defineProps<{ site?: SiteDetail; language: string; languageName: string }>()
const notice = defineModel<Notice>({ required: true })
defineEmits<{
  remove: []
  /** All get this variant from now on. */
  settle: [variant: string]
}>()
const experiment = computed<Experiment>(() => notice.value.experiment ?? { goal: { link: true } })
function set(change: { [K in keyof Experiment]?: Experiment[K] | undefined }) {
  notice.value = { ...notice.value, experiment: changed(experiment.value, change) }
}

const hasForm = computed(() =>
  (notice.value.content?.rows ?? []).some((r) => r.columns.some((c) => (c.parts ?? []).some((p) => p.field))),
)
const kinds = computed(() => [
  { value: 'link', label: 'follow its link' },
  { value: 'pages', label: 'reach a page' },
  { value: 'event', label: 'do what the site tells of' },
  ...(hasForm.value || experiment.value.goal.form ? [{ value: 'form', label: 'send its form' }] : []),
])
const kind = computed({
  get: () => {
    const { pages, event, form } = experiment.value.goal
    if (pages) return 'pages'
    if (event !== undefined) return 'event'
    return form ? 'form' : 'link'
  },
  set: (v) => {
    const goals: Record<string, Goal> = {
      link: { link: true },
      form: { form: true },
      event: { event: 'order' },
      pages: { pages: { include: [{ match: 'page', path: props.site?.pages[0]?.path ?? '/' }] } },
    }
    set({ goal: goals[v]! })
  },
})
/** The pages that are named one by one; entries of another make stay as they are. */
const paths = computed({
  get: () =>
    (experiment.value.goal.pages?.include ?? []).filter((e) => e.match === 'page').map((e) => e.path as string),
  set: (list) => {
    const others = (experiment.value.goal.pages?.include ?? []).filter((e) => e.match !== 'page')
    set({
      goal: {
        pages: {
          ...experiment.value.goal.pages,
          include: [...others, ...list.map((path) => ({ match: 'page' as const, path }))],
        },
      },
    })
  },
})
const otherEntries = computed(
  () => (experiment.value.goal.pages?.include ?? []).filter((e) => e.match !== 'page').length,
)
const event = computed({
  get: () => experiment.value.goal.event ?? '',
  set: (v) => set({ goal: { ...experiment.value.goal, event: v.trim() } }),
})
const least = computed({
  get: () => experiment.value.goal.least ?? undefined,
  set: (v) => set({ goal: v === undefined ? { event: event.value } : { event: event.value, least: v } }),
})
const within = computed({
  get: () => experiment.value.within ?? 'P5D',
  set: (v) => set({ within: v === 'P5D' ? undefined : v }),
})
const periods = [
  { value: 'PT12H', label: '12 hours' },
  { value: 'P1D', label: 'a day' },
  { value: 'P5D', label: '5 days' },
  { value: 'P14D', label: '2 weeks' },
  { value: 'P30D', label: '30 days' },
]
const holdout = computed({
  get: () => experiment.value.holdout ?? 0,
  set: (v) => set({ holdout: v || undefined }),
})

const variants = computed(() => experiment.value.variants ?? [])
const setVariants = (list: Variant[]) => set({ variants: list.length > 1 ? list : undefined })
const letters = ['a', 'b', 'c', 'd', 'e']
const freeID = (taken: string[]) => letters.find((l) => !taken.includes(l)) ?? `v${taken.length + 1}`
function addVariant() {
  const list = [...variants.value]
  if (!list.length) list.push({ id: 'a', name: 'As it is' })
  const id = freeID(list.map((v) => v.id))
  setVariants([...list, { id, name: `Variant ${id.toUpperCase()}` }])
}
const change = (at: number, what: { [K in keyof Variant]?: Variant[K] | undefined }) =>
  setVariants(variants.value.map((v, i) => (i === at ? changed(v, what) : v)))
const own = (v: Variant): Partial<Wording> => v.wordings?.[props.language] ?? {}
function say(at: number, what: { [K in keyof Wording]?: Wording[K] | undefined }) {
  const v = variants.value[at]!
  const wordings = { ...v.wordings, [props.language]: changed(own(v) as Wording, what) }
  if (!Object.keys(wordings[props.language]!).length) delete wordings[props.language]
  change(at, { wordings: Object.keys(wordings).length ? wordings : undefined })
}
const base = computed<Partial<Wording>>(() => notice.value.content?.wordings?.[props.language] ?? {})
</script>

<template>
  <div class="aim">
    <label
      >Visitors are to
      <OptionField v-model="kind" label="What visitors are to do" :options="kinds" />
    </label>
    <label v-if="kind === 'pages'"
      >Any of these pages
      <el-select
        v-model="paths"
        multiple
        filterable
        persistent
        allow-create
        default-first-option
        aria-label="Pages to be reached"
      >
        <el-option v-for="p in site?.pages ?? []" :key="p.path" :value="p.path" :label="`${p.path} ${p.title}`" />
      </el-select>
      <span v-if="otherEntries" class="quiet small">and {{ otherEntries }} other conditions, which stay.</span>
    </label>
    <template v-if="kind === 'event'">
      <label
        >The name of the event
        <el-input v-model="event" aria-label="Name of the event" placeholder="order" />
        <span class="quiet small"
          >The site tells of it: <code>mastflag.event('{{ event || 'order' }}', { value: 49 })</code></span
        >
      </label>
      <label
        >Of a value of at least
        <el-input-number
          v-model="least"
          :min="0"
          :value-on-clear="null"
          controls-position="right"
          aria-label="Least value"
        />
      </label>
    </template>
    <label
      >Within this time of meeting it
      <PeriodChoice v-model="within" label="How long it counts" :usual="periods" />
    </label>
    <label
      >Visitors who never see it, so that there is something to compare with
      <span class="line"
        ><el-input-number
          v-model="holdout"
          :min="0"
          :max="90"
          :step="5"
          controls-position="right"
          aria-label="Per cent who never see it"
        />
        %</span
      >
    </label>
    <fieldset>
      <legend>Variants</legend>
      <p v-if="!variants.length" class="quiet small">
        All see the notice as it is. With variants each visitor gets one by chance, and the same one each time.
      </p>
      <div v-for="(v, at) in variants" :key="v.id" class="variant">
        <div class="line">
          <el-input
            :model-value="v.name ?? ''"
            :aria-label="`Name of variant ${v.id}`"
            @update:model-value="(n: string) => change(at, { name: n || undefined })"
          />
          <label class="line"
            >weight
            <el-input-number
              :model-value="v.weight ?? 1"
              :min="1"
              :max="1000"
              controls-position="right"
              :aria-label="`Weight of variant ${v.id}`"
              @change="(n) => change(at, { weight: !n || n === 1 ? undefined : n })"
          /></label>
          <el-button size="small" text @click="$emit('settle', v.id)">Give it to all</el-button>
          <el-button
            size="small"
            text
            :aria-label="`Remove variant ${v.id}`"
            @click="setVariants(variants.filter((_, i) => i !== at))"
            >✕</el-button
          >
        </div>
        <p v-if="at === 0" class="quiet small">The notice as it is. Visitors who are in no experiment get it too.</p>
        <template v-else>
          <label
            >Headline in {{ languageName }}
            <el-input
              :model-value="own(v).headline ?? ''"
              :placeholder="base.headline ?? 'none'"
              :aria-label="`Headline of variant ${v.id}`"
              @update:model-value="(t: string) => say(at, { headline: t || undefined })"
            />
          </label>
          <div>
            Message in {{ languageName
            }}<span v-if="!own(v).message" class="quiet small">; as it is, unless you write another</span>
            <RichText
              :model-value="own(v).message ?? ''"
              :label="`Message of variant ${v.id}`"
              :lang="language"
              @update:model-value="(m) => say(at, { message: m || undefined })"
            />
          </div>
          <div>
            Its field
            <ColourField
              :model-value="v.look?.background"
              label="Field of the variant"
              :palette="site?.site.palette ?? []"
              usual="as it is"
              @update:model-value="(c) => change(at, { look: c ? { ...v.look, background: c } : undefined })"
            />
          </div>
        </template>
      </div>
      <el-button v-if="variants.length < 5" size="small" @click="addVariant">{{
        variants.length ? 'Add a variant' : 'Compare with a variant'
      }}</el-button>
    </fieldset>
    <p class="quiet small">
      Once it is out, a change of what is compared ends the comparison and begins another.
      <el-button size="small" text @click="$emit('remove')">Remove the goal</el-button>
    </p>
  </div>
</template>

<style scoped>
.aim {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(240px, 100%), 1fr));
  align-items: start;
  gap: 10px 18px;
}
.aim > label,
.variant > label {
  display: grid;
  gap: 2px;
}
fieldset,
.aim > p {
  grid-column: 1 / -1;
}
fieldset,
.variant {
  display: grid;
  gap: 8px;
}
fieldset {
  margin: 0;
  padding: 0;
  border: 0;
  justify-items: start;
}
.variant {
  width: 100%;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.line {
  display: flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
p {
  margin: 0;
}
</style>
