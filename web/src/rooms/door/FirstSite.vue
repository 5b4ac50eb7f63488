<script setup lang="ts">
// Begins with a site: the first, or one more.
import { ref } from 'vue'
import { api } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'

const emit = defineEmits<{ made: [key: string] }>()
const name = ref('')
const address = ref('')
const timeZone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone)
const zones = Intl.supportedValuesOf('timeZone')
const { error, attempt } = useAttempts()

const make = () =>
  attempt('make', async () => {
    const made = await api.newSite({
      name: name.value,
      address: address.value,
      timeZone: timeZone.value,
      language: navigator.language.split('-')[0] ?? 'en',
    })
    emit('made', made.site.key)
  })
</script>

<template>
  <form class="first" @submit.prevent="make">
    <h1>Which site is it for?</h1>
    <p class="quiet">You can change all of this later. Next you get two lines to paste into the site.</p>
    <label>Name <el-input v-model="name" required placeholder="Parish of St Brannoc" /></label>
    <label>Address <el-input v-model="address" required placeholder="https://www.example.org" /></label>
    <label
      >Time zone
      <el-select v-model="timeZone" filterable persistent aria-label="Time zone"
        ><el-option v-for="z in zones" :key="z" :value="z" :label="z"
      /></el-select>
    </label>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <el-button type="primary" native-type="submit">Begin</el-button>
  </form>
</template>

<style scoped>
.first {
  display: grid;
  gap: 12px;
  width: min(100%, 420px);
}
.first p {
  margin: 0;
}
label {
  display: grid;
  gap: 4px;
  font-weight: 600;
}
.el-button {
  justify-self: start;
}
</style>
