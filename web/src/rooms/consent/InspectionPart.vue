<script setup lang="ts">
// The inspection: how far it is, what the last one found, and what differs from the one before.
import { computed } from 'vue'
import { api, type ConsentRoom } from '../../api/client'
import { mayManage, mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useConsent } from './consent'
import EarlierRuns from './EarlierRuns.vue'
import InspectionPlan from './InspectionPlan.vue'
import { phases } from './inventory'

const { room: known, setup, detail, site, busy, attempt } = useConsent()
const room = computed(() => known.value!)
const zone = computed(() => detail.value!.site.timeZone)

const begin = () => attempt('inspect', async () => (known.value = await api.inspect(site.value)))
const stop = () => attempt('inspect', async () => (known.value = await api.stopInspection(site.value)))

const phaseNow = computed(() => phases.find((p) => p.phase === room.value.progress?.phase)?.during ?? 'It begins')
const percent = computed(() => {
  const p = room.value.progress
  return p ? Math.round((100 * p.done) / Math.max(1, p.of)) : 0
})
const howItLooks = computed(() =>
  room.value.browser
    ? `A new visitor opens up to ${room.value.mostPages} pages in a real browser, three times: without answering, ` +
      'after accepting all, after refusing all. It takes a few minutes, and goes on if you leave.'
    : 'There is no Chromium on this machine. Pages are read without one: that sees what they set themselves, not ' +
      'what their scripts do, nor what an answer changes.',
)
const counted = (n: number, one: string) => (n === 1 ? `one ${one}` : `${n} ${one}s`)
const outcome = computed(() => {
  const run = room.value.run
  if (!run) return ''
  const found = `${counted(room.value.things.length, 'thing')} on ${counted(run.pages.length, 'page')}`
  return `${say(run.began, zone.value)}: ${found}${run.stopped ? ', stopped before its end' : ''}.`
})
const change = (d: ConsentRoom['differences'][number]) => [d.before, d.now].filter(Boolean).join(' → ')
/** The names of the rows that the last inspection did not find. */
const unseen = computed(() => room.value.unseen.map((i) => setup.value.inventory?.[i]?.name).join(', '))
</script>

<template>
  <section aria-labelledby="inspection">
    <h2 id="inspection">Inspection</h2>
    <template v-if="room.progress">
      <p role="status">{{ phaseNow }}: {{ room.progress.page }}</p>
      <el-progress :percentage="percent" aria-label="How far the inspection is" />
      <el-button size="small" :loading="busy === 'inspect'" @click="stop">Stop it</el-button>
    </template>
    <template v-else>
      <p class="quiet small">
        {{ howItLooks }}
      </p>
      <p v-if="room.failed" class="leak" role="alert">The last inspection failed: {{ room.failed }}.</p>
      <p v-if="room.run">
        {{ outcome }}
        <span v-if="room.run.noQuestion && room.run.how === 'browser'" class="leak"
          >No consent notice could be answered.</span
        >
      </p>
      <ul v-if="room.run?.faults?.length" class="plainlist small">
        <li v-for="f in room.run.faults" :key="f.page">
          {{ f.page }} <span class="quiet">{{ f.why }}</span>
        </li>
      </ul>
      <el-button v-if="mayWrite" type="primary" :loading="busy === 'inspect'" @click="begin">{{
        room.run ? 'Inspect again' : 'Inspect the site'
      }}</el-button>
    </template>
    <template v-if="room.differences.length && !room.progress">
      <h3>Since the inspection before</h3>
      <ul class="plainlist small">
        <li v-for="d in room.differences" :key="d.what + d.kind + d.name + d.host">
          <b>{{ d.what }}</b> <code>{{ d.name }}</code>
          <span class="quiet">{{ change(d) }}</span>
        </li>
      </ul>
    </template>
    <p v-else-if="room.runs.length > 1 && !room.progress" class="quiet small">
      Nothing differs from the inspection before.
    </p>
    <p v-if="room.unseen.length && room.run?.how === 'browser' && !room.progress" class="quiet small">
      Not found this time: {{ unseen }}.
    </p>
    <details v-if="room.runs.length > 1 && !room.progress" class="small">
      <summary>Earlier inspections</summary>
      <EarlierRuns :runs="room.runs.slice(1)" :zone="zone" />
    </details>
    <InspectionPlan v-if="mayManage" />
  </section>
</template>

<style scoped>
p {
  margin: 4px 0 8px;
}
h2 {
  margin-bottom: 4px;
}
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.leak {
  color: var(--alarm);
}
summary {
  color: var(--sea);
  cursor: pointer;
}
</style>
