<script setup lang="ts">
// What sort of notice it is, and how much it matters.
import type { Notice } from '../../../api/client'
import ChoiceWord from './ChoiceWord.vue'

type Kind = Notice['kind']
const kind = defineModel<Kind>('kind', { required: true })
const level = defineModel<NonNullable<Notice['level']>>('level', { required: true })

const kinds: { value: Kind; label: string; means: string }[] = [
  { value: 'bar', label: 'Bar', means: 'An announcement.' },
  { value: 'alert', label: 'Alert', means: 'It says its level in a word and by a sign, and looks like it.' },
  { value: 'countdown', label: 'Countdown', means: 'Time to or since something.' },
  { value: 'pop-up', label: 'Pop-up', means: 'A card beside the page, or a dialog over it. Nothing of it is lost.' },
]
const levels = [
  { value: 'information' as const, label: 'Information', means: 'What most notices are.' },
  { value: 'promotion' as const, label: 'Promotion', means: 'Gives way to all others.' },
  { value: 'warning' as const, label: 'Warning', means: 'Goes before information.' },
  {
    value: 'emergency' as const,
    label: 'Emergency',
    means: 'Goes before everything and is read out at once; closed, it is back on the next page.',
  },
]
</script>

<template>
  <div class="kind">
    <ChoiceWord v-if="kinds.some((k) => k.value === kind)" v-model="kind" label="What it is" :choices="kinds" />
    <ChoiceWord v-model="level" label="How much it matters" :choices="levels" />
  </div>
</template>

<style scoped>
.kind {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
}
@media (max-width: 560px) {
  .kind {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
