<script setup lang="ts">
// The sound that a notice comes with, if any.
import type { Notice } from '../../api/client'
import OptionField from '../../instruments/OptionField.vue'

type Content = NonNullable<Notice['content']>
const content = defineModel<Content>({ required: true })
const sounds = [
  { value: '' as const, label: 'no sound' },
  { value: 'bell' as const, label: 'a bell' },
  { value: 'knock' as const, label: 'a knock' },
]
function set(sound: '' | NonNullable<Content['sound']>) {
  const next: Content = { ...content.value, sound: sound || undefined }
  if (!sound) delete next.sound
  content.value = next
}
</script>

<template>
  <div class="sound">
    <span>It comes with</span>
    <OptionField
      :model-value="content.sound ?? ''"
      label="Sound"
      :options="sounds"
      size="small"
      @update:model-value="set"
    />
    <span v-if="content.sound" class="quiet small">only once the visitor has done something on the page</span>
  </div>
</template>

<style scoped>
.sound {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.el-select {
  width: 140px;
}
</style>
