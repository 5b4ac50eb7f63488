<script setup lang="ts">
// How a consent notice asks: for how long an answer holds, and where refusing
// and asking again stand. What would be no consent is said beside it.
import { computed } from 'vue'
import type { Question } from '../../../api/client'
import { copy } from '../../../instruments/copy'
import { corner } from '../../../instruments/languages'
import PeriodChoice from '../../../instruments/PeriodChoice.vue'
import { useViewpoint } from '../../../instruments/viewpoint'

const { view } = useViewpoint()
const question = defineModel<Question>({ required: true })

function set(part: Partial<Question>) {
  const next: Record<string, unknown> = { ...question.value, ...part }
  for (const [k, v] of Object.entries(next)) if (v === undefined || (Array.isArray(v) && !v.length)) delete next[k]
  question.value = next as Question
}
const days = [
  { value: 'P1D', label: 'a day' },
  { value: 'P1W', label: 'a week' },
]
const periods = [
  { value: 'P30D', label: '30 days' },
  { value: 'P90D', label: '90 days' },
  { value: 'P180D', label: '180 days' },
  { value: 'P1Y', label: 'a year' },
  { value: 'P13M', label: '13 months' },
]
const footerLink = '<a href="#" data-mastflag-consent>Privacy choices</a>'
const holds = computed(() => question.value.holds ?? 'P180D')
/** A refusal holds for as long as agreement unless something else is said. */
const same = { value: 'same', label: 'as long as agreeing' }
const refusal = computed({
  get: () => question.value.refusalHolds ?? same.value,
  set: (v) => set({ refusalHolds: v === same.value ? undefined : v }),
})
</script>

<template>
  <div class="consent">
    <div class="pair">
      <label
        >Agreeing holds for
        <PeriodChoice
          :model-value="holds"
          label="Agreeing holds for"
          :usual="periods"
          @update:model-value="(v) => set({ holds: v })"
        />
      </label>
      <label
        >Refusing holds for
        <PeriodChoice v-model="refusal" label="Refusing holds for" :usual="[same, ...days, ...periods]" />
      </label>
      <label
        >Refusing stands
        <el-select
          :model-value="question.refuse ?? 'beside'"
          aria-label="Refusing stands"
          @change="(v: 'beside' | 'behind') => set({ refuse: v })"
        >
          <el-option value="beside" label="beside accepting" />
          <el-option value="behind" label="only behind “Choose”" />
        </el-select>
      </label>
      <label
        >The purposes
        <el-select
          :model-value="question.purposes ?? 'behind'"
          aria-label="The purposes"
          @change="(v: 'behind' | 'shown') => set({ purposes: v === 'shown' ? v : undefined })"
        >
          <el-option value="behind" label="are listed behind “Choose”" />
          <el-option value="shown" label="are listed at once" />
        </el-select>
      </label>
    </div>
    <label
      >The control that asks again
      <el-select
        :model-value="question.again ?? 'start'"
        aria-label="The control that asks again"
        @change="(v: 'start' | 'end' | 'none') => set({ again: v })"
      >
        <el-option value="start" :label="`in the ${corner('start', view?.page.language ?? '')}`" />
        <el-option value="end" :label="`in the ${corner('end', view?.page.language ?? '')}`" />
        <el-option value="none" label="none: every page has a link of its own" />
      </el-select>
    </label>
    <div v-if="question.again !== 'none'" class="pair">
      <el-select
        :model-value="question.againForm ?? 'small'"
        aria-label="Its form"
        @change="(v: 'small' | 'tab') => set({ againForm: v === 'tab' ? v : undefined })"
      >
        <el-option value="small" label="small" />
        <el-option value="tab" label="a tab at the edge of that side" />
      </el-select>
      <el-select
        :model-value="question.againColours ?? 'plain'"
        aria-label="Its colours"
        @change="(v: 'plain' | 'notice') => set({ againColours: v === 'notice' ? v : undefined })"
      >
        <el-option value="plain" label="black on white" />
        <el-option value="notice" label="the notice’s colours" />
      </el-select>
    </div>
    <p class="small">
      <button type="button" class="word" @click="copy(footerLink)">Copy a link</button> for the page’s own footer:
      <code>{{ footerLink }}</code>
    </p>
    <fieldset>
      <legend>Where the rule is not opt-in</legend>
      <el-checkbox
        :model-value="question.closing === 'accept'"
        @change="(on) => set({ closing: on ? 'accept' : undefined })"
        >closing it agrees to all</el-checkbox
      >
      <el-checkbox
        :model-value="question.goingOn === 'accept'"
        @change="(on) => set({ goingOn: on ? 'accept' : undefined })"
        >going on to another page agrees to all</el-checkbox
      >
      <p class="quiet small">
        Where it is opt-in only a press counts, whatever is set here. Nothing is ever ticked beforehand there.
      </p>
    </fieldset>
    <p class="small">
      What it asks about is the same for the whole site:
      <router-link :to="{ name: 'consent', params: { part: 'asks' } }">Consent</router-link>.
    </p>
  </div>
</template>

<style scoped>
.consent {
  display: grid;
  gap: 10px;
}
.consent label:not(.el-checkbox) {
  display: grid;
  gap: 2px;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px;
  align-items: start;
}
code {
  overflow-wrap: anywhere;
}
fieldset {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  padding: 0;
  font-weight: 600;
}
p {
  margin: 0;
}
</style>
