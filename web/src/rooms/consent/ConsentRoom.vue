<script setup lang="ts">
// Consent, by its four questions: what do we set, what do we ask, what was
// answered, what does each place want.
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { away } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import AnswersPart from './AnswersPart.vue'
import AsksPart from './AsksPart.vue'
import { provideConsent, questionOf } from './consent'
import PlacesPart from './PlacesPart.vue'
import SetsPart from './SetsPart.vue'

const { room, detail, error, site } = provideConsent()
const { view } = useViewpoint()
const route = useRoute()
const part = computed(() => (route.params.part as string) || 'sets')
const parts = [
  { name: 'sets', label: 'What do we set?' },
  { name: 'asks', label: 'What do we ask?' },
  { name: 'answers', label: 'What was answered?' },
  { name: 'places', label: 'What does each place want?' },
]
const leaks = computed(() => room.value?.things.filter((t) => t.leaks).length ?? 0)
/** How many findings are grave, by the question that they belong to. */
const grave = computed(() => {
  const out: Record<string, number> = {}
  for (const f of room.value?.findings ?? [])
    if (f.severity === 'error') out[questionOf(f)] = (out[questionOf(f)] ?? 0) + 1
  return out
})
/** The one sentence that matters most. */
const verdict = computed(() => {
  const r = room.value
  if (!r) return { text: '', error: false }
  if (r.progress) return { text: 'The site is being inspected.', error: false }
  if (!r.run) return { text: 'Nobody has looked yet what the site really sets.', error: false }
  const when =
    `Inspected ${away(r.run.began, view.value?.now ?? r.run.began)} ago on ` +
    `${r.run.pages.length === 1 ? 'one page' : `${r.run.pages.length} pages`}`
  if (leaks.value)
    return {
      text:
        `${leaks.value === 1 ? 'One thing is' : `${leaks.value} things are`} set before an answer or after a ` +
        `refusal, and not strictly necessary. ${when}.`,
      error: true,
    }
  if (r.run.how === 'http')
    return { text: `Nothing is set before an answer, as far as reading the pages tells. ${when}.`, error: false }
  return {
    text: `Nothing but what is strictly necessary is set before an answer or after a refusal. ${when}.`,
    error: false,
  }
})
</script>

<template>
  <div v-if="room && detail" class="consent-room">
    <div class="top">
      <h1>Consent</h1>
      <p class="verdict" :class="{ 'of-error': verdict.error }">{{ verdict.text }}</p>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <nav class="tabs" aria-label="Questions of the Consent room">
      <router-link
        v-for="p in parts"
        :key="p.name"
        :to="{ name: 'consent', params: { site, part: p.name === 'sets' ? '' : p.name }, query: route.query }"
        :aria-current="part === p.name ? 'page' : undefined"
        >{{ p.label }}<span v-if="grave[p.name]" class="grave">{{ grave[p.name] }} to fix</span></router-link
      >
    </nav>
    <SetsPart v-if="part === 'sets'" />
    <AsksPart v-else-if="part === 'asks'" />
    <AnswersPart v-else-if="part === 'answers'" />
    <PlacesPart v-else />
  </div>
  <p v-else-if="error" class="error" role="alert">{{ error }}</p>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  align-items: baseline;
}
.verdict {
  flex: 1 1 420px;
  max-width: 100ch;
  margin: 0;
}
.of-error,
.grave {
  color: var(--alarm);
}
.verdict.of-error {
  font-weight: 600;
}
.grave {
  margin-inline-start: 6px;
  font-weight: 400;
}
.tabs {
  margin: 8px 0 4px;
}
</style>
