<script setup lang="ts">
// The demo’s stand-in for an authority: it publishes what it is told to.
import { api } from '../../../api/client'
import { useAlerts } from './alerts'

const { site, loaded: alerts, feeds, busy, put } = useAlerts()
const words: Record<string, string> = {
  alert: 'A warning',
  update: 'An update of it',
  cancel: 'Its end',
  rubbish: 'A broken message',
  nothing: 'Nothing any more',
}
const send = (what: string) =>
  put(
    'weather',
    async () => {
      await api.sendWeather(what)
      const mine = feeds.value.find((f) => f.address === alerts.value.weatherAddress)
      return mine ? api.askFeed(site.value, mine.name) : api.alerts(site.value)
    },
    'The office published, and the feed was asked.',
  )
</script>

<template>
  <section aria-labelledby="office">
    <h2 id="office">The stand-in weather office</h2>
    <p class="quiet small">
      This is the demo: an invented office publishes at {{ alerts.weatherAddress }} what you tell it to.
    </p>
    <p class="acts">
      <el-button v-for="w in alerts.weather" :key="w" size="small" :loading="busy === 'weather'" @click="send(w)">{{
        words[w] ?? w
      }}</el-button>
    </p>
  </section>
</template>

<style scoped src="./parts.css"></style>
