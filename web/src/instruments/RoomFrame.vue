<script setup lang="ts">
// What a room stands in. It is made anew for another site, notice or person: so
// what a room asked for, and what was written in it, stays with what it was opened
// for, however late answers come.
import { provide, ref } from 'vue'
import { ownSite } from './viewpoint'

const props = defineProps<{ site: string }>()
provide(ownSite, ref(props.site))
</script>

<template>
  <router-view />
</template>
