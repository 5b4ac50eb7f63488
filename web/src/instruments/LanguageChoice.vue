<script setup lang="ts">
// One language or several, found by name in English, by their own name, or by tag. A tag that is not listed, such as
// one with a region, can be typed.
import { computed, ref } from 'vue'
import { languageTags, nameOf, ownNameOf, tagOf } from './languages'

const props = defineProps<{ label: string; multiple?: boolean }>()
const chosen = defineModel<string | string[]>({ required: true })

const find = ref('')
const described = (tag: string) => {
  const own = ownNameOf(tag)
  return own && own !== nameOf(tag) ? `${nameOf(tag)} · ${own}` : nameOf(tag)
}
const options = computed(() => {
  const mine = Array.isArray(chosen.value) ? chosen.value : [chosen.value]
  const wanted = find.value.trim().toLowerCase()
  const typed = tagOf(wanted)
  return [...new Set([...mine.filter(Boolean), ...languageTags, ...(typed ? [typed] : [])])]
    .map((tag) => ({ tag, label: described(tag) }))
    .filter(({ tag, label }) => `${label} ${tag}`.toLowerCase().includes(wanted))
    .sort((a, b) => a.label.localeCompare(b.label))
})
const search = (text: string) => (find.value = text)
</script>

<template>
  <el-select
    v-model="chosen"
    :multiple="props.multiple"
    filterable
    persistent
    :filter-method="search"
    :aria-label="label"
    placeholder="Type a language"
    @visible-change="(open: boolean) => open && search('')"
  >
    <template #label="{ value }">{{ nameOf(value) }}</template>
    <el-option v-for="o in options" :key="o.tag" :value="o.tag" :label="o.label">
      {{ o.label }} <span class="quiet small">{{ o.tag }}</span>
    </el-option>
  </el-select>
</template>
