<script setup lang="ts">
// A door: one narrow form in the middle of an empty sheet.
defineEmits<{ submit: [] }>()
</script>

<template>
  <main class="door">
    <form @submit.prevent="$emit('submit')"><slot /></form>
  </main>
</template>

<style scoped>
.door {
  display: grid;
  place-items: center;
  min-height: 100vh;
  padding: 24px;
}
form {
  display: grid;
  gap: 12px;
  width: min(100%, 360px);
}
form :slotted(p) {
  margin: 0;
}
form :slotted(label) {
  display: grid;
  gap: 4px;
  font-weight: 600;
}
form :slotted(.error) {
  color: var(--alarm);
}
form :slotted(.el-button) {
  justify-self: start;
}
</style>
