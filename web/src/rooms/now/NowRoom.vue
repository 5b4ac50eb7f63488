<script setup lang="ts">
// Now & next: what is up, what changes next, what needs attention. Each notice
// is a row: its flag, its order line, its time, and why it shows or not at the
// viewpoint.
import { useDebounceFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type Act, type Card, type Finding, type Tally } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { latest } from '../../instruments/latest'
import { mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import ReceivedRow from '../../instruments/ReceivedRow.vue'
import OrderLine from '../../instruments/OrderLine.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { away, say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'
import NoticeRow from './NoticeRow.vue'

const route = useRoute()
const router = useRouter()
const { view, site, look, refresh, listing, named } = useViewpoint()
const filter = ref(listing.value.find)
watch(
  filter,
  useDebounceFn((find: string) => (listing.value = { find, most: 100 }), 150),
)
onScopeDispose(() => (listing.value = { find: '', most: 100 }))
/** How many more notices are listed at a time. */
const more = 100

const rows = computed(() => view.value?.notices ?? [])
const titleOf = (id: string) => named(id)?.title ?? id
const cardOf = (id: string) => view.value?.notices.find((n) => n.id === id)
/** Where what was found can be mended: at a notice, or in the Consent room. */
const toFix = (f: Finding) =>
  f.notices[0]
    ? toNotice(f.notices[0])
    : f.document
      ? { name: 'document', params: { site: site.value, document: f.document }, query: route.query }
      : f.pointers[0]?.startsWith('/site/words')
        ? { name: 'site', params: { site: site.value, part: 'words' }, query: route.query }
        : { name: 'consent', params: { site: site.value }, query: route.query }
/** What was counted of each notice in the last 30 days. Where it cannot be had the room works without it. */
const counted = ref<Record<string, Tally>>({})
const loadCounted = latest(
  () => api.results(site.value, {}),
  (r) => (counted.value = Object.fromEntries(r.notices.map((n) => [n.id, n.all]))),
  () => (counted.value = {}),
)
watch(site, () => void loadCounted(), { immediate: true })
const toNotice = (id: string) => ({ name: 'notice', params: { site: site.value, notice: id }, query: route.query })

const summary = computed(() => {
  const v = view.value
  if (!v) return ''
  const here = v.shows.map((id) => `“${titleOf(id)}”`)
  const page = v.page.path
  if (here.length === 0) return `Nothing shows on ${page}`
  if (here.length === 1) return `${here[0]} shows on ${page}`
  return `${here.slice(0, -1).join(', ')} and ${here.at(-1)} show on ${page}`
})
const needs = computed(() => view.value?.findings ?? [])
/** Acts on a notice at once, with a way back where there is one. */
const act = (n: Card, what: Act, done: string, back?: Act) =>
  attempt(async () => {
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
  })
const pauseAll = () =>
  attempt(async () => {
    const paused = await api.pauseAll(site.value, { pause: true })
    await refresh()
    const count = paused.notices.length
    const done =
      count === 1 ? 'One notice is paused. No visitor sees it.' : `${count} notices are paused. No visitor sees them.`
    tell(done, 'success', async () => {
      const { left } = await api.pauseAll(site.value, { pause: false, notices: paused.notices })
      await refresh()
      if (left.length)
        tell(`Only administrators resume code. Still paused: ${left.map((title) => `“${title}”`).join(', ')}.`)
    })
  })
const end = (n: Card, until: string) =>
  attempt(async () => {
    await api.endAt(site.value, n.id, { revision: n.revision, until })
    await refresh()
    tell(`“${n.title}” ends ${say(cardOf(n.id)?.until ?? '', view.value!.zone)}.`)
  })
/** How many findings are listed before all of them are asked for. */
const few = 10
const all = ref(false)
/** A message that came by a feed is approved or refused. */
async function settle(work: Promise<unknown>, done: string) {
  await attempt(() => work, done)
  await refresh()
}
const count = computed(() => {
  const v = view.value
  return v ? v.findings.length + v.findingsMore + (v.snippetMissing ? 1 : 0) + v.ailing.length : 0
})
const mark = (f: Finding) => ({ error: 'Fix', warning: 'Look', info: 'Note' })[f.severity]
</script>

<template>
  <div v-if="view" class="now">
    <div class="top">
      <div class="heading">
        <h1>Now &amp; next</h1>
        <p class="summary">
          {{ summary
          }}<template v-if="view.next[0]"
            >. Next, {{ say(view.next[0].at, view.zone) }} (in {{ away(view.at, view.next[0].at) }}): “{{
              titleOf(view.next[0].notice)
            }}” {{ view.next[0].starts ? 'goes up' : 'comes down' }}</template
          >.
          <a v-if="count" href="#needs">{{ count === 1 ? 'One thing needs you' : `${count} things need you` }}</a>
        </p>
      </div>
      <el-input
        v-if="view.all > 3"
        v-model="filter"
        class="filter"
        data-find
        placeholder="Find a notice"
        aria-label="Find a notice"
        clearable
      />
      <el-button v-if="mayWrite && view.running" title="Take everything off for a while" @click="pauseAll"
        >Pause all</el-button
      >
    </div>
    <ul
      v-if="view.troubles.length"
      class="plainlist troubles"
      role="alert"
      aria-label="The program cannot do all it should"
    >
      <li v-for="t in view.troubles" :key="t">{{ t }}</li>
    </ul>
    <section v-if="view.received.length" class="came" aria-label="Came by a feed, and waits for you">
      <ReceivedRow
        v-for="r in view.received"
        :key="r.id"
        :message="r"
        :zone="view.zone"
        :site="site"
        @approve="settle(api.approveAlert(site, r.id), r.kind === 'cancel' ? 'Ended.' : 'Published.')"
        @refuse="settle(api.refuseAlert(site, r.id), 'Refused. No visitor sees it.')"
      />
    </section>

    <div v-if="view.all === 0" class="empty">
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
        <NoticeRow
          v-for="n in rows"
          :key="n.id"
          :n="n"
          :view="view"
          :to="toNotice(n.id)"
          :counted="counted[n.id]"
          @act="(what, done, back) => act(n, what, done, back)"
          @end="(until) => end(n, until)"
        />
      </ul>
      <p v-if="view.found > rows.length" class="quiet">
        {{ rows.length }} of {{ view.found }} notices.
        <button class="word" @click="listing = { ...listing, most: Math.min(listing.most + more, 1000) }">
          Show {{ more }} more
        </button>
      </p>
      <p v-if="rows.length === 0" class="quiet">
        No notice matches “{{ filter }}”. <button class="word" @click="filter = ''">Show all</button>
      </p>
    </div>

    <div v-if="view.all" class="below">
      <section aria-labelledby="next">
        <h2 id="next">What changes next</h2>
        <ol v-if="view.next.length" class="plainlist changes">
          <li v-for="c in view.next" :key="c.at + c.notice">
            <button class="word" @click="look({ at: c.at })">
              <time>{{ say(c.at, view.zone) }}</time>
            </button>
            <span
              ><router-link :to="toNotice(c.notice)">{{ titleOf(c.notice) }}</router-link>
              {{ c.starts ? 'goes up' : 'comes down' }} <OrderLine :line="c.line"
            /></span>
          </li>
        </ol>
        <p v-else class="quiet">Nothing is planned to change. What is up stays up until you unpublish it.</p>
      </section>
      <section aria-labelledby="needs">
        <h2 id="needs">What needs you</h2>
        <ul v-if="count" class="plainlist needs">
          <li v-for="f in view.ailing" :key="'feed' + f.feed.name">
            <b class="of-error">Fix</b>
            <span
              >The feed “{{ f.feed.title || f.feed.name }}” does not answer as it should: {{ f.why }}
              <router-link :to="{ name: 'site', params: { site, part: 'alerts' } }">Look at it</router-link></span
            >
          </li>
          <li v-if="view.snippetMissing > 0">
            <b class="of-error">Fix</b>
            <span
              >The snippet was not found on {{ view.snippetMissing }} of {{ view.pages }} pages.
              <router-link :to="{ name: 'site', params: { site } }">See which</router-link></span
            >
          </li>
          <li v-if="view.snippetMissing < 0">
            <b class="of-warning">Look</b>
            <span
              >Nobody has looked yet whether the site carries the snippet.
              <router-link :to="{ name: 'site', params: { site } }">Look now</router-link></span
            >
          </li>
          <li v-for="f in all ? needs : needs.slice(0, few)" :key="f.code + f.pointers[0]">
            <b :class="`of-${f.severity}`">{{ mark(f) }}</b>
            <span
              >{{ f.what }} <router-link :to="toFix(f)">{{ f.fix }}</router-link></span
            >
          </li>
          <li v-if="!all && needs.length > few">
            <span></span><button class="word" @click="all = true">Show all {{ needs.length }}</button>
          </li>
          <li v-if="all && view.findingsMore">
            <span></span
            ><span class="quiet">and {{ view.findingsMore }} more, which are listed once these are mended</span>
          </li>
        </ul>
        <p v-else class="quiet">Nothing. All notices are in order.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.came {
  margin: 8px 0 12px;
  padding: 2px 12px;
  border: 1px solid var(--wait);
  border-radius: 3px;
  background: var(--wait-bg);
}
.troubles {
  margin: 8px 0 12px;
  padding: 6px 12px;
  background: var(--alarm-bg);
  color: var(--alarm);
}
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
.scale-row {
  display: grid;
  grid-template-columns: minmax(0, 46fr) minmax(0, 54fr);
  gap: 0 32px;
  align-items: center;
}
.scale-row > :first-child {
  align-self: end;
  padding-bottom: 4px;
}
.changes .line {
  overflow: hidden;
  max-width: 60ch;
  color: var(--ink-2);
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
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
  grid-template-columns: 140px minmax(0, 1fr);
  gap: 8px;
}
.needs li {
  display: grid;
  grid-template-columns: 44px 1fr;
  gap: 8px;
}
.of-error {
  color: var(--alarm);
}
.of-warning {
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
  .below {
    grid-template-columns: minmax(0, 1fr);
  }
  .scale-row > :first-child {
    display: none;
  }
}
</style>
