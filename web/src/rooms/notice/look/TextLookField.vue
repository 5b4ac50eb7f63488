<script setup lang="ts">
// How one text of a notice looks, where it is to look other than the rest.
import type { Site, TextLook } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import OptionField from '../../../instruments/OptionField.vue'
import { computed } from 'vue'
import ColourField from './ColourField.vue'

defineProps<{ label: string; palette: Site['palette'] }>()
const look = defineModel<TextLook | undefined>({ required: true })

function set(part: Partial<TextLook>) {
  const next = changed<TextLook>(look.value, part)
  look.value = Object.keys(next).length ? next : undefined
}
const weight = computed<string>({
  get: () => look.value?.weight ?? '',
  set: (w) => set({ weight: (w || undefined) as TextLook['weight'] }),
})
const weights = [
  { value: '', label: 'as usual' },
  { value: 'regular', label: 'regular' },
  { value: 'bold', label: 'bold' },
]
</script>

<template>
  <fieldset>
    <legend>{{ label }}</legend>
    <el-input-number
      :model-value="look?.size"
      :min="8"
      :max="120"
      size="small"
      controls-position="right"
      placeholder="px"
      :aria-label="`${label}: size, px`"
      @change="(n: number | undefined) => set({ size: n })"
    />
    <OptionField v-model="weight" :label="`${label}: weight`" :options="weights" class="weight" size="small" />
    <ColourField
      :model-value="look?.colour"
      :label="`${label}: colour`"
      :palette="palette"
      usual="as the words"
      @update:model-value="(colour) => set({ colour })"
    />
  </fieldset>
</template>

<style scoped>
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  padding: 0;
  color: var(--ink-2);
}
.el-input-number {
  width: 88px;
}
.weight {
  width: 110px;
}
</style>
