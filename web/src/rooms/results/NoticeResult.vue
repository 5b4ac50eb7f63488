<script setup lang="ts">
// What came of one notice: by day, drawn and as a table; by page and the like; and whether its
// goal was reached because of it.
import { computed, defineAsyncComponent, ref } from 'vue'
import type { NoticeResults, ResultQuery, SiteResults } from '../../api/client'
import OptionField from '../../instruments/OptionField.vue'
import ComparePart from './ComparePart.vue'
import ExperimentPart from './ExperimentPart.vue'
import TallyTable from './TallyTable.vue'
import { figure, happened } from './figures'

const DaysChart = defineAsyncComponent(() => import('./DaysChart.vue'))
const props = defineProps<{ result: NoticeResults; others: SiteResults['notices'] }>()
const by = defineModel<NonNullable<ResultQuery['by']>>('by', { required: true })
const ways: { value: NonNullable<ResultQuery['by']>; label: string }[] = [
  { value: 'page', label: 'page' },
  { value: 'device', label: 'device' },
  { value: 'wording', label: 'wording' },
  { value: 'variant', label: 'variant' },
  { value: 'version', label: 'version' },
]
const asTable = ref(false)
const columns = computed(() => happened([props.result.all]))
const days = computed(() => props.result.days.map((d) => ({ ...d, name: d.key })))
</script>

<template>
  <div class="result">
    <p class="says">{{ result.says }}</p>
    <p v-if="result.aside" class="quiet small">
      {{ figure(result.aside) }} {{ result.aside === 1 ? 'act is' : 'acts are' }} not counted here: far too many came
      from one network.
    </p>
    <ExperimentPart v-if="result.experiment" :results="result.experiment" />
    <div class="head">
      <h3>Day by day</h3>
      <el-button size="small" text :aria-pressed="asTable" @click="asTable = !asTable">{{
        asTable ? 'Draw it' : 'As a table'
      }}</el-button>
    </div>
    <TallyTable v-if="asTable" of="Day" :rows="days" :columns="columns" />
    <DaysChart v-else :result="result" :title="result.title" />
    <ol v-if="result.deeds.length" class="deeds small quiet">
      <li v-for="(d, i) in result.deeds" :key="i">{{ d.day }}: someone {{ d.says }}</li>
    </ol>
    <div class="head">
      <h3>By</h3>
      <OptionField v-model="by" label="What it is told apart by" :options="ways" />
    </div>
    <TallyTable :of="by" :rows="result.parts" :columns="columns" />
    <ComparePart :result="result" :others="others" />
    <p class="small">
      <router-link :to="{ name: 'notice', params: { notice: result.id } }">Open the notice</router-link>
    </p>
  </div>
</template>

<style scoped>
.result {
  padding: 6px 12px 14px 48px;
}
.says {
  margin: 4px 0 10px;
  font: 500 18px/1.4 var(--head);
}
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 14px;
}
h3 {
  margin: 0;
}
.deeds {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}
@media (max-width: 700px) {
  .result {
    padding-inline: 8px;
  }
}
</style>
