<script setup lang="ts">
// Where: include and exclude entries, and the site's pages to choose from by
// clicking.
import { computed, ref } from 'vue'
import type { Entry, Finding, SiteDetail } from '../../../api/client'
import { fields, matches, put, toggled, without, type Conditions, type List, type Match } from './places'
import { isBelow, steps } from '../../../instruments/paths'

const props = defineProps<{
  known: SiteDetail['pages']
  on: string[]
  unplaced: string[]
  fresh: string[]
  sets: string[]
  findings: Finding[]
}>()
const pages = defineModel<Conditions>({ required: true })
const emit = defineEmits<{ save: [name: string, pages: Conditions, then: () => void] }>()

const distinct = (list: string[]) => [...new Set(list.filter(Boolean))].sort()
const offered = computed<Partial<Record<Match, string[]>>>(() => ({
  page: props.known.map((p) => p.path),
  section: props.known.map((p) => p.path),
  type: distinct(props.known.map((p) => p.type)),
  tag: distinct(props.known.flatMap((p) => p.tags)),
  language: distinct(props.known.map((p) => p.language)),
}))

const lists: List[] = ['include', 'exclude']
const entries = (list: List) => pages.value[list] ?? []
const add = (list: List) => (pages.value = put(pages.value, list, [...entries(list), { match: 'page', path: '/' }]))
const drop = (list: List, i: number) => (pages.value = without(pages.value, list, i))
function change(list: List, i: number, match: Match, text: string, value?: string) {
  const entry: Entry = { match }
  const field = fields[match]
  const first = {
    path: '/',
    pattern: '/*',
    name: match === 'set' ? (props.sets[0] ?? '') : 'from',
    value: offered.value[match]?.[0] ?? '',
  }
  if (field) entry[field] = text || first[field]
  if (match === 'query' && value) entry.value = value
  pages.value = put(
    pages.value,
    list,
    entries(list).map((e, j) => (j === i ? entry : e)),
  )
}
const textOf = (e: Entry) => e[fields[e.match] ?? 'path'] ?? ''

// The tree of pages.
const filter = ref('')
const shown = computed(() => {
  const q = filter.value.toLowerCase()
  return props.known.filter((p) => `${p.path} ${p.title}`.toLowerCase().includes(q))
})
const carried = computed(() => new Set(props.on))
const depth = (path: string) => steps(path).length - 1
const hasBelow = (path: string) => path !== '/' && props.known.some((p) => isBelow(p.path, path))
const excludedBy = (path: string) =>
  entries('exclude').findIndex((e) => (e.match === 'page' || e.match === 'section') && e.path === path)
const toggle = (path: string, match: 'page' | 'section') =>
  (pages.value = toggled(pages.value, carried.value.has(path), path, match))

const naming = ref(false)
const name = ref('')
function save() {
  const to = name.value.trim()
  if (!to) return
  emit('save', to, pages.value, () => (pages.value = { include: [{ match: 'set', name: to }] }))
  naming.value = false
  name.value = ''
}
</script>

<template>
  <div class="pages">
    <div class="entries">
      <div v-for="list in lists" :key="list" class="list" :data-list="list">
        <b>{{ list === 'include' ? 'Show it on' : 'But never on' }}</b>
        <div v-for="(e, i) in entries(list)" :key="i" class="entry">
          <el-select
            :model-value="e.match"
            :aria-label="`Kind of place ${i + 1}`"
            @change="
              (m: Match) => change(list, i, m, fields[m] === fields[e.match] && fields[m] === 'path' ? textOf(e) : '')
            "
          >
            <el-option
              v-for="m in matches.filter((x) => x.value !== 'set' || sets.length)"
              :key="m.value"
              :value="m.value"
              :label="m.label"
            />
          </el-select>
          <span v-if="e.match === 'query'" class="two">
            <el-input
              :model-value="e.name"
              :aria-label="`Name ${i + 1}`"
              placeholder="from"
              @update:model-value="(v: string) => change(list, i, e.match, v, e.value)"
            />
            =
            <el-input
              :model-value="e.value ?? ''"
              :aria-label="`Value ${i + 1}`"
              placeholder="anything"
              @update:model-value="(v: string) => change(list, i, e.match, e.name ?? '', v)"
            />
          </span>
          <el-select
            v-else-if="e.match === 'set'"
            :model-value="e.name"
            :aria-label="`Page set ${i + 1}`"
            @change="(v: string) => change(list, i, e.match, v)"
          >
            <el-option v-for="s in sets" :key="s" :value="s" :label="s" />
          </el-select>
          <el-input
            v-else-if="fields[e.match]"
            :model-value="textOf(e)"
            :list="offered[e.match] ? 'offered-' + e.match : undefined"
            :aria-label="
              e.match === 'page' || e.match === 'section' || e.match === 'pattern' ? `Path ${i + 1}` : `Value ${i + 1}`
            "
            :placeholder="e.match === 'pattern' ? '/news/*' : '/book'"
            @update:model-value="(v: string) => change(list, i, e.match, v)"
          />
          <el-button text :aria-label="`Remove place ${i + 1}`" title="Remove" @click="drop(list, i)">✕</el-button>
        </div>
        <el-button size="small" @click="add(list)">{{
          list === 'include' ? 'Add a place' : 'Leave a place out'
        }}</el-button>
      </div>
      <datalist v-for="(words, match) in offered" :id="'offered-' + match" :key="match">
        <option v-for="w in words" :key="w" :value="w"></option>
      </datalist>
      <p class="count figures" role="status">{{ on.length }} of {{ known.length }} known pages carry it.</p>
      <ul v-if="findings.length" class="plainlist small found">
        <li v-for="f in findings" :key="f.code + f.pointers[0]">{{ f.what }}</li>
      </ul>
    </div>
    <div v-if="known.length" class="tree">
      <div class="top">
        <b>Or choose pages</b>
        <el-input v-model="filter" size="small" placeholder="Find a page" aria-label="Find among the pages" clearable />
      </div>
      <ul class="plainlist" tabindex="0" aria-label="Pages of the site">
        <li v-for="p in shown" :key="p.path" :class="{ carried: carried.has(p.path), out: excludedBy(p.path) >= 0 }">
          <button
            type="button"
            class="toggle"
            :aria-pressed="carried.has(p.path)"
            :style="{ paddingInlineStart: 6 + depth(p.path) * 14 + 'px' }"
            @click="toggle(p.path, 'page')"
          >
            <span class="mark" aria-hidden="true">{{
              carried.has(p.path) ? '●' : excludedBy(p.path) >= 0 ? '✕' : '○'
            }}</span>
            <span>{{ p.path }}</span> <span v-if="unplaced.includes(p.path)" class="small found">no spot there</span>
            <span v-if="fresh.includes(p.path)" class="small quiet">new, took it by itself</span>
            <span class="quiet small">{{ p.title }}</span>
          </button>
          <button
            v-if="hasBelow(p.path)"
            type="button"
            class="word small"
            :aria-label="`${p.path} and all below it`"
            @click="toggle(p.path, 'section')"
          >
            and all below
          </button>
        </li>
      </ul>
    </div>
    <el-button v-if="!naming" size="small" text class="save" @click="naming = true"
      >Save these places as a page set</el-button
    >
    <form v-else class="naming" @submit.prevent="save">
      <el-input
        v-model="name"
        size="small"
        placeholder="Name of the page set"
        aria-label="Name of the page set"
        maxlength="100"
      />
      <el-button size="small" native-type="submit">Save</el-button>
    </form>
  </div>
</template>

<style scoped>
.pages {
  display: grid;
  grid-template-columns: minmax(0, 10fr) minmax(0, 9fr);
  gap: 12px 20px;
}
.entries {
  display: grid;
  gap: 12px;
  align-content: start;
}
.save,
.naming {
  grid-column: 1 / -1;
}
.list {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.entry {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 6px;
  width: 100%;
}
.entry > :last-child {
  grid-column: 3;
}
.two {
  display: flex;
  gap: 6px;
  align-items: center;
}
.count {
  margin: 0;
  color: var(--ink-2);
}
.found {
  color: var(--wait);
}
.tree ul {
  max-height: 330px;
  overflow: auto;
  border: 1px solid var(--line);
}
.tree li {
  display: flex;
  align-items: center;
}
.top {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 4px;
}
.top .el-input {
  max-width: 200px;
}
.toggle {
  flex: 1;
  overflow: hidden;
  padding: 2px 6px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: start;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.toggle:hover {
  background: var(--chart);
}
.tree li .word {
  margin-inline-end: 8px;
  white-space: nowrap;
}
.mark {
  display: inline-block;
  width: 16px;
}
.carried .mark {
  color: var(--live);
}
.out .mark {
  color: var(--alarm);
}
.save {
  justify-self: start;
}
.naming {
  display: flex;
  gap: 6px;
  max-width: 340px;
}
@media (max-width: 800px) {
  .pages {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 560px) {
  .entry {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .entry > :last-child {
    grid-area: 1 / 2;
  }
}
</style>
