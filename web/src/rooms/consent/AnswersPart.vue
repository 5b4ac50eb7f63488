<script setup lang="ts">
// What was answered? How it went, by day, place, language, device or version;
// and the records themselves, which prove it.
import { computed, ref, watch } from 'vue'
import { api, type DisclaimerCounts, type RecordCard, type Trends } from '../../api/client'
import { saveBlob } from '../../instruments/file'
import { nameOf } from '../../instruments/languages'
import { latest } from '../../instruments/latest'
import { mayManage } from '../../instruments/me'
import { say } from '../../instruments/time'
import { lasting, useConsent } from './consent'
import PeriodPick, { type Days } from './PeriodPick.vue'
import TrendBars from './TrendBars.vue'

const { room, detail, setup, site, attempt, busy, save } = useConsent()
const zone = computed(() => detail.value!.site.timeZone)
const by = ref('day')
const trends = ref<Trends>()
/** The day on the site's clock: that on which the last 30 days end, which are asked for first. */
const today = ref('')
const dayBefore = (day: string, n: number) =>
  new Date(Date.parse(`${day}T12:00:00Z`) - n * 86_400_000).toISOString().slice(0, 10)
const chosenDays = ref<Days>()
const days = computed<Days>({
  get: () => chosenDays.value ?? { from: trends.value?.from ?? '', to: trends.value?.to ?? '' },
  set: (d) => (chosenDays.value = d),
})
/** Another period beside it: at first as many days, right before. */
const other = ref<Days>()
const besides = ref<Trends>()
function compare(on: boolean) {
  const long = Math.round((Date.parse(days.value.to) - Date.parse(days.value.from)) / 86_400_000) + 1
  other.value = on
    ? { from: dayBefore(days.value.from, long), to: dayBefore(days.value.from, 1) }
    : (besides.value = undefined)
}
watch(
  [site, by, chosenDays],
  latest(
    () => api.trends(site.value, { by: by.value, ...chosenDays.value }),
    (t) => {
      trends.value = t
      today.value ||= t.to
    },
  ),
  { immediate: true },
)
watch(
  [site, by, other],
  latest(
    async () => other.value && (await api.trends(site.value, { by: by.value, ...other.value })),
    (t) => (besides.value = t || undefined),
  ),
)
const regions = new Intl.DisplayNames(['en'], { type: 'region' })
function name(key: string): string {
  if (!key) return 'not known'
  if (by.value === 'place') return regions.of(key) ?? key
  if (by.value === 'language') return nameOf(key)
  if (by.value === 'day') return say(`${key}T12:00:00Z`, 'UTC').replace(/ \d\d:\d\d$/, '')
  if (by.value === 'version') {
    const [notice, at] = key.split(' ')
    return `${room.value?.notices.find((n) => n.id === notice)?.title ?? notice}, ${say(at!, zone.value)}`
  }
  return key
}
const dayWord = (day: string) => say(`${day}T12:00:00Z`, 'UTC').replace(/ \d\d:\d\d$/, '')
const between = (t: Trends) => `from ${dayWord(t.from)} to ${dayWord(t.to)}`
function said(t: Trends | undefined): string {
  const a = t?.all
  if (!t || !a) return ''
  if (!a.asked) return `Nobody was asked ${between(t)}.`
  const p = (n: number) => `${Math.round(100 * n)} %`
  return (
    `${a.asked} visitors were asked ${between(t)}: ${p(a.accepted.of)} accepted all, ${p(a.chosen.of)}` +
    ` chose some, ${p(a.refused.of)} refused all, ${p(a.unanswered.of)} gave no answer.`
  )
}

// The records.
const records = ref<RecordCard[]>([])
const more = ref(false)
const id = ref('')
const found = ref<RecordCard[]>()
async function load(before?: number) {
  const got = await api.records(site.value, { before: before === undefined ? undefined : String(before) })
  records.value = before === undefined ? got.records : [...records.value, ...got.records]
  more.value = (records.value.at(-1)?.seq ?? 1) > 1
}
void load()
/** Saves the records as a file. */
const out = (kind: 'csv' | 'jsonl') =>
  attempt(kind, async () =>
    saveBlob(`${site.value}-records.${kind}`, await api.file(`/api/sites/${site.value}/consent/records.${kind}`)),
  )
const search = () =>
  attempt(
    'find',
    async () => (found.value = id.value.trim() ? (await api.records(site.value, { id: id.value })).records : undefined),
  )
const list = computed(() => found.value ?? records.value)
const methods: Record<string, string> = {
  button: 'by a button',
  frame: 'by allowing a frame',
  call: 'by the site’s own link',
  signal: 'by the browser’s privacy signal',
  closing: 'by closing',
  'going-on': 'by going on',
}
const outcomes: Record<string, string> = {
  accepted: 'Accepted all',
  refused: 'Refused all',
  chosen: 'Chose',
  acknowledged: 'Acknowledged',
  declared: 'Declared',
  declined: 'Said no to',
}
// What became of disclaimers.
const disclaimers = ref<DisclaimerCounts>()
watch(
  site,
  latest(
    () => api.acknowledgements(site.value),
    (d) => (disclaimers.value = d),
  ),
  { immediate: true },
)
const percent = (s: { of: number; low: number; high: number }) =>
  `${Math.round(100 * s.of)} % (${Math.round(100 * s.low)} to ${Math.round(100 * s.high)} %)`
const purpose = (p: string) => room.value?.purposes.find((x) => x.id === p)?.name ?? p
const given = (r: NonNullable<RecordCard['record']>, state: string) =>
  (r.purposes ?? [])
    .filter((p) => p.event_state === state)
    .map((p) => purpose(p.purpose))
    .join(', ')

const keeps = { P1Y: 'a year', P2Y: '2 years', P3Y: '3 years', P5Y: '5 years', P10Y: '10 years' }
const keep = computed(() => setup.value.keep ?? 'P3Y')

const proof = ref('')
const whole = ref(true)
const verify = () =>
  attempt('verify', async () => {
    const p = await api.verifyRecords(site.value)
    whole.value = p.whole
    proof.value = p.whole
      ? p.records
        ? `Whole: ${p.records} records${p.erased ? `, of ${p.erased} of which the content was erased` : ''}. The ` +
          `last hash is ${p.hash.slice(0, 16)}…`
        : 'There is no record yet.'
      : `Not whole: ${p.why}.`
  })

// What was shown to whoever answered.
const shown = ref('')
async function show(hash: string, open: boolean) {
  if (!open || shown.value.startsWith(hash)) return
  const s = await api.shown(site.value, hash)
  const page = new DOMParser().parseFromString(s.html, 'text/html')
  const words = (e: Element) => (e.textContent ?? '').replace(/\s+/g, ' ').trim()
  const lines = [...page.querySelectorAll('p, li, button, a, legend, tbody tr')].map((e) =>
    e.localName === 'tr'
      ? [...e.children].map(words).join(' · ')
      : e.localName === 'button'
        ? `[${words(e)}]`
        : words(e),
  )
  shown.value = hash + lines.filter((l) => l && l !== '[]').join('\n')
}
</script>

<template>
  <div v-if="room" class="answers">
    <section aria-labelledby="trends" class="trends">
      <div class="head">
        <h2 id="trends">How it goes</h2>
        <el-radio-group v-model="by" size="small" aria-label="By what">
          <el-radio-button value="day">by day</el-radio-button>
          <el-radio-button value="place">by place</el-radio-button>
          <el-radio-button value="language">by language</el-radio-button>
          <el-radio-button value="device">by device</el-radio-button>
          <el-radio-button value="version">by version</el-radio-button>
        </el-radio-group>
      </div>
      <PeriodPick v-if="trends" v-model="days" label="Period" :today="today" />
      <p>{{ said(trends) }}</p>
      <TrendBars v-if="trends?.rows.length" :rows="trends.rows" :name="name" />
      <el-switch
        :model-value="!!other"
        size="small"
        active-text="Beside another period"
        aria-label="Beside another period"
        @change="(on) => compare(!!on)"
      />
      <template v-if="other">
        <PeriodPick v-model="other" label="The other period" :today="today" />
        <p>{{ said(besides) }}</p>
        <TrendBars v-if="besides?.rows.length" :rows="besides.rows" :name="name" />
      </template>
      <template v-if="disclaimers?.rows.length">
        <h3>Disclaimers</h3>
        <p class="quiet small">Of the last 30 days, each share with its 95 % interval (Wilson).</p>
        <table class="disclaimers">
          <thead>
            <tr>
              <th scope="col">Disclaimer</th>
              <th scope="col">shown</th>
              <th scope="col">acknowledged</th>
              <th scope="col">said no</th>
              <th scope="col">left</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in disclaimers.rows" :key="r.notice + r.version">
              <th scope="row">
                {{ r.title }}<span v-if="r.version" class="quiet small">, version {{ r.version }}</span>
              </th>
              <td class="figures">{{ r.shown }}</td>
              <td v-for="(s, k) in [r.agreed, r.declined, r.left]" :key="k" class="figures">
                {{ s.n }}<br /><span class="small quiet">{{ percent(s) }}</span>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </section>
    <section aria-labelledby="records">
      <div class="head">
        <h2 id="records">Records</h2>
        <form class="find" @submit.prevent="search">
          <el-input
            v-model="id"
            placeholder="The id, or how it begins"
            aria-label="Find a record by its id"
            clearable
            data-find
            @clear="found = undefined"
          />
          <el-button native-type="submit" :loading="busy === 'find'">Find</el-button>
        </form>
        <span class="acts">
          <el-button size="small" :loading="busy === 'verify'" @click="verify">Check the chain</el-button>
          <button class="word" :disabled="busy === 'csv'" @click="out('csv')">All as CSV</button>
          <button class="word" :disabled="busy === 'jsonl'" @click="out('jsonl')">The chain as JSON Lines</button>
        </span>
      </div>
      <p v-if="proof" role="status" :class="{ 'of-error': !whole }">{{ proof }}</p>
      <div class="quiet small about">
        A record holds what was asked and answered, where, when and how: no address, and nothing that tells one browser
        from another. Each commits to the one before it, so that none can be changed, dropped or put in unseen. They are
        kept for
        <el-select
          :model-value="keep"
          size="small"
          class="keep"
          aria-label="Records are kept for"
          :disabled="!mayManage"
          @change="(v: string) => save({ ...setup, keep: v })"
        >
          <el-option v-for="(label, k) in keeps" :key="k" :value="k" :label="label" />
          <el-option v-if="!(keep in keeps)" :value="keep" :label="lasting(keep)" /> </el-select
        >, then erased; their places in the chain stay.
      </div>
      <p v-if="found && !found.length" class="quiet">
        No record has an id that begins so.
        <button class="word" @click="((found = undefined), (id = ''))">Show all</button>
      </p>
      <p v-else-if="!list.length" class="quiet">Nobody has answered yet.</p>
      <ol class="plainlist list">
        <li v-for="r in list" :key="r.seq">
          <span class="seq figures small quiet">{{ r.seq }}</span>
          <span v-if="r.erased" class="quiet">Erased. Its place in the chain stays.</span>
          <span v-else-if="r.erasure">
            {{ say(r.erasure.event_time, zone) }}:
            {{
              r.erasure.erased.length === 1
                ? `record ${r.erasure.erased[0]} was`
                : `${r.erasure.erased.length} records were`
            }}
            erased, {{ r.erasure.why === 'visitor' ? 'as the visitor wished' : 'kept long enough' }}.
          </span>
          <span v-else-if="r.record">
            <b>{{ outcomes[r.record.event_type] }}</b>
            <template v-if="r.record.document">
              “{{ r.record.document }}”, version {{ r.record.document_version }},</template
            >
            {{ say(r.record.event_time, zone) }}, {{ methods[r.record.method] ?? r.record.method
            }}<template v-if="r.record.signal">, with a privacy signal</template>
            <span class="quiet small id">{{ r.record.record_id.slice(0, 8) }}</span>
            <br /><span class="small">
              {{ nameOf(r.record.language) }} ·
              {{ [r.record.jurisdiction || 'place not known', r.record.place_rule].filter(Boolean).join(', ') }} ·
              {{ r.record.page || '/' }}
              <template v-if="r.record.event_type === 'chosen'">
                · agreed to {{ given(r.record, 'consent_given') }}; refused
                {{ given(r.record, 'consent_refused') }}</template
              >
            </span>
            <details class="small" @toggle="show(r.record.notice_hash, ($event.target as HTMLDetailsElement).open)">
              <summary>What was shown</summary>
              <p v-if="shown.startsWith(r.record.notice_hash)" class="shown">
                {{ shown.slice(r.record.notice_hash.length) }}
              </p>
              <p class="quiet">
                Version of {{ say(r.record.notice_version, zone) }}, fingerprint
                <code>{{ r.record.notice_hash.slice(0, 16) }}…</code>, hash in the chain
                <code>{{ r.hash.slice(0, 16) }}…</code>
              </p>
            </details>
          </span>
        </li>
      </ol>
      <el-button v-if="more && !found" size="small" @click="load(records.at(-1)!.seq)">Show earlier ones</el-button>
    </section>
  </div>
</template>

<style scoped>
section {
  padding: 10px 0 14px;
  border-top: 1px solid var(--line);
}
.answers {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 16px 40px;
  margin-top: 8px;
}
@media (max-width: 900px) {
  .answers {
    grid-template-columns: minmax(0, 1fr);
  }
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
}
h3 {
  margin-top: 16px;
  font-size: 14px;
}
.disclaimers {
  width: 100%;
  border-collapse: collapse;
}
.disclaimers :is(th, td) {
  padding: 4px 12px 4px 0;
  border-top: 1px solid var(--line);
  font-weight: 400;
  text-align: start;
  vertical-align: top;
}
.find {
  display: flex;
  gap: 6px;
}
.find .el-input {
  width: 260px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  margin-inline-start: auto;
}
p {
  margin: 6px 0;
  max-width: 100ch;
}
.of-error {
  color: var(--alarm);
  font-weight: 600;
}
.list li {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
summary {
  color: var(--sea);
  cursor: pointer;
}
.about {
  margin: 6px 0;
  max-width: 100ch;
}
.keep {
  width: 100px;
}
.shown {
  white-space: pre-line;
}
.id {
  margin-inline-start: 8px;
}
details p {
  overflow-wrap: anywhere;
}
</style>
