<script setup lang="ts">
// Begins a notice: a plain bar, or what is chosen among all that can be begun.
import { onClickOutside } from '@vueuse/core'
import { defineAsyncComponent, nextTick, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { beginNotice } from './begin'

defineProps<{ site: string }>()
const BeginPanel = defineAsyncComponent(() => import('./BeginPanel.vue'))
const router = useRouter()
const root = useTemplateRef<HTMLElement>('root')
const open = ref(false)

onClickOutside(root, () => (open.value = false))
/** Shuts the list; the focus goes back to what opened it, unless it has gone elsewhere. */
async function shut() {
  const inside = root.value?.contains(document.activeElement)
  open.value = false
  await nextTick()
  if (inside) root.value?.querySelector<HTMLElement>('[aria-expanded]')?.focus()
}
</script>

<template>
  <span ref="root" class="new">
    <el-button type="primary" @click="beginNotice(router, site)">New bar</el-button>
    <el-button aria-label="New, from a starting point" :aria-expanded="open" @click="open ? shut() : (open = true)"
      >From ▾</el-button
    >
    <BeginPanel v-if="open" :site="site" @close="shut" />
  </span>
</template>

<style scoped>
.new {
  position: relative;
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px;
}
.new :deep(.panel) {
  top: calc(100% + 6px);
}
</style>
