<script setup lang="ts">
// Now & next: what is up, what changes next, what needs attention. Each notice
// is a row: its flag, its order line, its time, and why it shows or not at the
// viewpoint.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, blocking, CallError, type Act, type Card, type Finding } from '../../api/client'
import DateTime from '../../instruments/DateTime.vue'
import Emblem from '../../instruments/Emblem.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import { mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import OrderLine from '../../instruments/OrderLine.vue'
import TimeRow from '../../instruments/TimeRow.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { away, local, say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'

const route = useRoute()
const router = useRouter()
const { view, site, look, refresh } = useViewpoint()
const filter = ref('')
const open = ref('')

const rows = computed(() => {
  const wanted = filter.value.toLowerCase()
  return (view.value?.notices ?? []).filter((n) =>
    `${n.title} ${n.flag} ${n.line.map((w) => w.text).join('')}`.toLowerCase().includes(wanted),
  )
})
const titleOf = (id: string) => view.value?.notices.find((n) => n.id === id)?.title ?? id
const cardOf = (id: string) => view.value?.notices.find((n) => n.id === id)
const toNotice = (id: string) => ({ name: 'notice', params: { site: site.value, notice: id }, query: route.query })
const reason = (n: Card) => blocking(n.account)

const summary = computed(() => {
  const v = view.value
  if (!v) return ''
  const here = v.shows.map((id) => `“${titleOf(id)}”`)
  const page = v.page.path
  if (here.length === 0) return `Nothing shows on ${page}`
  if (here.length === 1) return `${here[0]} shows on ${page}`
  return `${here.slice(0, -1).join(', ')} and ${here.at(-1)} show on ${page}`
})
const needs = computed(() => {
  const v = view.value
  if (!v) return []
  // Drafts are still being worked on: what is unfinished in them is no alarm yet.
  const draft = new Set(v.notices.filter((n) => n.flag === 'draft').map((n) => n.id))
  return v.findings.filter((f) => f.severity !== 'remark' && !draft.has(f.notices[0]!))
})
/** Acts on a notice at once, with a way back where there is one. */
async function act(n: Card, what: Act, done: string, back?: Act) {
  try {
    const after = await api.act(site.value, n.id, what, {}, { revision: n.revision })
    await refresh()
    tell(
      done,
      'success',
      back &&
        (async () => {
          await api.act(site.value, n.id, back, {}, { revision: after.card.revision })
          await refresh()
        }),
    )
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
async function pauseAll() {
  try {
    const paused = await api.pauseAll(site.value, { pause: true })
    await refresh()
    tell(`Paused: ${paused.notices.length} notices. No visitor sees them.`, 'success', async () => {
      await api.pauseAll(site.value, { pause: false, notices: paused.notices })
      await refresh()
    })
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
/** The notice that is being given an end, and when. */
const ending = ref('')
const endsAt = ref('')
function beginEnding(n: Card) {
  ending.value = ending.value === n.id ? '' : n.id
  const v = view.value!
  const day = local(n.until ?? new Date(new Date(v.now).getTime() + 86_400_000), v.zone)
  endsAt.value = n.until ? day : day.slice(0, 11) + '12:00'
}
async function end(n: Card) {
  try {
    await api.endAt(site.value, n.id, { revision: n.revision, until: endsAt.value })
    ending.value = ''
    await refresh()
    tell(`“${n.title}” ends ${say(cardOf(n.id)?.until ?? '', view.value!.zone)}.`)
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
const running = computed(() => (view.value?.notices ?? []).filter((n) => n.flag === 'live' || n.flag === 'scheduled').length)
const count = computed(() => needs.value.length + (view.value?.snippetMissing ? 1 : 0))
const mark = (f: Finding) => ({ alarm: 'Mend', caution: 'Look', remark: 'Note' })[f.severity]
</script>

<template>
  <div v-if="view" class="now">
    <div class="top">
      <div class="heading">
        <h1>Now &amp; next</h1>
        <p class="summary">
          {{ summary
          }}<template v-if="view.next[0]"
            >. Next, {{ say(view.next[0].at, view.zone) }} (in {{ away(view.at, view.next[0].at) }}): “{{ titleOf(view.next[0].notice) }}”
            {{ view.next[0].starts ? 'goes up' : 'comes down' }}</template
          >.
          <a v-if="count" href="#needs">{{ count === 1 ? 'One thing needs you' : `${count} things need you` }}</a>
        </p>
      </div>
      <el-input
        v-if="view.notices.length > 3"
        v-model="filter"
        class="filter"
        data-find
        placeholder="Find a notice"
        aria-label="Find a notice"
        clearable
      />
      <el-button v-if="mayWrite && running" title="Take everything off for a while" @click="pauseAll">Pause all</el-button>
    </div>

    <div v-if="view.notices.length === 0" class="empty">
      <h2>No notices yet</h2>
      <p>Write the first one. It is right for every page as it comes, and nobody sees it before you publish it.</p>
      <el-button type="primary" @click="beginNotice(router, site)">New bar</el-button>
    </div>
    <div v-else class="table">
      <div class="scale-row">
        <div class="quiet small">Times in {{ view.zone }}</div>
        <TimeScale :view="view" />
      </div>
      <ul class="plainlist">
        <li v-for="n in rows" :key="n.id" class="notice" :data-notice="n.id">
          <div class="what">
            <div class="name">
              <Halyard :flag="n.flag" :draft="n.hasDraft" />
              <Emblem :edge="n.slot" :colour="n.background" />
              <router-link :to="toNotice(n.id)">{{ n.title }}</router-link>
              <span class="quiet small">{{ n.kind }}</span>
            </div>
            <OrderLine :line="n.line" />
          </div>
          <div class="when">
            <TimeRow
              :view="view"
              :intervals="n.intervals"
              :out="n.flag !== 'draft' && n.flag !== 'paused'"
              :name="n.title"
              :held="n.held"
            />
            <div class="here">
              <span v-if="n.account.shows" class="shows"
                >Shows here<template v-if="n.onPages > 1">, and on {{ n.onPages - 1 }} more pages</template></span
              >
              <span v-else class="held">{{ reason(n)?.why }}</span>
              <span v-if="n.flag === 'live'" class="quiet still">{{ n.until ? `${away(view.at, n.until)} more` : 'no end set' }}</span>
              <span class="acts">
                <button
                  class="word why"
                  :aria-label="`Why? ${n.title}`"
                  :aria-expanded="open === n.id"
                  @click="open = open === n.id ? '' : n.id"
                >
                  Why?
                </button>
                <template v-if="mayWrite && (n.flag === 'live' || n.flag === 'scheduled')">
                  <button class="word" :aria-label="`End ${n.title} at a time`" :aria-expanded="ending === n.id" @click="beginEnding(n)">
                    End at…
                  </button>
                  <button class="word" :aria-label="`Pause ${n.title}`" @click="act(n, 'pause', `“${n.title}” is paused.`, 'resume')">
                    Pause
                  </button>
                </template>
                <button
                  v-if="mayWrite && n.flag === 'paused'"
                  class="word"
                  :aria-label="`Resume ${n.title}`"
                  @click="act(n, 'resume', `“${n.title}” is up again.`, 'pause')"
                >
                  Resume
                </button>
                <button
                  v-if="mayWrite && n.flag !== 'draft'"
                  class="word"
                  :aria-label="`Unpublish ${n.title} now`"
                  @click="act(n, 'unpublish', `“${n.title}” is unpublished: a draft again.`, 'publish')"
                >
                  Unpublish
                </button>
              </span>
            </div>
            <form v-if="ending === n.id" class="ending" @submit.prevent="end(n)">
              <DateTime v-model="endsAt" :label="`End of ${n.title}`" size="small" /> <span class="quiet small">{{ view.zone }}</span>
              <el-button size="small" type="primary" native-type="submit">End it then</el-button>
            </form>
            <Gates v-if="open === n.id" :account="n.account" class="account" />
          </div>
        </li>
      </ul>
      <p v-if="rows.length === 0" class="quiet">
        No notice matches “{{ filter }}”. <button class="word" @click="filter = ''">Show all</button>
      </p>
    </div>

    <div v-if="view.notices.length" class="below">
      <section aria-labelledby="next">
        <h2 id="next">What changes next</h2>
        <ol v-if="view.next.length" class="plainlist changes">
          <li v-for="c in view.next" :key="c.at + c.notice">
            <button class="word" @click="look({ at: c.at })">
              <time>{{ say(c.at, view.zone) }}</time>
            </button>
            <span
              ><router-link :to="toNotice(c.notice)">{{ titleOf(c.notice) }}</router-link> {{ c.starts ? 'goes up' : 'comes down' }}
              <OrderLine :line="cardOf(c.notice)?.line ?? []"
            /></span>
          </li>
        </ol>
        <p v-else class="quiet">Nothing is planned to change. What is up stays up until you unpublish it.</p>
      </section>
      <section aria-labelledby="needs">
        <h2 id="needs">What needs you</h2>
        <ul v-if="needs.length || view.snippetMissing" class="plainlist needs">
          <li v-if="view.snippetMissing > 0">
            <b class="alarm">Mend</b>
            <span
              >The snippet was not found on {{ view.snippetMissing }} of {{ view.pages }} pages.
              <router-link :to="{ name: 'site', params: { site } }">See which</router-link></span
            >
          </li>
          <li v-if="view.snippetMissing < 0">
            <b class="caution">Look</b>
            <span
              >Nobody has looked yet whether the site carries the snippet.
              <router-link :to="{ name: 'site', params: { site } }">Look now</router-link></span
            >
          </li>
          <li v-for="f in needs" :key="f.code + f.pointers[0]">
            <b :class="f.severity">{{ mark(f) }}</b>
            <span
              >{{ f.what }} <router-link :to="toNotice(f.notices[0]!)">{{ f.mend }}</router-link></span
            >
          </li>
        </ul>
        <p v-else class="quiet">Nothing. All notices are in order.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 8px 24px;
}
.heading {
  display: flex;
  flex: 1 1 600px;
  flex-wrap: wrap;
  gap: 2px 20px;
  align-items: baseline;
}
.summary {
  flex: 1 1 420px;
  margin: 0;
  max-width: 90ch;
}
.filter {
  width: 220px;
}
.table {
  margin-top: 4px;
}
.scale-row,
.notice {
  display: grid;
  grid-template-columns: minmax(0, 46fr) minmax(0, 54fr);
  gap: 0 32px;
  align-items: center;
}
.scale-row > :first-child {
  align-self: end;
  padding-bottom: 4px;
}
.notice {
  align-items: start;
  padding: 8px 0 7px;
  border-bottom: 1px solid var(--line);
}
.name {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
}
.name a {
  color: var(--ink);
  font: 650 16px/1.3 var(--head);
  font-stretch: 90%;
  text-decoration-color: var(--line);
  text-underline-offset: 3px;
}
.what .line {
  color: var(--ink-2);
  font-size: 12px;
}
.when {
  min-width: 0;
  margin-block: -8px -7px;
  padding-bottom: 7px;
}
.when .row {
  height: 34px;
}
.here {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
  font-size: 12px;
}
.shows {
  color: var(--live);
  font-weight: 600;
}
.held {
  color: var(--ink-2);
}
.acts {
  display: flex;
  flex: none;
  gap: 10px;
  margin-inline-start: auto;
}
.acts .word:not(.why, :hover) {
  color: var(--ink-2);
  text-decoration-color: var(--line);
}
.still {
  flex: none;
  font-variant-numeric: tabular-nums;
}
.ending {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin-top: 4px;
}
.changes .line {
  overflow: hidden;
  max-width: 60ch;
  color: var(--ink-2);
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.account {
  margin-top: 8px;
  padding: 8px 12px;
  background: var(--chart);
}
.below {
  display: grid;
  grid-template-columns: minmax(0, 46fr) minmax(0, 54fr);
  gap: 24px 32px;
  margin-top: 20px;
}
.below h2 {
  margin-bottom: 6px;
}
.below p {
  margin: 0;
}
.changes,
.needs {
  display: grid;
  gap: 4px;
}
.changes li {
  display: grid;
  grid-template-columns: 140px 1fr;
  gap: 8px;
}
.needs li {
  display: grid;
  grid-template-columns: 44px 1fr;
  gap: 8px;
}
.alarm {
  color: var(--alarm);
}
.caution {
  color: var(--wait);
}
.empty {
  max-width: 60ch;
  margin-top: 32px;
  padding-top: 16px;
  border-top: 1px solid var(--line);
}
@media (max-width: 860px) {
  .scale-row,
  .notice,
  .below {
    grid-template-columns: minmax(0, 1fr);
  }
  .scale-row > :first-child {
    display: none;
  }
  .when {
    margin-block: 0;
    padding: 0;
  }
}
</style>
