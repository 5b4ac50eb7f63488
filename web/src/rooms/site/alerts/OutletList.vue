<script setup lang="ts">
// Where others can read the site’s alerts and its schedule.
import { api } from '../../../api/client'
import { copy } from '../../../instruments/copy'
import { mayManage } from '../../../instruments/me'
import { useAlerts } from './alerts'

const { site, loaded: alerts, put } = useAlerts()
const renew = () => put('calendar', () => api.newCalendar(site.value), 'The old address no longer works.')
</script>

<template>
  <section aria-labelledby="out">
    <h2 id="out">What others can read</h2>
    <p class="small">The site’s live alerts, as Atom; each leads to its CAP 1.2 message.</p>
    <p class="address">
      <code>{{ alerts.atom }}</code>
      <el-button size="small" aria-label="Copy the address of the Atom feed" @click="copy(alerts.atom)">Copy</el-button>
    </p>
    <p class="small">The whole schedule, for calendar programs (iCalendar). Whoever knows this address can read it.</p>
    <p class="address">
      <code>{{ alerts.calendar }}</code>
      <el-button size="small" aria-label="Copy the address of the calendar" @click="copy(alerts.calendar)"
        >Copy</el-button
      >
      <el-button v-if="mayManage" size="small" text @click="renew">New address</el-button>
    </p>
  </section>
</template>

<style scoped src="./parts.css"></style>
<style scoped>
code {
  overflow-wrap: anywhere;
  font-size: 12px;
}
</style>
