<script setup lang="ts">
// Alerts: what came by feeds, the feeds themselves, what is given by hand, and
// where the site's own alerts and its schedule can be read.
import { mayWrite } from '../../../instruments/me'
import { provideAlerts } from './alerts'
import FeedList from './FeedList.vue'
import GiveAlert from './GiveAlert.vue'
import OutletList from './OutletList.vue'
import ReceivedList from './ReceivedList.vue'
import WeatherOffice from './WeatherOffice.vue'

const { alerts, error, feeds } = provideAlerts()
</script>

<template>
  <p v-if="error" class="error" role="alert">{{ error }}</p>
  <div v-if="alerts" class="parted">
    <ReceivedList />
    <div>
      <FeedList />
      <WeatherOffice v-if="alerts.weather && mayWrite" />
      <GiveAlert v-if="feeds.length && mayWrite" />
      <OutletList />
    </div>
  </div>
</template>
