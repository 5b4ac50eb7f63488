<script setup lang="ts">
// A message that is taken in by hand, as if a feed had brought it.
import { ref } from 'vue'
import { api } from '../../../api/client'
import FileChoice from '../../../instruments/FileChoice.vue'
import { useAlerts } from './alerts'

const { site, feeds, busy, put } = useAlerts()
const text = ref('')
const into = ref('')
async function file([chosen]: File[]) {
  text.value = (await chosen?.text()) ?? ''
}
async function give() {
  const given = { feed: into.value || feeds.value[0]!.name, text: text.value }
  if (await put('give', () => api.giveAlert(site.value, given), 'Taken in.')) text.value = ''
}
</script>

<template>
  <section aria-labelledby="hand">
    <h2 id="hand">By hand</h2>
    <form @submit.prevent="give">
      <el-input
        v-model="text"
        type="textarea"
        :rows="3"
        aria-label="A message in XML"
        placeholder="Paste a CAP 1.2 message or an Atom feed"
      />
      <p class="acts">
        <el-select v-model="into" :placeholder="feeds[0]?.title || feeds[0]?.name" aria-label="As if it came by">
          <el-option v-for="f in feeds" :key="f.name" :value="f.name" :label="f.title || f.name" />
        </el-select>
        <FileChoice words="From a file" accept=".xml,.cap,.atom,application/xml,text/xml" :busy="false" @files="file" />
        <el-button native-type="submit" :disabled="!text.trim()" :loading="busy === 'give'">Take it in</el-button>
      </p>
    </form>
  </section>
</template>

<style scoped src="./parts.css"></style>
<style scoped>
/* Seen is the word beside it; where it lies it must cover nothing. */
form p {
  margin-top: 6px;
}
</style>
