<script setup lang="ts">
// One link of a part: the words on it, where it leads, and its form.
import type { PartWords } from '../../../api/client'

type Link = NonNullable<PartWords['links']>[number]
defineProps<{ link: Link; number: number; lang: string; name: string }>()
const emit = defineEmits<{ change: [part: Partial<Link>]; remove: [] }>()
</script>

<template>
  <div class="link-row">
    <el-input
      :model-value="link.label"
      :aria-label="`Words on link ${number}, ${name}`"
      placeholder="Words on it"
      maxlength="200"
      :lang="lang"
      @update:model-value="(v: string) => emit('change', { label: v })"
    />
    <el-input
      :model-value="link.href"
      :aria-label="`Address of link ${number}, ${name}`"
      list="known-to-parts"
      placeholder="/status or https://…"
      @update:model-value="(v: string) => emit('change', { href: v })"
    />
    <el-select
      :model-value="link.as ?? 'button'"
      size="small"
      :aria-label="`Form of link ${number}`"
      @change="(v: Link['as']) => emit('change', { as: v })"
    >
      <el-option value="button" label="a button" /><el-option value="link" label="plain words" />
    </el-select>
    <el-button size="small" text :aria-label="`Remove link ${number}`" @click="emit('remove')">✕</el-button>
  </div>
</template>

<style scoped>
.link-row {
  display: grid;
  grid-template-columns: 1fr 1fr 96px auto;
  gap: 4px;
  align-items: center;
  width: 100%;
}
.link-row .el-button {
  margin: 0;
}
@media (max-width: 560px) {
  .link-row {
    grid-template-columns: 1fr auto;
  }
}
</style>
