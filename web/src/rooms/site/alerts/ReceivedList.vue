<script setup lang="ts">
// What came by feeds: what waits is let through or kept from the site here.
import { computed, ref } from 'vue'
import { api, type Alerts } from '../../../api/client'
import ReceivedRow from '../../../instruments/ReceivedRow.vue'
import { useAlerts } from './alerts'

type Received = Alerts['received'][number]
const { site, detail, loaded: alerts, feeds, busy, put } = useAlerts()
const find = ref('')
const shown = computed(() => {
  const wanted = find.value.toLowerCase()
  return alerts.value.received.filter((r) =>
    `${r.headline} ${r.feedTitle} ${r.standing} ${r.kind}`.toLowerCase().includes(wanted),
  )
})
const none = computed(() =>
  feeds.value.length
    ? 'What the feeds bring lies here, and waits for you where you say so.'
    : 'Add a feed, and what it brings lies here.',
)
const working = (r: Received) => `message ${r.id}`
const approve = (r: Received) =>
  put(working(r), () => api.approveAlert(site.value, r.id), r.kind === 'cancel' ? 'Ended.' : 'Published.')
const refuse = (r: Received) => put(working(r), () => api.refuseAlert(site.value, r.id), 'Refused. No visitor sees it.')
</script>

<template>
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
    <p v-if="!alerts.received.length" class="quiet">Nothing yet. {{ none }}</p>
    <ul v-else class="plainlist">
      <li v-for="r in shown" :key="r.id">
        <ReceivedRow
          :message="r"
          :zone="detail.site.timeZone"
          :site="site"
          :busy="busy === working(r)"
          @approve="approve(r)"
          @refuse="refuse(r)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped src="./parts.css"></style>
<style scoped>
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
</style>
