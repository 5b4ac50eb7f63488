<script setup lang="ts">
// Code for one place of a page, highlighted, with the first mistake in it.
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { CodeCheck } from '../../../api/client'
import type { Highlighted } from './highlighted'

const props = defineProps<{ label: string; fault?: CodeCheck['faults'][number]; readOnly: boolean }>()
const text = defineModel<string>({ required: true })

const box = useTemplateRef<HTMLElement>('box')
let editor: Highlighted | undefined
let gone = false
const says = computed(() => {
  const f = props.fault
  return f
    ? `Line ${f.line}, column ${f.column}: ${f.what}. ${f.remedy.charAt(0).toUpperCase()}${f.remedy.slice(1)}.`
    : ''
})
const mark = () => editor?.mark(props.fault ? [{ ...props.fault, says: props.fault.what }] : [])

onMounted(async () => {
  const { highlighted } = await import('./highlighted')
  if (gone || !box.value) return
  editor = highlighted(box.value, text.value, props.label, props.readOnly, (t) => (text.value = t))
  mark()
})
watch(text, (t) => editor?.set(t))
watch(() => props.fault, mark)
onBeforeUnmount(() => {
  gone = true
  editor?.destroy()
})
</script>

<template>
  <div class="place">
    <h2>{{ label }}</h2>
    <div ref="box" class="code" :data-code="label"></div>
    <p v-if="says" class="error small" role="status">{{ says }}</p>
  </div>
</template>

<style scoped>
.place {
  min-width: 0;
}
h2 {
  margin: 0 0 4px;
  font-size: 14px;
}
.code {
  min-height: 92px;
}
.error {
  margin: 2px 0 0;
  color: var(--alarm);
}
</style>
