<script setup lang="ts">
// Where a notice stands: a slot, or spots in the page.
import { computed } from 'vue'
import type { Entry, Notice, SiteDetail } from '../../../api/client'
import { slotOf } from '../../../api/sets'
import { corner } from '../../../instruments/languages'
import { useViewpoint } from '../../../instruments/viewpoint'
import ChoiceWord from './ChoiceWord.vue'
import { wordsOf } from './places'
import TextField from '../../../instruments/TextField.vue'
import { isBelow } from '../../../instruments/paths'

type Slot = NonNullable<Notice['slot']>
type Spot = NonNullable<Notice['spot']>
const notice = defineModel<Notice>({ required: true })
const props = defineProps<{ known: SiteDetail['pages']; sets: string[] }>()
/** A spot is to be chosen on the stage: another, or one more for other pages. */
defineEmits<{ point: [more: boolean] }>()

const { view } = useViewpoint()
const inCorner = (at: 'start' | 'end') => `In the ${corner(at, view.value?.page.language ?? '')}`
/** What people read of each slot; code has the one of its own, and no choice. */
const words = computed<Record<Exclude<Slot, 'code'>, { label: string; means: string }>>(() => ({
  top: { label: 'At the top', means: 'Room for two bars.' },
  bottom: { label: 'At the bottom', means: 'Room for one bar.' },
  'corner-end': { label: inCorner('end'), means: 'A small card. Room for one.' },
  'corner-start': { label: inCorner('start'), means: 'A small card. Room for one.' },
  centre: { label: 'In the middle', means: 'It holds the page until it is closed. Room for one.' },
  cover: { label: 'Over everything', means: 'The same, over the whole window.' },
  inline: { label: 'At a spot in the page', means: 'Among the page’s own sections, wherever you point.' },
  title: { label: 'In the tab title', means: 'Its words stand in the title of the browser’s tab.' },
}))
const slots = computed(() => Object.entries(words.value).map(([value, w]) => ({ value: value as Slot, ...w })))
const slot = computed<Slot>({ get: () => slotOf(notice.value), set: (v) => (notice.value.slot = v) })
const wheres: { value: NonNullable<Spot['where']>; label: string }[] = [
  { value: 'before', label: 'before' },
  { value: 'after', label: 'after' },
  { value: 'first', label: 'first inside' },
  { value: 'last', label: 'last inside' },
  { value: 'instead', label: 'instead of' },
]

/** The spots in the order in which they are tried: the one for all its pages comes last. */
const spots = computed<Spot[]>({
  get: () => [...(notice.value.spots ?? []), ...(notice.value.spot ? [notice.value.spot] : [])],
  set: (list) => {
    const last = list.at(-1)
    const main = last && !last.pages ? last : undefined
    const others = main ? list.slice(0, -1) : list
    if (main) notice.value.spot = main
    else delete notice.value.spot
    if (others.length) notice.value.spots = others
    else delete notice.value.spots
  },
})
const set = (i: number, part: Partial<Spot>) =>
  (spots.value = spots.value.map((s, j) => (j === i ? { ...s, ...part } : s)))
const drop = (i: number) => (spots.value = spots.value.filter((_, j) => j !== i))

// The pages of a spot: entries to choose from, and those it has.
const offered = computed<Entry[]>(() => {
  const distinct = (list: string[]) => [...new Set(list.filter(Boolean))].sort()
  const sections = props.known.filter((p) => p.path !== '/' && props.known.some((o) => isBelow(o.path, p.path)))
  return [
    ...props.sets.map((name): Entry => ({ match: 'set', name })),
    ...distinct(props.known.map((p) => p.type)).map((value): Entry => ({ match: 'type', value })),
    ...distinct(props.known.map((p) => p.language)).map((value): Entry => ({ match: 'language', value })),
    ...sections.map((p): Entry => ({ match: 'section', path: p.path })),
    ...props.known.map((p): Entry => ({ match: 'page', path: p.path })),
  ]
})
const key = (e: Entry) => JSON.stringify(e)
const choices = (s: Spot) => {
  const own = s.pages?.include ?? []
  return [...own, ...offered.value.filter((e) => !own.some((o) => key(o) === key(e)))]
}
function forPages(i: number, keys: string[]) {
  const include = keys.map((k) => JSON.parse(k) as Entry)
  const { exclude } = spots.value[i]?.pages ?? {}
  set(i, { pages: include.length ? { include, ...(exclude && { exclude }) } : undefined })
}
</script>

<template>
  <div :class="{ beside: slot === 'inline' }">
    <ChoiceWord v-model="slot" label="Where on the screen" :choices="slots" />
    <div v-if="slot === 'inline'" class="spots">
      <p v-if="spots.length > 1" class="small quiet">
        The first of these that is for the page, and that the page has, is taken.
      </p>
      <div v-for="(s, i) in spots" :key="i" class="spot">
        <el-select
          :model-value="s.where ?? 'after'"
          :aria-label="`On which side, spot ${i + 1}`"
          @change="(v: string) => set(i, { where: v as Spot['where'] })"
        >
          <el-option v-for="w in wheres" :key="w.value" :value="w.value" :label="w.label" />
        </el-select>
        <TextField
          :model-value="s.selector"
          :aria-label="`The element, as a CSS selector, spot ${i + 1}`"
          placeholder="main > h1"
          @change="(v: string) => set(i, { selector: v })"
        />
        <el-button text :aria-label="`Remove spot ${i + 1}`" title="Remove" @click="drop(i)">✕</el-button>
        <el-select
          v-if="spots.length > 1 || s.pages"
          class="for"
          multiple
          filterable
          persistent
          :model-value="(s.pages?.include ?? []).map(key)"
          :aria-label="`For which pages, spot ${i + 1}`"
          placeholder="for every page it is on"
          @change="(keys: string[]) => forPages(i, keys)"
        >
          <el-option v-for="e in choices(s)" :key="key(e)" :value="key(e)" :label="wordsOf(e)" />
        </el-select>
        <p v-if="s.pages?.exclude?.length" class="small quiet for">
          But not on {{ s.pages.exclude.map(wordsOf).join(', ') }}.
        </p>
      </div>
      <div class="acts">
        <el-button type="primary" @click="$emit('point', false)">{{
          spots.length ? 'Point at another' : 'Point at it on the stage'
        }}</el-button>
        <el-button v-if="spots.length" @click="$emit('point', true)">Add one for other pages</el-button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 20px;
  align-items: start;
}
@media (max-width: 700px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }
  .spots {
    order: -1;
  }
}
.spots p {
  margin: 0 0 6px;
}
.spot {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr) auto;
  gap: 6px;
  margin-bottom: 10px;
}
.for {
  grid-column: 1 / -1;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.acts .el-button {
  margin: 0;
}
</style>
