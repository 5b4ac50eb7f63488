<script setup lang="ts">
// Pages: the site as a tree, and what each page carries at the viewpoint's
// moment and in the 30 days after it. Choosing a page looks from it; while a
// notice is being placed, it is taken in or left out instead.
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useWindowSize } from '@vueuse/core'
import { api, blocking, CallError, type Carried, type NoticeDetail } from '../../api/client'
import Emblem from '../../instruments/Emblem.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import { mayWrite } from '../../instruments/me'
import { latest } from '../../instruments/latest'
import { nameOf } from '../../instruments/languages'
import { useNames } from '../../instruments/names'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { place, stillOn } from '../notice/placing'
import { toggled } from '../notice/words/places'
import PagesTable from './PagesTable.vue'
import { below, branch, count, folders, type Twig } from './tree'

const route = useRoute()
type CarryingPage = Carried['pages'][number]
const { site, view, moment, look, page, listing, named, refresh } = useViewpoint()
const carried = shallowRef<Carried>({ pages: [], notices: [] })
const pages = computed(() => carried.value.pages)
const found = ref('')
const open = ref('')

// The page looked from does not change what the others carry, but what is published does.
watch(
  [site, () => moment.value.at, () => moment.value.zone, view],
  latest(
    () => api.carried(site.value, { ...moment.value, page: undefined }),
    (c) => (carried.value = c),
  ),
  { immediate: true },
)
const figure = (n: number) => n.toLocaleString('en-GB')
const here = computed(() => view.value?.page.path ?? (page.value || '/'))

// Which pages are shown.
const type = ref('')
const tag = ref('')
const language = ref('')
const load = ref('')
const distinct = (list: string[]) => [...new Set(list.filter(Boolean))].sort()
const types = computed(() => distinct(pages.value.map((p) => p.type)))
const tags = computed(() => distinct(pages.value.flatMap((p) => p.tags)))
const languages = computed(() => distinct(pages.value.map((p) => p.language)))
const loads = [
  { value: 'none', label: 'carry nothing', is: (p: CarryingPage) => p.shows.length === 0 },
  {
    value: 'never',
    label: 'carry nothing for 30 days',
    is: (p: CarryingPage) => p.soon.length === 0 && p.shows.length === 0,
  },
  { value: 'much', label: 'carry too much', is: (p: CarryingPage) => p.tooMuch },
]
const wanted = (p: CarryingPage) =>
  `${p.path} ${p.title}`.toLowerCase().includes(found.value.toLowerCase()) &&
  (!type.value || p.type === type.value) &&
  (!tag.value || p.tags.includes(tag.value)) &&
  (!language.value || p.language === language.value) &&
  (loads.find((l) => l.value === load.value)?.is(p) ?? true)
const shown = computed(() => new Set(pages.value.filter(wanted).map((p) => p.path)))
const twigs = computed(() => branch(pages.value.filter((p) => shown.value.has(p.path))))
// A tree of more than so many rows scrolls by itself, and begins folded: it draws what is in sight.
const most = 400
const row = 28
const rows = computed(() => count(twigs.value))
const unfolded = computed(() => (rows.value > most ? [] : folders(twigs.value)))
const { height: window } = useWindowSize()
const height = computed(() => (rows.value > most ? Math.max(300, window.value - 250) : rows.value * row))
const asTable = ref(false)

// A notice being placed: pressing a page takes it in or leaves it out, in its draft.
const placing = ref('')
const placed = ref<NoticeDetail>()
watch(
  placing,
  latest(
    async () => (placing.value ? await api.notice(site.value, placing.value, {}) : undefined),
    (d) => (placed.value = d),
  ),
)
const { names, find, remote } = useNames(site)
const carriedByIt = computed(() => new Set(placed.value?.onPages ?? []))
async function take(path: string, match: 'page' | 'section') {
  const d = placed.value
  if (!d) return
  const before = d.notice
  const put = async (notice: NoticeDetail['notice']) => {
    const at = placed.value!
    placed.value = await api.changeNotice(site.value, at.card.id, {}, { revision: at.card.revision, notice })
  }
  try {
    await put({ ...before, pages: toggled(before.pages ?? {}, carriedByIt.value.has(path), path, match) })
    const what = `${path}${match === 'section' ? ' and all below' : ''}`
    tell(`${what}: ${carriedByIt.value.has(path) ? 'taken in' : 'left out'}, in the draft.`, 'success', () =>
      put(before),
    )
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
function press(t: Twig) {
  if (!t.page) return
  if (placed.value) void take(t.page.path, 'page')
  else void look({ page: t.page.path })
}
const card = (id: string) => named(id) ?? carried.value.notices.find((n) => n.id === id)
const bare = computed(() => pages.value.filter((p) => p.shows.length === 0).length)
const soon = computed(() => {
  const p = pages.value.find((x) => x.path === here.value)
  return (p?.soon ?? []).filter((id) => !p?.shows.includes(id))
})
const crowded = computed(() => pages.value.filter((p) => p.tooMuch).length)
const others = computed(() => (view.value?.notices ?? []).filter((n) => !n.account.shows))
const standing = computed(() => (view.value?.standing ?? []).flatMap((id) => card(id) ?? []))
const up = computed(() =>
  (view.value?.shows ?? []).filter((id) => !view.value?.standing.includes(id)).flatMap((id) => card(id) ?? []),
)
/** Where a notice stands, as its sentence says it. */
const placeOf = (id: string) =>
  view.value?.notices
    .find((n) => n.id === id)
    ?.line.find((w) => w.control === 'slot')
    ?.text.replace(/^in the page, /, '')
/** Takes a block off the page looked from, with a way back. */
async function takeOff(id: string) {
  try {
    const [at, path] = [site.value, here.value]
    const before = await api.notice(at, id, {})
    await place({
      site: at,
      id,
      revision: before.card.revision,
      to: { off: path },
      said: (d) => `“${d.card.title}” is off ${path}, and ${stillOn(d.outOn.length)}.`,
      after: refresh,
    })
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
const toNotice = (id: string) => ({ name: 'notice', params: { site: site.value, notice: id }, query: route.query })
const reason = (id: string) => {
  const n = view.value?.notices.find((x) => x.id === id)
  return n && (n.leftOut || blocking(n.account)?.why)
}
</script>

<template>
  <div v-if="view" class="pages-room" :class="{ table: asTable }">
    <div class="tree">
      <div class="top">
        <h1>Pages</h1>
        <el-radio-group v-model="asTable" size="small" aria-label="Form">
          <el-radio-button :value="false">Tree</el-radio-button>
          <el-radio-button :value="true">Table</el-radio-button>
        </el-radio-group>
        <el-input v-model="found" data-find placeholder="Find a page" aria-label="Find a page" clearable />
      </div>
      <div class="filters">
        <el-select
          v-model="type"
          size="small"
          clearable
          placeholder="any type"
          aria-label="Type of page"
          @clear="type = ''"
        >
          <el-option v-for="t in types" :key="t" :value="t" :label="t" />
        </el-select>
        <el-select
          v-model="tag"
          size="small"
          clearable
          placeholder="any tag"
          aria-label="Tag of page"
          @clear="tag = ''"
        >
          <el-option v-for="t in tags" :key="t" :value="t" :label="t" />
        </el-select>
        <el-select
          v-model="language"
          size="small"
          clearable
          placeholder="any language"
          aria-label="Language of page"
          @clear="language = ''"
        >
          <el-option v-for="l in languages" :key="l" :value="l" :label="nameOf(l)" />
        </el-select>
        <el-select
          v-model="load"
          size="small"
          clearable
          placeholder="carry anything"
          aria-label="What pages carry"
          @clear="load = ''"
        >
          <el-option v-for="l in loads" :key="l.value" :value="l.value" :label="l.label" />
        </el-select>
        <el-select
          v-if="mayWrite && !asTable"
          v-model="placing"
          size="small"
          clearable
          filterable
          :remote="remote"
          :remote-method="find"
          class="placing"
          placeholder="Place a notice…"
          aria-label="Notice to place"
          @clear="placing = ''"
        >
          <el-option v-for="n in names" :key="n.id" :value="n.id" :label="n.title" />
        </el-select>
      </div>
      <p v-if="placed" class="band" role="status">
        “{{ placed.notice.title }}” takes {{ placed.onPages.length }} of {{ pages.length }} pages. Press pages to take
        them in or leave them out; it goes into the draft.
        <router-link :to="toNotice(placed.card.id)">Open it to publish</router-link>
      </p>
      <p class="quiet small">
        {{ figure(pages.length) }} known pages. At {{ say(view.at, view.zone) }} {{ figure(pages.length - bare) }} carry
        a notice and {{ figure(bare) }} carry none{{ crowded ? `; ${figure(crowded)} carry too much` : '' }}.
        {{ shown.size < pages.length ? (shown.size === 1 ? 'One is shown.' : `${figure(shown.size)} are shown.`) : '' }}
      </p>
      <div v-if="pages.length === 0" class="empty">
        <p>No pages are known yet. Have them read from the site’s sitemap.</p>
        <router-link :to="{ name: 'site', params: { site } }">Read the pages</router-link>
      </div>
      <PagesTable v-else-if="asTable" :site="site" :moment="moment" :shown="shown" />
      <el-tree-v2
        v-else
        :data="twigs"
        :props="{ value: 'path', label: 'label', children: 'children' }"
        :height="height"
        :item-size="row"
        :default-expanded-keys="unfolded"
        :expand-on-click-node="false"
        highlight-current
        :current-node-key="here"
        @node-click="(d) => press(d as Twig)"
      >
        <template #default="{ data, node }">
          <span class="twig" :class="{ ghost: !data.page }">
            <span v-if="placed && data.page" class="mark" :class="{ in: carriedByIt.has(data.page.path) }"
              >{{ carriedByIt.has(data.page.path) ? '●' : '○'
              }}<span class="unseen">{{ carriedByIt.has(data.page.path) ? 'taken in' : 'left out' }}</span></span
            >
            <span class="label">{{ data.label }}</span>
            <span v-if="data.children.length && !node.expanded" class="quiet small"
              >{{ figure(below(data as Twig)) }} below</span
            >
            <span v-if="data.page && placed?.unplaced.includes(data.page.path)" class="small wait">no spot there</span>
            <span v-if="data.page && placed?.newPages.includes(data.page.path)" class="small quiet"
              >new, took it by itself</span
            >
            <span v-if="data.page" class="page-title quiet small">{{ data.page.title }}</span>
            <button
              v-if="placed && data.page && data.children.length"
              type="button"
              class="word small"
              :aria-label="`${data.path} and all below it`"
              @click.stop="take(data.path, 'section')"
            >
              and all below
            </button>
            <span v-if="data.page && (data.page.shows.length || data.page.soon.length)" class="carries">
              <span v-if="data.page.soon.length > data.page.shows.length" class="quiet small"
                >+{{ data.page.soon.filter((id: string) => !data.page!.shows.includes(id)).length }} in 30 days</span
              >
              <Emblem
                v-for="id in data.page.shows"
                :key="id"
                :edge="card(id)?.slot"
                :colour="card(id)?.background ?? '#888888'"
                :kind="card(id)?.kind"
              />
              <span v-if="data.page.shows.length" class="unseen"
                >carries {{ data.page.shows.map((id: string) => card(id)?.title).join(', ') }}</span
              >
            </span>
          </span>
        </template>
      </el-tree-v2>
    </div>
    <section v-if="!asTable" class="carrying" aria-labelledby="carrying">
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
              @click="open = open === n.id ? '' : n.id"
            >
              All reasons
            </button>
          </div>
          <Gates v-if="open === n.id" :account="n.account" class="account" />
        </li>
      </ul>
      <p v-if="view.found > view.notices.length" class="quiet small">
        {{ view.notices.length }} of {{ view.found }} notices were looked at.
        <button class="word" @click="listing = { ...listing, most: Math.min(listing.most + 100, 1000) }">
          Look at 100 more
        </button>
      </p>
    </section>
  </div>
</template>

<style scoped>
.wait {
  color: var(--wait);
}
.pages-room {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 32px;
  align-items: start;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
  justify-content: space-between;
}
.top .el-input {
  width: 220px;
}
.tree p {
  margin: 4px 0 10px;
}
.pages-room.table {
  grid-template-columns: minmax(0, 1fr);
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 8px;
}
.filters .el-select {
  width: 128px;
}
.filters .placing {
  flex: 1;
  min-width: 150px;
}
.tree .band {
  margin: 8px 0 0;
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
.mark {
  width: 14px;
  color: var(--ink-2);
}
.mark.in {
  color: var(--live);
}
.twig {
  display: flex;
  flex: 1;
  gap: 10px;
  align-items: center;
  min-width: 0;
  padding-inline-end: 8px;
}
.label {
  flex: none;
  font-weight: 600;
}
.ghost .label {
  color: var(--ink-2);
  font-weight: 400;
}
.page-title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.carries {
  display: inline-flex;
  gap: 4px;
  align-items: center;
  margin-inline-start: auto;
}
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
  .pages-room {
    grid-template-columns: minmax(0, 1fr);
  }
  .carrying {
    position: static;
    order: -1;
    padding: 0 0 12px;
    border: 0;
    border-bottom: 1px solid var(--line);
  }
}
</style>
