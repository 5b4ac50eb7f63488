<script setup lang="ts">
// What came of the notice in the last 30 days, in one sentence, beside its order line.
import { ref } from 'vue'
import { api, type NoticeResults } from '../../api/client'

const props = defineProps<{ site: string; notice: string }>()
const results = ref<NoticeResults>()
// Where it cannot be had the room works without it.
api.noticeResults(props.site, props.notice, {}).then(
  (r) => (results.value = r),
  () => {},
)
</script>

<template>
  <p v-if="results?.all.seen" class="results small">
    {{ results.says }}
    <template v-if="results.experiment?.verdict">{{ results.experiment.verdict + ' ' }}</template>
    <router-link :to="{ name: 'results', params: { site }, query: { notice } }"
      >Results of the last 30 days</router-link
    >
  </p>
</template>

<style scoped>
.results {
  max-width: 110ch;
  margin: -6px 0 12px;
}
</style>
