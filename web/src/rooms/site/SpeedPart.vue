<script setup lang="ts">
// What notices cost the site's pages: as measured last, page by page, and over time.
import { useTimeoutPoll } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, type SpeedDetail } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useSite } from '../../state/sites'

const { site, loaded: detail } = useSite()
const { error, busy, attempt } = useAttempts()
const speed = ref<SpeedDetail>()

const load = async () => void (speed.value = await api.speed(site.value))
void attempt('open', load)
// A measure goes on by itself: it is looked after while it does.
const measuring = computed(() => !!speed.value?.progress)
const looking = useTimeoutPoll(() => load().catch(() => {}), 1000, { immediate: false })
watch(measuring, (is) => (is ? looking.resume() : looking.pause()))
const measure = () => attempt('measure', async () => void (speed.value = await api.measureSpeed(site.value)))

const zone = computed(() => detail.value.site.timeZone)
const latest = computed(() => speed.value?.measures[0])
const kilobytes = (n: number) => `${(n / 1000).toLocaleString('en-GB', { maximumFractionDigits: n < 1e5 ? 1 : 0 })} kB`
const task = (ms: number) => (ms ? `${ms} ms` : `under ${speed.value?.longTask} ms`)
/** The most that notices ever took, as what bars are measured by. */
const most = computed(() => Math.max(1, ...(speed.value?.measures.map((m) => m.worst.own.bytes) ?? [])))
</script>

<template>
  <section aria-labelledby="speed">
    <h2 id="speed">What notices cost a page</h2>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <template v-if="speed">
      <p v-if="speed.progress" role="status">
        Measuring {{ speed.progress.page || '…' }} ({{ speed.progress.done + 1 }} of {{ speed.progress.of }})
      </p>
      <p v-else-if="speed.failed" class="error" role="alert">The last measure failed: {{ speed.failed }}.</p>
      <template v-if="latest">
        <p class="says">{{ latest.says }}</p>
        <p class="quiet small">
          Measured {{ say(latest.at, zone) }}: each page three times without the program and three times with it, as
          someone who was never there, on a processor made {{ latest.slowed }} times slower. Each figure is the one in
          the middle. While a task runs, the page takes no press.
        </p>
        <div class="wide">
          <table>
            <thead>
              <tr>
                <th scope="col">Page</th>
                <th scope="col">The page itself</th>
                <th scope="col">Notices besides</th>
                <th scope="col">Longest task without</th>
                <th scope="col">Longest task with</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in latest.pages" :key="p.path">
                <th scope="row">{{ p.path }}</th>
                <td>{{ p.without.requests }} requests, {{ kilobytes(p.without.bytes) }}</td>
                <td>{{ p.own.requests }} requests, {{ kilobytes(p.own.bytes) }}</td>
                <td>{{ task(p.without.task) }}</td>
                <td>{{ task(p.with.task) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <ul v-if="latest.faults?.length" class="plainlist small">
          <li v-for="f in latest.faults" :key="f" class="error">{{ f }}</li>
        </ul>
      </template>
      <p v-else-if="!speed.progress" class="quiet">
        Nothing has been measured yet. A new visitor opens the home page and two more in a real browser, without the
        program and with it; it takes less than a minute.
      </p>
      <p v-if="!speed.browser" class="quiet">There is no Chromium on this machine, so nothing can be measured.</p>
      <el-button
        v-else-if="mayWrite && !speed.progress"
        :type="latest ? undefined : 'primary'"
        :loading="busy === 'measure'"
        @click="measure"
        >{{ latest ? 'Measure again' : 'Measure it' }}</el-button
      >
      <template v-if="speed.measures.length > 1">
        <h3>Over time</h3>
        <div class="wide">
          <table>
            <thead>
              <tr>
                <th scope="col">Measured</th>
                <th scope="col">Notices take at most</th>
                <th scope="col"><span class="unseen">As a bar</span></th>
                <th scope="col">Longest task without</th>
                <th scope="col">Longest task with</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="m in speed.measures" :key="m.at">
                <th scope="row">{{ say(m.at, zone) }}</th>
                <td>{{ m.worst.own.requests }} requests, {{ kilobytes(m.worst.own.bytes) }}</td>
                <td aria-hidden="true">
                  <span class="bar" :style="{ width: `${(100 * m.worst.own.bytes) / most}%` }"></span>
                </td>
                <td>{{ task(m.worst.without.task) }}</td>
                <td>{{ task(m.worst.with.task) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <p class="quiet small">
        Planned inspections, in Consent, measure it each time. What a page tells later (what was seen and pressed) is
        not in it.
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  max-width: 900px;
}
.says {
  font-size: 17px;
}
.wide {
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 6px 12px 6px 0;
  border-top: 1px solid var(--line);
  font-weight: 400;
  text-align: start;
  vertical-align: top;
}
thead th {
  border-top: 0;
  color: var(--ink-2);
  font-size: 13px;
}
.bar {
  display: block;
  min-width: 2px;
  height: 12px;
  margin-top: 4px;
  background: var(--sea);
}
td:has(.bar) {
  width: 24%;
}
.error {
  color: var(--alarm);
}
.wide + .el-button {
  margin-top: 10px;
}
h3 {
  margin: 16px 0 4px;
  font-size: 14px;
}
</style>
