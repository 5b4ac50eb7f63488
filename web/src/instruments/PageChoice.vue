<script setup lang="ts">
// Some of a site's pages, found by path or title. A path that is not known yet can be typed.
import { computed, ref } from 'vue'

const props = defineProps<{ label: string; known: { path: string; title: string }[]; placeholder?: string }>()
const chosen = defineModel<string[]>({ required: true })

/** More than these are not listed at once: a site may have tens of thousands. */
const most = 50
const find = ref('')
const options = computed(() => {
  const wanted = find.value.trim().toLowerCase()
  const listed = props.known.filter((p) => `${p.path} ${p.title}`.toLowerCase().includes(wanted)).slice(0, most)
  const typed = wanted.startsWith('/') && !listed.some((p) => p.path === find.value.trim())
  return typed ? [...listed, { path: find.value.trim(), title: 'not a known page' }] : listed
})
const search = (text: string) => (find.value = text)
</script>

<template>
  <el-select
    v-model="chosen"
    multiple
    filterable
    persistent
    :filter-method="search"
    :aria-label="label"
    :placeholder="placeholder"
    @visible-change="(open: boolean) => open && search('')"
  >
    <template #label="{ value }">{{ value }}</template>
    <el-option v-for="p in options" :key="p.path" :value="p.path" :label="p.path">
      {{ p.path }} <span class="quiet small">{{ p.title }}</span>
    </el-option>
  </el-select>
</template>
