<script setup lang="ts">
// Alerts: what came by feeds, the feeds themselves, what is given by hand, and
// where the site's own alerts and its schedule can be read.
import { computed, ref } from 'vue'
import { api, CallError, type Alerts, type Feed, type SiteDetail } from '../../../api/client'
import FileChoice from '../../../instruments/FileChoice.vue'
import { latest } from '../../../instruments/latest'
import { mayManage, mayWrite } from '../../../instruments/me'
import ReceivedRow from '../../../instruments/ReceivedRow.vue'
import { tell } from '../../../instruments/tell'
import { say } from '../../../instruments/time'
import { useViewpoint } from '../../../instruments/viewpoint'
import FeedEditor from './FeedEditor.vue'

const detail = defineModel<SiteDetail>({ required: true })
const { site, refresh } = useViewpoint()
const alerts = ref<Alerts>()
const error = ref('')
const busy = ref('')
const editing = ref('')
const find = ref('')

void latest(
  () => api.alerts(site.value),
  (a) => (alerts.value = a),
)()

async function attempt(what: string, work: () => Promise<Alerts>, done: string) {
  busy.value = what
  error.value = ''
  try {
    alerts.value = await work()
    if (done) tell(done)
    void refresh()
    return true
  } catch (e) {
    error.value = (e as CallError).message
    return false
  } finally {
    busy.value = ''
  }
}
/** Keeps the list of feeds as part of the site. */
const keep = (feeds: Feed[], done: string) =>
  attempt(
    'feeds',
    async () => {
      const d = detail.value
      detail.value = await api.changeSite(site.value, { revision: d.revision, site: { ...d.site, feeds } })
      editing.value = ''
      return api.alerts(site.value)
    },
    done,
  )
const feeds = computed(() => detail.value.site.feeds ?? [])
const tags = computed(() => [...new Set(detail.value.pages.flatMap((p) => p.tags ?? []))].sort())
const areas = computed(() => [...new Set(alerts.value?.received.flatMap((r) => r.areas) ?? [])])
const shown = computed(() => {
  const wanted = find.value.toLowerCase()
  return (alerts.value?.received ?? []).filter((r) =>
    `${r.headline} ${r.feedTitle} ${r.standing} ${r.kind}`.toLowerCase().includes(wanted),
  )
})
/** How often an open page looks for what has changed. */
const putRefresh = (every: string) =>
  attempt(
    'refresh',
    async () => {
      const d = detail.value
      detail.value = await api.changeSite(site.value, { revision: d.revision, site: { ...d.site, refresh: every } })
      return api.alerts(site.value)
    },
    'Kept.',
  )
const refreshes = {
  PT1M: 'every minute',
  PT15S: 'every 15 seconds',
  PT30S: 'every 30 seconds',
  PT5M: 'every 5 minutes',
  PT30M: 'every half an hour',
}
function add() {
  let n = 1
  while (feeds.value.some((f) => f.name === `feed-${n}`)) n++
  void keep([...feeds.value, { name: `feed-${n}`, title: 'New feed' }], '').then(() => (editing.value = `feed-${n}`))
}

// By hand.
const text = ref('')
const into = ref('')
async function file([chosen]: File[]) {
  text.value = (await chosen?.text()) ?? ''
}
async function give() {
  if (
    await attempt(
      'give',
      () => api.giveAlert(site.value, { feed: into.value || feeds.value[0]!.name, text: text.value }),
      'Taken in.',
    )
  )
    text.value = ''
}

const weather: Record<string, string> = {
  alert: 'A warning',
  update: 'An update of it',
  cancel: 'Its end',
  rubbish: 'A broken message',
  nothing: 'Nothing any more',
}
const sendWeather = (what: string) =>
  attempt(
    'weather',
    async () => {
      await api.sendWeather(what)
      const mine = feeds.value.find((f) => f.address === alerts.value?.weatherAddress)
      return mine ? api.askFeed(site.value, mine.name) : api.alerts(site.value)
    },
    'The office published, and the feed was asked.',
  )
async function copy(address: string) {
  try {
    await navigator.clipboard.writeText(address)
    tell('Copied.')
  } catch {
    tell('The browser does not let this page copy: select the address.', 'warning')
  }
}
</script>

<template>
  <div v-if="alerts" class="alerts">
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <div class="parted">
      <section aria-labelledby="came">
        <div class="head">
          <h2 id="came">Received</h2>
          <el-input
            v-if="alerts.received.length > 5"
            v-model="find"
            class="find"
            placeholder="Find a message"
            aria-label="Find a message"
            clearable
            data-find
          />
        </div>
        <p v-if="!alerts.received.length" class="quiet">
          Nothing yet.
          {{
            feeds.length
              ? 'What the feeds bring lies here, and waits for you where you say so.'
              : 'Add a feed, and what it brings lies here.'
          }}
        </p>
        <ul v-else class="plainlist">
          <li v-for="r in shown" :key="r.id">
            <ReceivedRow
              :message="r"
              :zone="detail.site.timeZone"
              :site="site"
              :busy="busy === `message ${r.id}`"
              @approve="
                attempt(
                  `message ${r.id}`,
                  () => api.approveAlert(site, r.id),
                  r.kind === 'cancel' ? 'Ended.' : 'Published.',
                )
              "
              @refuse="attempt(`message ${r.id}`, () => api.refuseAlert(site, r.id), 'Refused. No visitor sees it.')"
            />
          </li>
        </ul>
      </section>
      <div>
        <section aria-labelledby="feeds">
          <h2 id="feeds">Feeds</h2>
          <p v-if="!feeds.length" class="quiet">
            A feed is an address at which an authority or an operator publishes alerts: CAP 1.2, or Atom.
          </p>
          <ul class="plainlist">
            <li v-for="f in alerts.feeds" :key="f.feed.name" class="feed-line">
              <p>
                <b>{{ f.feed.title || f.feed.name }}</b><br />
                <span class="quiet small">
                  {{ f.feed.address || 'by hand' }}{{ f.feed.off ? ', not asked for now' : '' }}
                  <template v-if="f.answered"> · answered {{ say(f.answered, detail.site.timeZone) }}</template>
                </span>
              </p>
              <p v-if="f.why" class="why small" role="status">{{ f.why }} It is asked again, later each time.</p>
              <p class="acts">
                <el-button
                  v-if="f.feed.address && mayWrite"
                  size="small"
                  :loading="busy === f.feed.name"
                  @click="attempt(f.feed.name, () => api.askFeed(site, f.feed.name), 'Asked.')"
                  >Ask it now</el-button
                >
                <el-button
                  v-if="mayManage"
                  size="small"
                  :aria-expanded="editing === f.feed.name"
                  @click="editing = editing === f.feed.name ? '' : f.feed.name"
                  >Change it</el-button
                >
              </p>
              <FeedEditor
                v-if="editing === f.feed.name"
                :feed="f.feed"
                :defaults="alerts.defaultLevels"
                :tags="tags"
                :seen="areas"
                @save="
                  (next) =>
                    keep(
                      feeds.map((x) => (x.name === next.name ? next : x)),
                      'Kept.',
                    )
                "
                @remove="
                  keep(
                    feeds.filter((x) => x.name !== f.feed.name),
                    'Removed. What it brought stays.',
                  )
                "
                @close="editing = ''"
              />
            </li>
          </ul>
          <p class="acts">
            <el-button v-if="mayManage" :loading="busy === 'feeds'" @click="add">Add a feed</el-button>
            <label v-if="mayManage && feeds.length" class="small often"
              >Open pages look for changes
              <el-select
                :model-value="detail.site.refresh ?? 'PT1M'"
                size="small"
                aria-label="How often open pages look for changes"
                @change="putRefresh"
              >
                <el-option v-for="(words, every) in refreshes" :key="every" :value="every" :label="words" />
                <el-option
                  v-if="detail.site.refresh && !(detail.site.refresh in refreshes)"
                  :value="detail.site.refresh"
                  :label="detail.site.refresh"
                />
              </el-select>
            </label>
          </p>
        </section>
        <section v-if="alerts.weather && mayWrite" aria-labelledby="office">
          <h2 id="office">The stand-in weather office</h2>
          <p class="quiet small">
            This is the demo: an invented office publishes at {{ alerts.weatherAddress }} what you tell it to.
          </p>
          <p class="acts">
            <el-button
              v-for="w in alerts.weather"
              :key="w"
              size="small"
              :loading="busy === 'weather'"
              @click="sendWeather(w)"
              >{{ weather[w] ?? w }}</el-button
            >
          </p>
        </section>
        <section v-if="feeds.length && mayWrite" aria-labelledby="hand">
          <h2 id="hand">By hand</h2>
          <form @submit.prevent="give">
            <el-input
              v-model="text"
              type="textarea"
              :rows="3"
              aria-label="A message in XML"
              placeholder="Paste a CAP 1.2 message or an Atom feed"
            />
            <p class="acts">
              <el-select v-model="into" :placeholder="feeds[0]?.title || feeds[0]?.name" aria-label="As if it came by">
                <el-option v-for="f in feeds" :key="f.name" :value="f.name" :label="f.title || f.name" />
              </el-select>
              <FileChoice
                words="From a file"
                accept=".xml,.cap,.atom,application/xml,text/xml"
                :busy="false"
                @files="file"
              />
              <el-button native-type="submit" :disabled="!text.trim()" :loading="busy === 'give'">Take it in</el-button>
            </p>
          </form>
        </section>
        <section aria-labelledby="out">
          <h2 id="out">What others can read</h2>
          <p class="small">The site’s live alerts, as Atom; each leads to its CAP 1.2 message.</p>
          <p class="address">
            <code>{{ alerts.atom }}</code>
            <el-button size="small" aria-label="Copy the address of the Atom feed" @click="copy(alerts.atom)"
              >Copy</el-button
            >
          </p>
          <p class="small">
            The whole schedule, for calendar programs (iCalendar). Whoever knows this address can read it.
          </p>
          <p class="address">
            <code>{{ alerts.calendar }}</code>
            <el-button size="small" aria-label="Copy the address of the calendar" @click="copy(alerts.calendar)"
              >Copy</el-button
            >
            <el-button
              v-if="mayManage"
              size="small"
              text
              @click="attempt('calendar', () => api.newCalendar(site), 'The old address no longer works.')"
              >New address</el-button
            >
          </p>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
h2 {
  margin: 0 0 6px;
}
.head {
  display: flex;
  gap: 12px;
  align-items: baseline;
  justify-content: space-between;
}
.find {
  max-width: 200px;
}
li + li {
  border-top: 1px solid var(--line);
}
.feed-line {
  padding: 6px 0;
}
p {
  margin: 0 0 4px;
}
.why,
.acts,
.address {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.acts .el-button,
.address .el-button {
  margin: 0;
}
.acts .el-select {
  max-width: 220px;
}
code {
  overflow-wrap: anywhere;
  font-size: 12px;
}
.often {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.often .el-select {
  width: 160px;
}
/* Seen is the word beside it; where it lies it must cover nothing. */
form p {
  margin-top: 6px;
}
</style>
