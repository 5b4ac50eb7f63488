<script setup lang="ts">
// What stands at an address of a site at which there is no room.
import { useRoute } from 'vue-router'

const route = useRoute()
</script>

<template>
  <h1>There is nothing at this address</h1>
  <p>
    It may be mistyped, or of an earlier version of the program.
    <router-link :to="{ name: 'now', params: { site: route.params.site } }">Go to Now &amp; next</router-link>
  </p>
</template>
