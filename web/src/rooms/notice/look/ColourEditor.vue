<script setup lang="ts">
// The colours of a notice, from the site's palette or any other, with the
// contrast of words and field as it changes.
import { computed, ref, watch } from 'vue'
import { api, type Contrast, type Site } from '../../../api/client'
import ColourField from './ColourField.vue'

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
const inks = [
  { name: 'White', value: '#ffffff' },
  { name: 'Ink', value: '#16202e' },
]
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
      <ColourField
        :model-value="background"
        :label="`${of ?? ''}Field`"
        :palette="palette"
        @update:model-value="(c) => set({ background: c })"
      />
    </div>
    <div class="line">
      <span class="label">Words</span>
      <ColourField
        :model-value="look.text"
        :label="`${of ?? ''}Words`"
        :palette="inks"
        usual="Best to read"
        :shown="text"
        @update:model-value="(c) => (c ? set({ text: c }) : automatic())"
      />
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
