<script setup lang="ts">
// The colours of a notice, from the site's palette or any other, with the
// contrast of words and field as it changes.
import { computed, ref, watch } from 'vue'
import { api, type Contrast, type Site } from '../../../api/client'

interface Pair {
  background?: string
  text?: string
}
/**
 * `contrast` is what the core last said of the colours; without it they are measured here. `of` tells two editors
 * apart.
 */
const props = defineProps<{ palette: Site['palette']; contrast?: Contrast; legend: string; of?: string }>()
const look = defineModel<Pair>({ required: true })

const unknown = { background: '#16202e', text: '#ffffff', ratio: 21, passes: true, nearest: '' }
const measured = ref<Contrast>(props.contrast ?? unknown)
const like = (chosen: string | undefined, said: string) => !chosen || chosen.toLowerCase() === said.toLowerCase()
/** Takes what was said of the colours, unless others have been chosen meanwhile. */
function take(c: Contrast) {
  if (like(look.value.background, c.background) && like(look.value.text, c.text)) measured.value = c
}
watch(
  () => props.contrast,
  (c) => c && take(c),
)
watch(
  look,
  async (l, was) => {
    if (!l.background || (!was && props.contrast) || (!l.text && props.contrast)) return
    take(await api.contrast(l.background, l.text ?? '').catch(() => measured.value))
  },
  { immediate: true },
)
const background = computed(() => look.value.background ?? measured.value.background)
const text = computed(() => look.value.text ?? measured.value.text)
const set = (part: Pair) => (look.value = { ...look.value, ...part })
function automatic() {
  const rest = { ...look.value }
  delete rest.text
  look.value = rest
}
</script>

<template>
  <fieldset class="colours">
    <legend>{{ legend }}</legend>
    <div class="line">
      <span class="label">Field</span>
      <button
        v-for="c in palette"
        :key="c.value"
        type="button"
        class="swatch"
        :style="{ background: c.value }"
        :aria-label="`${of ?? ''}Field: ${c.name}`"
        :title="c.name"
        :aria-pressed="background.toLowerCase() === c.value.toLowerCase()"
        @click="set({ background: c.value })"
      ></button>
      <input
        type="color"
        :value="background"
        :aria-label="`${of ?? ''}Field: any colour`"
        title="Any colour"
        @input="set({ background: ($event.target as HTMLInputElement).value })"
      />
      <code>{{ background }}</code>
    </div>
    <div class="line">
      <span class="label">Words</span>
      <button type="button" class="auto" :aria-pressed="!look.text" @click="automatic">Best to read</button>
      <button
        v-for="c in [
          { name: 'White', value: '#ffffff' },
          { name: 'Ink', value: '#16202e' },
        ]"
        :key="c.value"
        type="button"
        class="swatch"
        :style="{ background: c.value }"
        :aria-label="`${of ?? ''}Words: ${c.name}`"
        :title="c.name"
        :aria-pressed="look.text === c.value"
        @click="set({ text: c.value })"
      ></button>
      <input
        type="color"
        :value="text"
        :aria-label="`${of ?? ''}Words: any colour`"
        title="Any colour"
        @input="set({ text: ($event.target as HTMLInputElement).value })"
      />
      <code>{{ text }}</code>
    </div>
    <p class="contrast figures" role="status" :class="{ low: !measured.passes }">
      <template v-if="measured.passes">Contrast {{ measured.ratio.toFixed(1) }} : 1. Easy to read.</template>
      <template v-else>
        Contrast {{ measured.ratio.toFixed(1) }} : 1, too low: 4.5 is needed.
        <button type="button" class="word" @click="set({ text: measured.nearest })">
          Use <span class="chip" :style="{ background: measured.nearest }"></span>{{ measured.nearest }}
        </button>
      </template>
    </p>
  </fieldset>
</template>

<style scoped>
.colours {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  font-weight: 600;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.label {
  width: 44px;
  color: var(--ink-2);
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
.contrast {
  margin: 0;
  color: var(--live);
}
.contrast.low {
  color: var(--alarm);
}
.chip {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin: 0 4px -1px 2px;
  border: 1px solid var(--ink-2);
}
</style>
