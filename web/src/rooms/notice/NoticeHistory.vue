<script setup lang="ts">
// A notice's life, the newest first; earlier texts can be gone back to.
import { ref, watch } from 'vue'
import { api, type HistoryLine, type NoticeDetail } from '../../api/client'
import { say } from '../../instruments/time'

const props = defineProps<{ site: string; notice: string; detail: NoticeDetail; zone: string }>()
defineEmits<{ restore: [line: number] }>()

const open = ref(false)
const lines = ref<HistoryLine[]>([])
watch([open, () => props.notice, () => props.detail.card.revision], async ([shown]) => {
  if (shown) lines.value = (await api.history(props.site, props.notice)).lines
})
</script>

<template>
  <section aria-labelledby="past">
    <h2 id="past">
      <button class="word" :aria-expanded="open" @click="open = !open">History</button>
    </h2>
    <p class="quiet small">Changed {{ say(detail.changedAt, zone) }} by {{ detail.changedBy }}</p>
    <ol v-if="open" class="plainlist">
      <li v-for="h in lines" :key="h.id">
        <time class="small quiet">{{ say(h.at, zone) }}</time>
        <span>
          {{ h.who }} {{ h.act
          }}<template v-if="h.number && h.act === 'published it'">, version {{ h.number }}</template>
          <button v-if="h.restorable" class="word small" @click="$emit('restore', h.id)">Go back to this</button>
          <br /><span class="small quiet">{{ h.line }}</span>
        </span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 6px;
}
p {
  margin: 4px 0;
}
ol {
  display: grid;
  gap: 8px;
}
li {
  display: grid;
  grid-template-columns: 104px 1fr;
  gap: 8px;
}
</style>
