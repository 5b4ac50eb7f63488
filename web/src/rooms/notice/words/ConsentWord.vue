<script setup lang="ts">
// How a consent notice asks: for how long an answer holds, and where refusing
// and asking again stand. What would be no consent is said beside it.
import { computed } from 'vue'
import type { Question } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import { copy } from '../../../instruments/copy'
import { corner } from '../../../instruments/languages'
import OptionField from '../../../instruments/OptionField.vue'
import PeriodChoice from '../../../instruments/PeriodChoice.vue'
import { useViewpoint } from '../../../instruments/viewpoint'
import { useSite } from '../../../state/sites'
import ColourField from '../look/ColourField.vue'

const { view } = useViewpoint()
const { detail } = useSite()
const question = defineModel<Question>({ required: true })

function set(part: Partial<Question>) {
  question.value = changed(question.value, part)
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

/** A part of the question as people choose it; what is usual is left out. */
function part<K extends keyof Question>(key: K, usual: NonNullable<Question[K]>) {
  return computed<NonNullable<Question[K]>>({
    get: () => question.value[key] ?? usual,
    set: (v) => set({ [key]: v === usual ? undefined : v }),
  })
}
const agreement = part('holds', 'P180D')
/** A refusal holds for as long as agreement unless something else is said. */
const same = { value: 'same', label: 'as long as agreeing' }
const refusal = part('refusalHolds', same.value)
const refuse = part('refuse', 'beside')
const placements = [
  { value: 'beside' as const, label: 'beside accepting' },
  { value: 'behind' as const, label: 'only behind “Choose”' },
]
const purposes = part('purposes', 'behind')
const lists = [
  { value: 'behind' as const, label: 'are listed behind “Choose”' },
  { value: 'shown' as const, label: 'are listed at once' },
]
const again = part('again', 'start')
const corners = computed(() => [
  { value: 'start' as const, label: `in the ${corner('start', view.value?.page.language ?? '')}` },
  { value: 'end' as const, label: `in the ${corner('end', view.value?.page.language ?? '')}` },
  { value: 'none' as const, label: 'none: every page has a link of its own' },
])
const againForm = part('againForm', 'small')
const forms = [
  { value: 'small' as const, label: 'small' },
  { value: 'tab' as const, label: 'a tab at the edge of that side' },
]
const againColours = part('againColours', 'plain')
const colours = [
  { value: 'plain' as const, label: 'black on white' },
  { value: 'notice' as const, label: 'the notice’s colours' },
  { value: 'own' as const, label: 'colours of its own' },
]
</script>

<template>
  <div class="consent">
    <div class="pair">
      <label>Agreeing holds for <PeriodChoice v-model="agreement" label="Agreeing holds for" :usual="periods" /></label>
      <label
        >Refusing holds for
        <PeriodChoice v-model="refusal" label="Refusing holds for" :usual="[same, ...days, ...periods]" />
      </label>
      <label>Refusing stands <OptionField v-model="refuse" label="Refusing stands" :options="placements" /></label>
      <label>The purposes <OptionField v-model="purposes" label="The purposes" :options="lists" /></label>
    </div>
    <label
      >The control that asks again
      <OptionField v-model="again" label="The control that asks again" :options="corners" />
    </label>
    <div v-if="again !== 'none'" class="pair">
      <OptionField v-model="againForm" label="Its form" :options="forms" />
      <OptionField v-model="againColours" label="Its colours" :options="colours" />
    </div>
    <div v-if="again !== 'none' && againColours === 'own'" class="pair">
      <label
        >Its field
        <ColourField
          :model-value="question.againField"
          label="Field of the control"
          :palette="detail?.site.palette"
          usual="white"
          @update:model-value="(againField) => set({ againField })"
        />
      </label>
      <label
        >Its words
        <ColourField
          :model-value="question.againText"
          label="Words of the control"
          :palette="detail?.site.palette"
          usual="best to read"
          @update:model-value="(againText) => set({ againText })"
        />
      </label>
    </div>
    <p v-if="again !== 'none'" class="quiet small">
      What it says stands with the other words on buttons, below the message.
    </p>
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
