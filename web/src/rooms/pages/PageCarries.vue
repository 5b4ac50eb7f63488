<script setup lang="ts">
// What the page looked from carries at the viewpoint's moment, soon, and not, and why.
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, blocking } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import Emblem from '../../instruments/Emblem.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import { mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { place, stillOn } from '../notice/placing'
import { usePages } from './pages'

const route = useRoute()
const { view, listing, refresh } = useViewpoint()
const { site, pages, here, card, toNotice } = usePages()

/** The notice of which all reasons are shown. */
const open = ref('')
const toggle = (id: string) => (open.value = open.value === id ? '' : id)

const cards = (ids: string[]) => ids.flatMap((id) => card(id) ?? [])
const standing = computed(() => cards(view.value?.standing ?? []))
const up = computed(() => cards((view.value?.shows ?? []).filter((id) => !view.value?.standing.includes(id))))
const others = computed(() => (view.value?.notices ?? []).filter((n) => !n.account.shows))
const known = computed(() => pages.value.find((x) => x.path === here.value))
const soon = computed(() => (known.value?.soon ?? []).filter((id) => !known.value?.shows.includes(id)))
const noticeOf = (id: string) => view.value?.notices.find((n) => n.id === id)
/** Where a notice stands, as its sentence says it. */
const placeOf = (id: string) =>
  noticeOf(id)
    ?.line.find((w) => w.control === 'slot')
    ?.text.replace(/^in the page, /, '')
const reason = (id: string) => {
  const n = noticeOf(id)
  return n && (n.leftOut || blocking(n.account)?.why)
}
const lookAtMore = () => (listing.value = { ...listing.value, most: Math.min(listing.value.most + 100, 1000) })
/** Takes a block off the page looked from, with a way back. */
const takeOff = (id: string) =>
  attempt(async () => {
    const path = here.value
    const before = await api.notice(site.value, id, {})
    await place({
      site: site.value,
      id,
      revision: before.card.revision,
      to: { off: path },
      said: (d) => `“${d.card.title}” is off ${path}, and ${stillOn(d.outOn.length)}.`,
      after: refresh,
    })
  })
</script>

<template>
  <section v-if="view" class="carrying" aria-labelledby="carrying">
    <h2 id="carrying">{{ view.page.title || view.page.path }}</h2>
    <p class="quiet small">
      {{ view.page.path }}, {{ view.page.language }}<template v-if="!view.page.known">, not a known page</template>
      <template v-if="view.page.address"
        >. <a :href="view.page.address" target="_blank" rel="noopener">Open the page</a></template
      >
    </p>
    <h3>Carries at {{ say(view.at, view.zone) }}</h3>
    <p v-if="up.length === 0" class="quiet">Nothing.</p>
    <ul class="plainlist">
      <li v-for="n in up" :key="n.id" class="line">
        <Halyard :flag="n.flag" /> <Emblem :edge="n.slot" :colour="n.background" :kind="n.kind" />
        <router-link :to="toNotice(n.id)">{{ n.title }}</router-link> <span class="quiet">{{ placeOf(n.id) }}</span>
      </li>
    </ul>
    <template v-if="standing.length">
      <h3>In the page, in the order in which they stand</h3>
      <ol class="plainlist standing">
        <li v-for="(n, i) in standing" :key="n.id" class="line" :data-standing="n.id">
          <span class="number">{{ i + 1 }}</span> <Emblem :edge="n.slot" :colour="n.background" :kind="n.kind" />
          <router-link :to="toNotice(n.id)">{{ n.title }}</router-link>
          <span class="quiet small">{{ placeOf(n.id) }}</span>
          <button
            v-if="mayWrite"
            type="button"
            class="word small"
            :aria-label="`Take it off this page: ${n.title}`"
            @click="takeOff(n.id)"
          >
            Take it off this page
          </button>
        </li>
      </ol>
      <p class="small quiet">
        <template v-if="mayWrite"
          ><router-link :to="{ name: 'library', params: { site }, query: route.query }"
            >Put another block on this page</router-link
          >. </template
        >On the stage, Slots shows these numbers.
      </p>
    </template>
    <template v-if="soon.length">
      <h3>Within 30 days also</h3>
      <ul class="plainlist">
        <li v-for="id in soon" :key="id" class="line">
          <Halyard :flag="card(id)?.flag ?? 'scheduled'" />
          <router-link :to="toNotice(id)">{{ card(id)?.title ?? id }}</router-link>
        </li>
      </ul>
      <p v-if="known?.soonMore" class="quiet small">And {{ known.soonMore }} more.</p>
    </template>
    <h3>Does not carry, and why</h3>
    <ul class="plainlist">
      <li v-for="n in others" :key="n.id" :data-notice="n.id">
        <div class="line">
          <Halyard :flag="n.flag" /> <router-link :to="toNotice(n.id)">{{ n.title }}</router-link>
        </div>
        <div class="small why">
          <span class="quiet">{{ reason(n.id) }}</span>
          <button
            class="word"
            :aria-label="`All reasons for ${n.title}`"
            :aria-expanded="open === n.id"
            @click="toggle(n.id)"
          >
            All reasons
          </button>
        </div>
        <Gates v-if="open === n.id" :account="n.account" class="account" />
      </li>
    </ul>
    <p v-if="view.found > view.notices.length" class="quiet small">
      {{ view.notices.length }} of {{ view.found }} notices were looked at.
      <button class="word" @click="lookAtMore">Look at 100 more</button>
    </p>
  </section>
</template>

<style scoped>
.carrying {
  position: sticky;
  top: 16px;
  padding-inline-start: 24px;
  border-inline-start: 1px solid var(--line);
}
.carrying h2 {
  font-size: 20px;
}
.carrying p {
  margin: 2px 0 8px;
}
h3 {
  margin: 14px 0 6px;
  font-size: 14px;
}
.carrying li {
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.carrying .line {
  display: flex;
  gap: 8px;
  align-items: center;
}
.why {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}
.standing .line {
  flex-wrap: wrap;
}
.standing .line > .word {
  margin-inline-start: auto;
}
.number {
  min-width: 1.2em;
  font-variant-numeric: tabular-nums;
  font-weight: 600;
}
.account {
  margin-top: 6px;
  padding: 8px 10px;
  background: var(--chart);
}
@media (max-width: 860px) {
  .carrying {
    position: static;
    order: -1;
    padding: 0 0 12px;
    border: 0;
    border-bottom: 1px solid var(--line);
  }
}
</style>
