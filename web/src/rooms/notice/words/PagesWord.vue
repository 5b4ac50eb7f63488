<script setup lang="ts">
// Where: include and exclude entries.
import { computed } from 'vue'
import type { Entry, Notice } from '../../../api/client'

type Conditions = NonNullable<Notice['pages']>
defineProps<{ known: string[]; on: string[] }>()
const pages = defineModel<Conditions>({ required: true })

const include = computed(() => pages.value.include ?? [])
const exclude = computed(() => pages.value.exclude ?? [])
const matches = [
  { value: 'all', label: 'every page' },
  { value: 'home', label: 'the home page' },
  { value: 'page', label: 'the page' },
  { value: 'section', label: 'the page and all below it,' },
  { value: 'pattern', label: 'pages like' },
] as const

function put(list: 'include' | 'exclude', entries: Entry[]) {
  const next = { ...pages.value, [list]: entries }
  if (!next.exclude?.length) delete next.exclude
  pages.value = next
}
const add = (list: 'include' | 'exclude') => put(list, [...(pages.value[list] ?? []), { match: 'page', path: '/' }])
const drop = (list: 'include' | 'exclude', i: number) =>
  put(
    list,
    (pages.value[list] ?? []).filter((_, j) => j !== i),
  )
function change(list: 'include' | 'exclude', i: number, match: Entry['match'], value: string) {
  let entry: Entry = { match }
  if (match === 'page' || match === 'section') entry = { match, path: value || '/' }
  if (match === 'pattern') entry = { match, pattern: value || '/*' }
  put(
    list,
    (pages.value[list] ?? []).map((e, j) => (j === i ? entry : e)),
  )
}
</script>

<template>
  <div class="pages">
    <div v-for="list in ['include', 'exclude'] as const" :key="list" class="list" :data-list="list">
      <b>{{ list === 'include' ? 'Show it on' : 'But never on' }}</b>
      <div v-for="(e, i) in list === 'include' ? include : exclude" :key="i" class="entry">
        <el-select
          :model-value="e.match"
          :aria-label="`Kind of place ${i + 1}`"
          @change="(m: Entry['match']) => change(list, i, m, e.path ?? e.pattern ?? '')"
        >
          <el-option v-for="m in matches" :key="m.value" :value="m.value" :label="m.label" />
        </el-select>
        <el-input
          v-if="e.match !== 'all' && e.match !== 'home'"
          :model-value="e.path ?? e.pattern ?? ''"
          :list="e.match === 'pattern' ? undefined : 'places'"
          :aria-label="`Path ${i + 1}`"
          :placeholder="e.match === 'pattern' ? '/news/*' : '/book'"
          @update:model-value="(v: string) => change(list, i, e.match, v)"
        />
        <el-button text :aria-label="`Remove place ${i + 1}`" title="Remove" @click="drop(list, i)">✕</el-button>
      </div>
      <el-button size="small" @click="add(list)">{{ list === 'include' ? 'Add a place' : 'Leave a place out' }}</el-button>
    </div>
    <datalist id="places"><option v-for="p in known" :key="p" :value="p"></option></datalist>
    <p class="count figures" role="status">{{ on.length }} of {{ known.length }} known pages carry it.</p>
  </div>
</template>

<style scoped>
.pages {
  display: grid;
  gap: 12px;
}
.list {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.entry {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr) auto;
  gap: 6px;
  width: 100%;
}
.entry > :last-child {
  grid-column: 3;
}
.count {
  margin: 0;
  color: var(--ink-2);
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
