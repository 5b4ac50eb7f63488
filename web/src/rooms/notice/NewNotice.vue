<script setup lang="ts">
// Begins a notice: one control for all that can be begun. Enter takes a plain bar.
import { onClickOutside } from '@vueuse/core'
import { defineAsyncComponent, nextTick, ref, useTemplateRef } from 'vue'

defineProps<{ site: string }>()
/** The list is fetched when the button is approached, so that what is typed right after a press reaches its field. */
const load = () => import('./BeginPanel.vue')
const BeginPanel = defineAsyncComponent(load)
const root = useTemplateRef<HTMLElement>('root')
const open = ref(false)

onClickOutside(root, () => (open.value = false))
defineExpose({ begin: () => (open.value = true) })
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
    <el-button
      type="primary"
      :aria-expanded="open"
      aria-haspopup="dialog"
      @pointerenter="load"
      @focus="load"
      @click="open ? shut() : (open = true)"
      >New notice</el-button
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
