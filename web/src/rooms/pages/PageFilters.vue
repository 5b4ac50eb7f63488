<script setup lang="ts">
// Which pages are shown, and which notice is being placed on them.
import { computed } from 'vue'
import { nameOf } from '../../instruments/languages'
import { mayWrite } from '../../instruments/me'
import { useNames } from '../../instruments/names'
import { loads, type PageFilter } from './filter'
import { usePages } from './pages'

defineProps<{ places: boolean }>()
const filter = defineModel<PageFilter>({ required: true })
const { site, pages, placing } = usePages()
const { names, find, remote } = useNames(site)

const distinct = (list: string[]) => [...new Set(list.filter(Boolean))].sort()
const same = (list: string[]) => distinct(list).map((value) => ({ value, label: value }))
const choices = computed(() => [
  { of: 'type' as const, any: 'any type', name: 'Type of page', options: same(pages.value.map((p) => p.type)) },
  { of: 'tag' as const, any: 'any tag', name: 'Tag of page', options: same(pages.value.flatMap((p) => p.tags)) },
  {
    of: 'language' as const,
    any: 'any language',
    name: 'Language of page',
    options: distinct(pages.value.map((p) => p.language)).map((value) => ({ value, label: nameOf(value) })),
  },
  { of: 'load' as const, any: 'carry anything', name: 'What pages carry', options: loads },
])
const choose = (of: keyof PageFilter, value?: string) => (filter.value = { ...filter.value, [of]: value ?? '' })
</script>

<template>
  <div class="filters">
    <el-select
      v-for="c in choices"
      :key="c.of"
      :model-value="filter[c.of]"
      size="small"
      clearable
      :placeholder="c.any"
      :aria-label="c.name"
      @update:model-value="(v: string | undefined) => choose(c.of, v)"
    >
      <el-option v-for="o in c.options" :key="o.value" :value="o.value" :label="o.label" />
    </el-select>
    <el-select
      v-if="mayWrite && places"
      v-model="placing"
      size="small"
      clearable
      filterable
      persistent
      :remote="remote"
      :remote-method="find"
      class="placing"
      placeholder="Place a notice…"
      aria-label="Notice to place"
      @clear="placing = ''"
    >
      <el-option v-for="n in names" :key="n.id" :value="n.id" :label="n.title" />
    </el-select>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 8px;
}
.filters .el-select {
  width: 128px;
}
.filters .placing {
  flex: 1;
  min-width: 150px;
}
</style>
