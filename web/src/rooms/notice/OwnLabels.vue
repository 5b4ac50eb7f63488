<script setup lang="ts">
// A language's own words for the units of a countdown, one for each form that
// the language's numbers take.
import { computed } from 'vue'
import type { Countdown, Wording } from '../../api/client'
import TextField from '../../instruments/TextField.vue'

const props = defineProps<{ lang: string; name: string; countdown: Countdown }>()
const wording = defineModel<Wording>({ required: true })

const units = computed(() => props.countdown.units ?? ['days', 'hours', 'minutes', 'seconds'])
/** The forms, each with a number that takes it. */
const forms = computed(() => {
  const rules = new Intl.PluralRules(props.lang)
  const found: Record<string, number> = {}
  for (let n = 1; n < 200; n++) found[rules.select(n)] ??= n
  return Object.entries(found).map(([form, n]) => ({ form, n }))
})
const of = (unit: string, form: string) => wording.value.labels?.[unit]?.[form] ?? ''
function put(unit: string, form: string, word: string) {
  const mine: Record<string, string> = { ...wording.value.labels?.[unit], [form]: word }
  if (!word) delete mine[form]
  // One word is enough to begin with: it stands for the other forms too.
  if (!mine.other && Object.keys(mine).length) mine.other = word
  const labels: Record<string, Record<string, string>> = { ...wording.value.labels, [unit]: mine }
  if (!Object.keys(mine).length) delete labels[unit]
  const next = { ...wording.value, labels }
  if (!Object.keys(labels).length) delete (next as Wording).labels
  wording.value = next
}
</script>

<template>
  <fieldset class="own">
    <legend>Words beside the figures</legend>
    <template v-for="u in units" :key="u">
      <span class="quiet small">{{ u }}</span>
      <label v-for="f in forms" :key="f.form" class="small"
        >{{ f.n }}
        <TextField
          :model-value="of(u, f.form)"
          size="small"
          maxlength="40"
          :aria-label="`${u}, as with ${f.n}, in ${name}`"
          @change="(v: string) => put(u, f.form, v.trim())"
        />
      </label>
    </template>
  </fieldset>
</template>

<style scoped>
.own {
  display: grid;
  grid-template-columns: auto repeat(auto-fill, minmax(96px, 1fr));
  gap: 4px 8px;
  align-items: center;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  font-weight: 600;
}
.own > span {
  grid-column: 1;
}
label {
  display: flex;
  gap: 4px;
  align-items: center;
}
</style>
