<script setup lang="ts">
// Pages: the site as a tree, and what each page carries at the viewpoint's
// moment. Choosing a page looks from it.
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { ElTree } from 'element-plus'
import { api, blocking, type CarryingPage } from '../../api/client'
import Emblem from '../../instruments/Emblem.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { branch, type Twig } from './tree'

const route = useRoute()
const { site, view, moment, look, page } = useViewpoint()
const pages = ref<CarryingPage[]>([])
const found = ref('')
const open = ref('')
const tree = useTemplateRef<InstanceType<typeof ElTree>>('tree')

// The page looked from does not change what the others carry, but what is published does.
watch(
  [site, () => moment.value.at, () => moment.value.zone, view],
  async () =>
    (pages.value = (
      await api.carried(site.value, { ...moment.value, page: undefined }).catch(() => ({ pages: [] as CarryingPage[] }))
    ).pages),
  { immediate: true },
)
const twigs = computed(() => branch(pages.value))
const here = computed(() => view.value?.page.path ?? (page.value || '/'))
watch(found, (q) => tree.value?.filter(q.toLowerCase()))
const match = (q: string, data: object) => !q || `${(data as Twig).path} ${(data as Twig).page?.title ?? ''}`.toLowerCase().includes(q)
const card = (id: string) => view.value?.notices.find((n) => n.id === id)
const bare = computed(() => pages.value.filter((p) => p.shows.length === 0).length)
const others = computed(() => (view.value?.notices ?? []).filter((n) => !n.account.shows))
const up = computed(() => (view.value?.shows ?? []).flatMap((id) => card(id) ?? []))
const toNotice = (id: string) => ({ name: 'notice', params: { site: site.value, notice: id }, query: route.query })
const reason = (id: string) => {
  const n = card(id)
  return n && blocking(n.account)?.why
}
</script>

<template>
  <div v-if="view" class="pages-room">
    <div class="tree">
      <div class="top">
        <h1>Pages</h1>
        <el-input v-model="found" data-find placeholder="Find a page" aria-label="Find a page" clearable />
      </div>
      <p class="quiet small">
        {{ pages.length }} known pages; {{ pages.length - bare }} carry a notice at {{ say(view.at, view.zone) }}, {{ bare }} carry none.
      </p>
      <div v-if="pages.length === 0" class="empty">
        <p>No pages are known yet. Have them read from the site’s sitemap.</p>
        <router-link :to="{ name: 'site', params: { site } }">Read the pages</router-link>
      </div>
      <el-tree
        v-else
        ref="tree"
        :data="twigs"
        node-key="path"
        :props="{ label: 'label', children: 'children' }"
        :filter-node-method="match"
        default-expand-all
        :expand-on-click-node="false"
        highlight-current
        :current-node-key="here"
        @node-click="(t: Twig) => t.page && look({ page: t.page.path })"
      >
        <template #default="{ data }: { data: Twig }">
          <span class="twig" :class="{ ghost: !data.page }">
            <span class="label">{{ data.label }}</span>
            <span v-if="data.page" class="page-title quiet small">{{ data.page.title }}</span>
            <span v-if="data.page?.shows.length" class="carries">
              <Emblem v-for="id in data.page.shows" :key="id" :edge="card(id)?.slot ?? 'top'" :colour="card(id)?.background ?? '#888888'" />
              <span class="unseen">carries {{ data.page.shows.map((id) => card(id)?.title).join(', ') }}</span>
            </span>
          </span>
        </template>
      </el-tree>
    </div>
    <section class="carrying" aria-labelledby="carrying">
      <h2 id="carrying">{{ view.page.title || view.page.path }}</h2>
      <p class="quiet small">
        {{ view.page.path }}, {{ view.page.language }}<template v-if="!view.page.known">, not a known page</template>
        <template v-if="view.page.address">. <a :href="view.page.address" target="_blank" rel="noopener">Open the page</a></template>
      </p>
      <h3>Carries at {{ say(view.at, view.zone) }}</h3>
      <p v-if="up.length === 0" class="quiet">Nothing.</p>
      <ul class="plainlist">
        <li v-for="n in up" :key="n.id" class="line">
          <Halyard :flag="n.flag" /> <Emblem :edge="n.slot" :colour="n.background" />
          <router-link :to="toNotice(n.id)">{{ n.title }}</router-link> <span class="quiet">{{ n.slot }}</span>
        </li>
      </ul>
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
    </section>
  </div>
</template>

<style scoped>
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
