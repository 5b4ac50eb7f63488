<script setup lang="ts">
// One colour: one of those that are offered, or any other; or it is left as it is.
import type { Site } from '../../../api/client'

/** `usual` says what holds where none is chosen, and can be chosen too; `shown` is the colour that this comes to. */
defineProps<{ label: string; palette: Site['palette']; usual?: string; shown?: string }>()
const colour = defineModel<string | undefined>({ required: true })
</script>

<template>
  <div class="line" role="group" :aria-label="label">
    <button v-if="usual" type="button" class="auto small" :aria-pressed="!colour" @click="colour = undefined">
      {{ usual }}
    </button>
    <button
      v-for="c in palette"
      :key="c.value"
      type="button"
      class="swatch"
      :style="{ background: c.value }"
      :aria-label="`${label}: ${c.name}`"
      :title="c.name"
      :aria-pressed="colour?.toLowerCase() === c.value.toLowerCase()"
      @click="colour = c.value"
    ></button>
    <input
      type="color"
      :value="colour ?? shown ?? '#888888'"
      :aria-label="`${label}: any colour`"
      title="Any colour"
      @input="colour = ($event.target as HTMLInputElement).value"
    />
    <code v-if="colour || shown">{{ colour ?? shown }}</code>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.swatch,
.auto,
input[type='color'] {
  width: 26px;
  height: 26px;
  padding: 0;
  border: 1px solid var(--ink-2);
  border-radius: 3px;
  cursor: pointer;
}
input[type='color'] {
  width: 36px;
  padding: 2px;
  background: var(--sail);
}
.auto {
  width: auto;
  padding: 0 8px;
  background: var(--sail);
  color: var(--ink);
}
[aria-pressed='true'] {
  outline: 2px solid var(--sea);
  outline-offset: 1px;
}
code {
  color: var(--ink-2);
  font: 12px/1 var(--text);
}
</style>
