<script setup lang="ts">
// The demo’s stand-in for a vendor that asks nobody: on the site or not.
import { api } from '../../api/client'
import { useViewpoint } from '../../instruments/viewpoint'
import { useConsent } from './consent'

const { room, attempt, load } = useConsent()
const { refresh } = useViewpoint()
const vendor = (on: string | number | boolean) =>
  attempt('vendor', async () => {
    await api.badVendor(!!on)
    await load()
    void refresh()
  })
</script>

<template>
  <section v-if="room" aria-labelledby="vendor">
    <h2 id="vendor">The demo’s bad vendor</h2>
    <p class="quiet small">
      This is the demo: an invented firm, Brine Metrics, whose script asks nobody. Let it in, inspect, and it is found.
    </p>
    <el-switch
      :model-value="room.badVendor"
      active-text="Its script is on the site"
      aria-label="Its script is on the site"
      @change="vendor"
    />
  </section>
</template>

<style scoped>
p {
  margin: 4px 0 8px;
}
h2 {
  margin-bottom: 4px;
}
</style>
