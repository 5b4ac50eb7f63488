<script setup lang="ts">
// What a disclaimer is about, what it wants of visitors, for how long their answer
// holds, and where those go who do not give it.
import { computed } from 'vue'
import type { Disclaimer, SiteDetail } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import { withOwn } from '../../../instruments/options'
import ChoiceWord from './ChoiceWord.vue'

const props = defineProps<{ site?: SiteDetail; over: boolean }>()
const disclaimer = defineModel<Disclaimer>({ required: true })

function set(part: Partial<Disclaimer>) {
  disclaimer.value = changed(disclaimer.value, part)
}
const ask = computed({ get: () => disclaimer.value.ask ?? 'read', set: (v) => set({ ask: v }) })
const asks = [
  { value: 'read' as const, label: 'To be read', means: 'It is shown, and closed like a bar.' },
  {
    value: 'acknowledge' as const,
    label: 'To be acknowledged',
    means: 'One button; it stays until that is pressed, and the answer is kept.',
  },
  {
    value: 'declare' as const,
    label: 'To be declared',
    means: 'Two buttons: something is so of the visitor, or it is not.',
  },
]
const documents = computed(() =>
  (props.site?.site.documents ?? []).map((d) => ({
    value: d.id,
    label: d.titles?.[props.site!.site.language] ?? d.published?.[props.site!.site.language]?.title ?? d.id,
    out: !!d.version,
  })),
)
const periods = [
  { value: 'ever', label: 'for good' },
  { value: 'P2Y', label: 'for 2 years' },
  { value: 'P1Y', label: 'for a year' },
  { value: 'P6M', label: 'for 6 months' },
  { value: 'P30D', label: 'for 30 days' },
  { value: 'session', label: 'for the visit' },
  { value: 'page', label: 'until the next page' },
]
const holds = computed(() => disclaimer.value.holds ?? 'ever')
const options = computed(() => withOwn(periods, holds.value))
</script>

<template>
  <div class="disclaimer">
    <label
      >It is about
      <el-select
        :empty-values="[null, undefined]"
        :model-value="disclaimer.document ?? ''"
        aria-label="The document that it is about"
        @change="(v: string) => set({ document: v })"
      >
        <el-option value="" label="its own text" />
        <el-option
          v-for="d in documents"
          :key="d.value"
          :value="d.value"
          :label="d.out ? d.label : `${d.label} (not published)`"
        />
      </el-select>
    </label>
    <ChoiceWord v-model="ask" label="What it wants" :choices="asks" />
    <template v-if="ask !== 'read'">
      <label
        >An answer holds
        <el-select
          :model-value="holds"
          aria-label="How long an answer holds"
          @change="(v: string) => set({ holds: v === 'ever' ? '' : v })"
        >
          <el-option v-for="p in options" :key="p.value" :value="p.value" :label="p.label" />
        </el-select>
      </label>
      <label
        >{{ ask === 'declare' ? 'Those of whom it is not so go to' : 'Those who do not acknowledge it go to' }}
        <el-input
          :model-value="disclaimer.else ?? ''"
          aria-label="Where the others go"
          placeholder="/ or https://…"
          @update:model-value="(v: string) => set({ else: v.trim() })"
        />
      </label>
      <el-checkbox v-if="over" :model-value="!!disclaimer.beforeConsent" @change="(on) => set({ beforeConsent: !!on })"
        >it does not wait for the consent question</el-checkbox
      >
      <p class="quiet small">
        It is asked again after each material change of the document. It is no lock: without script the page can be
        read.
      </p>
    </template>
  </div>
</template>

<style scoped>
.disclaimer {
  display: grid;
  gap: 10px;
}
.disclaimer > label:not(.el-checkbox) {
  display: grid;
  gap: 2px;
}
p {
  margin: 0;
}
</style>
