<script setup lang="ts">
// What a purpose is called and what it is for, in each of the site's languages.
import type { Purpose } from '../../api/client'
import { nameOf } from '../../instruments/languages'
import { useConsent } from './consent'

/** `known`: it brings words along. */
defineProps<{ known?: boolean }>()
const words = defineModel<Purpose['words']>()
const { languages } = useConsent()

function set(tag: string, part: { name?: string; text?: string }) {
  const all = { ...words.value }
  const next = { ...all[tag], ...part } as { name: string; text?: string }
  if (!next.name && !next.text) delete all[tag]
  else all[tag] = next
  words.value = all
}
</script>

<template>
  <fieldset v-for="(tag, i) in languages" :key="tag">
    <legend>{{ nameOf(tag) }}</legend>
    <el-input
      :model-value="words?.[tag]?.name ?? ''"
      :lang="tag"
      :required="!known && i === 0"
      :placeholder="known ? 'as it comes' : 'What it is called'"
      :aria-label="`What it is called, in ${nameOf(tag)}`"
      @update:model-value="(v: string) => set(tag, { name: v })"
    />
    <el-input
      :model-value="words?.[tag]?.text ?? ''"
      :lang="tag"
      type="textarea"
      autosize
      :placeholder="known ? 'as it comes' : 'What it is for'"
      :aria-label="`What it is for, in ${nameOf(tag)}`"
      @update:model-value="(v: string) => set(tag, { text: v })"
    />
  </fieldset>
</template>

<style scoped>
fieldset {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  font-size: 12px;
}
</style>
