<script setup lang="ts">
// Pages: the site as a tree or a table, and what each page carries at the
// viewpoint's moment and in the 30 days after it.
import { computed, ref } from 'vue'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { anyPage, wanted } from './filter'
import PageCarries from './PageCarries.vue'
import PageFilters from './PageFilters.vue'
import { figure, providePages } from './pages'
import PagesTable from './PagesTable.vue'
import PagesTree from './PagesTree.vue'

const { view, moment } = useViewpoint()
const { site, pages, placed, toNotice } = providePages()
const filter = ref(anyPage())
const asTable = ref(false)
const shown = computed(() => new Set(pages.value.filter(wanted(filter.value)).map((p) => p.path)))

/** How many pages there are, how many of them carry no notice, and how many are shown. */
const summary = computed(() => {
  if (!view.value) return ''
  const all = pages.value.length
  const bare = pages.value.filter((p) => p.shows.length === 0).length
  const crowded = pages.value.filter((p) => p.tooMuch).length
  const few = shown.value.size === 1 ? 'One is shown.' : `${figure(shown.value.size)} are shown.`
  const carrying = !bare
    ? 'all carry a notice'
    : bare === all
      ? 'none carries a notice'
      : `${figure(bare)} of them carry none`
  return (
    `${figure(all)} known pages. At ${say(view.value.at, view.value.zone)} ${carrying}` +
    `${crowded ? `; ${figure(crowded)} carry too much` : ''}. ${shown.value.size < all ? few : ''}`
  )
})
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
        <el-input v-model="filter.text" data-find placeholder="Find a page" aria-label="Find a page" clearable />
      </div>
      <PageFilters v-model="filter" :places="!asTable" />
      <p v-if="placed" class="band" role="status">
        “{{ placed.notice.title }}” takes {{ placed.onPages.length }} of {{ pages.length }} pages. Press pages to take
        them in or leave them out; it goes into the draft.
        <router-link :to="toNotice(placed.card.id)">Open it to publish</router-link>
      </p>
      <p class="quiet small">{{ summary }}</p>
      <div v-if="pages.length === 0" class="empty">
        <p>No pages are known yet. Have them read from the site’s sitemap.</p>
        <router-link :to="{ name: 'site', params: { site } }">Read the pages</router-link>
      </div>
      <PagesTable v-else-if="asTable" :site="site" :moment="moment" :shown="shown" />
      <PagesTree v-else :shown="shown" />
    </div>
    <PageCarries v-if="!asTable" />
  </div>
</template>

<style scoped>
.pages-room {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 32px;
  align-items: start;
}
.pages-room.table {
  grid-template-columns: minmax(0, 1fr);
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
.tree .band {
  margin: 8px 0 0;
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
@media (max-width: 860px) {
  .pages-room {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
