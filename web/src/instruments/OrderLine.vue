<script setup lang="ts">
// A notice as one plain sentence. Where it can be edited, its underlined words
// are the controls: each opens the editor of what it says. They are no button
// elements, because those do not break over lines as words do.
import type { Word } from '../api/client'

defineProps<{ line: Word[]; editable?: boolean }>()
defineEmits<{ change: [control: NonNullable<Word['control']>, word: HTMLElement] }>()
</script>

<template>
  <p class="line">
    <template v-for="(w, i) in line" :key="i">
      <span
        v-if="editable && w.control"
        role="button"
        tabindex="0"
        class="word"
        :data-control="w.control"
        @click="$emit('change', w.control, $event.currentTarget as HTMLElement)"
        @keydown.enter.prevent="$emit('change', w.control, $event.currentTarget as HTMLElement)"
        @keydown.space.prevent="$emit('change', w.control, $event.currentTarget as HTMLElement)"
        >{{ w.text }}</span><template v-else>{{ w.text }}</template>
    </template>
  </p>
</template>

<style scoped>
.line {
  margin: 0;
}
.word {
  display: inline;
}
</style>
