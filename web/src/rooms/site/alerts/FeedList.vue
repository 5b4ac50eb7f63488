<script setup lang="ts">
// The feeds that alerts come by, and how often open pages look for changes.
import { computed, ref } from 'vue'
import { api, type Feed } from '../../../api/client'
import { mayManage, mayWrite } from '../../../instruments/me'
import { say } from '../../../instruments/time'
import { useAlerts } from './alerts'
import FeedEditor from './FeedEditor.vue'

const { site, detail, loaded: alerts, feeds, busy, put, keep } = useAlerts()
const editing = ref('')
const tags = computed(() => [...new Set(detail.value.pages.flatMap((p) => p.tags ?? []))].sort())
const areas = computed(() => [...new Set(alerts.value.received.flatMap((r) => r.areas))])
const edit = (f: Feed) => (editing.value = editing.value === f.name ? '' : f.name)

async function keepFeeds(list: Feed[], done: string) {
  if (await keep('feeds', { feeds: list }, done)) editing.value = ''
}
const replace = (next: Feed) =>
  keepFeeds(
    feeds.value.map((f) => (f.name === next.name ? next : f)),
    'Kept.',
  )
const remove = (gone: Feed) =>
  keepFeeds(
    feeds.value.filter((f) => f.name !== gone.name),
    'Removed. What it brought stays.',
  )
async function add() {
  let n = 1
  while (feeds.value.some((f) => f.name === `feed-${n}`)) n++
  await keepFeeds([...feeds.value, { name: `feed-${n}`, title: 'New feed' }], '')
  editing.value = `feed-${n}`
}
const ask = (f: Feed) => put(f.name, () => api.askFeed(site.value, f.name), 'Asked.')

/** How often an open page looks for what has changed. */
const refreshes = {
  PT1M: 'every minute',
  PT15S: 'every 15 seconds',
  PT30S: 'every 30 seconds',
  PT5M: 'every 5 minutes',
  PT30M: 'every half an hour',
}
const every = computed(() => detail.value.site.refresh ?? 'PT1M')
</script>

<template>
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
          <el-button v-if="f.feed.address && mayWrite" size="small" :loading="busy === f.feed.name" @click="ask(f.feed)"
            >Ask it now</el-button
          >
          <el-button v-if="mayManage" size="small" :aria-expanded="editing === f.feed.name" @click="edit(f.feed)"
            >Change it</el-button
          >
        </p>
        <FeedEditor
          v-if="editing === f.feed.name"
          :feed="f.feed"
          :defaults="alerts.defaultLevels"
          :tags="tags"
          :seen="areas"
          @save="replace"
          @remove="remove(f.feed)"
          @close="editing = ''"
        />
      </li>
    </ul>
    <p class="acts">
      <el-button v-if="mayManage" :loading="busy === 'feeds'" @click="add">Add a feed</el-button>
      <label v-if="mayManage && feeds.length" class="small often"
        >Open pages look for changes
        <el-select
          :model-value="every"
          size="small"
          aria-label="How often open pages look for changes"
          @change="(refresh: string) => keep('refresh', { refresh })"
        >
          <el-option v-for="(words, often) in refreshes" :key="often" :value="often" :label="words" />
          <el-option v-if="!(every in refreshes)" :value="every" :label="every" />
        </el-select>
      </label>
    </p>
  </section>
</template>

<style scoped src="./parts.css"></style>
<style scoped>
li + li {
  border-top: 1px solid var(--line);
}
.feed-line {
  padding: 6px 0;
}
.often {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.often .el-select {
  width: 160px;
}
</style>
