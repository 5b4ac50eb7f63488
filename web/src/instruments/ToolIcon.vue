<script setup lang="ts">
// The few small signs of tools that have no room for a word.
defineProps<{ name: 'aside' | 'counts' | 'duplicate' | 'keep' }>()
const paths = {
  aside: 'M2 8h12M8 2v2.5M8 11.5V14',
  counts: 'M3 8.5l3.5 3.5L13 4.5',
  duplicate: 'M5.5 5.5h8v8h-8zM10.5 5.5v-3h-8v8h3',
  keep: 'M4 2.5h8v11l-4-3-4 3z',
}
</script>

<template>
  <svg
    viewBox="0 0 16 16"
    width="16"
    height="16"
    fill="none"
    stroke="currentColor"
    stroke-width="1.4"
    aria-hidden="true"
  >
    <path :d="paths[name]" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  margin: auto;
}
</style>
