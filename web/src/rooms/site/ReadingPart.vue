<script setup lang="ts">
// Reading the site's pages: whether the snippet is on them, how far a reading is, what
// it left out, and what differs from the one before.
import { useTimeoutPoll } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, type SiteDetail, type Survey } from '../../api/client'
import { problemOf, reason } from '../../instruments/attempts'
import { mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'

const { refresh } = useViewpoint()
const { site, loaded: detail, load: readSite, through } = useSite()
const survey = ref<Survey>()
const error = ref('')
const busy = ref(false)

watch(
  () => detail.value.survey,
  (s) => (survey.value = s),
  { immediate: true },
)
const reading = computed(() => survey.value?.state === 'reading')

// A reading goes on by itself: it is looked after while it does.
async function look() {
  survey.value = (await api.surveyState(site.value).catch(() => undefined))?.survey ?? survey.value
  if (!reading.value) await load().catch(() => undefined)
}
const looking = useTimeoutPoll(look, 700, { immediate: false })
watch(reading, (is) => (is ? looking.resume() : looking.pause()), { immediate: true })
async function load() {
  await readSite()
  await refresh()
}
async function attempt(work: () => Promise<SiteDetail>) {
  busy.value = true
  error.value = ''
  try {
    await through(work())
    if (!reading.value) await refresh()
  } catch (e) {
    // What it found is asked about below.
    if (problemOf(e)?.title !== 'Far fewer pages') error.value = reason(e)
    await load().catch(() => {})
  }
  busy.value = false
}
const read = (how: { resume?: boolean; fewer?: boolean } = {}) => attempt(() => api.survey(site.value, how))

const found = computed(() => detail.value.pages.filter((p) => p.snippet === 'found').length)
const looked = computed(() => detail.value.pages.filter((p) => p.snippet).length)
const lacking = computed(() => detail.value.pages.filter((p) => p.snippet && p.snippet !== 'found'))
const figure = (n: number) => n.toLocaleString('en-GB')
const counted = (n: number, one: string, many = `${one}s`) => (n === 1 ? `one ${one}` : `${figure(n)} ${many}`)

/** Why something was left out, by code. */
const reasons: Record<NonNullable<Survey['leftOut']>[number]['code'], (n: number) => string> = {
  elsewhere: (n) => `${counted(n, 'address', 'addresses')} of another site`,
  robots: (n) => `${counted(n, 'page')} that robots.txt asks programs not to read: known by address alone`,
  many: (n) => `${counted(n, 'page')} beyond the first 50,000`,
  maps: (n) => `${counted(n, 'sitemap')} beyond the first 500`,
  map: (n) => `${counted(n, 'sitemap')} that could not be read to the end`,
  broken: (n) => (n === 1 ? 'one entry that is no address' : `${figure(n)} entries that are no addresses`),
  leads: (n) => `${counted(n, 'address', 'addresses')} that lead${n === 1 ? 's' : ''} to another page`,
  same: (n) => (n === 1 ? 'one more address of a page' : `${figure(n)} more addresses of pages`),
  links: (n) => `${counted(n, 'link')} to pages beyond the first 500`,
  kind: (n) => (n === 1 ? 'one file that is no web page' : `${figure(n)} files that are no web pages`),
}
const differs = computed(() => {
  const s = survey.value
  if (s?.state !== 'done') return []
  return [
    { name: 'New', some: s.new },
    { name: 'Gone', some: s.gone },
    { name: 'Changed', some: s.changed },
  ].flatMap(({ name, some }) => (some?.count ? [{ name, some }] : []))
})
</script>

<template>
  <section aria-labelledby="reading">
    <h2 id="reading">Is it there?</h2>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <template v-if="reading && survey">
      <p role="status">
        <template v-if="survey.listed"
          >{{ figure(survey.read) }} of {{ counted(survey.listed, 'page') }} read<template v-if="survey.failing"
            >, {{ figure(survey.failing) }} of them without an answer</template
          >. It continues if you leave.</template
        ><template v-else>The site’s sitemaps are read.</template>
      </p>
      <el-progress
        :percentage="Math.floor((100 * survey.read) / Math.max(1, survey.listed))"
        aria-label="How far the reading of pages is"
        class="far"
      />
      <el-button v-if="mayWrite" size="small" :loading="busy" @click="attempt(() => api.stopSurvey(site))"
        >Stop</el-button
      >
    </template>
    <template v-else>
      <p v-if="!detail.surveyedAt && !survey">
        Nobody has looked yet. Mast Flag reads the site’s sitemaps, visits each page once, a few at a time, and says
        where the lines are missing.
      </p>
      <p v-if="survey?.state === 'stopped'" class="band">
        Stopped after {{ figure(survey.read) }} of {{ counted(survey.listed, 'page')
        }}<template v-if="survey.why">: {{ survey.why }}</template
        >.
      </p>
      <p v-if="survey?.state === 'failed' && !error" class="error">
        The last reading failed<template v-if="survey.why">: {{ survey.why }}</template
        >. The pages known before are kept.
      </p>
      <p v-if="survey?.state === 'fewer'" class="band" role="alert">
        The site now lists {{ survey.listed ? counted(survey.listed, 'page') : 'no page' }}; of those known before
        {{ figure(survey.gone?.count ?? 0) }} are no longer there. They are kept until you say that they are gone.
      </p>
      <template v-if="looked">
        <p v-if="lacking.length === 0">
          Found on all {{ counted(found, 'page')
          }}<template v-if="detail.surveyedAt">, {{ say(detail.surveyedAt, detail.site.timeZone) }}</template
          >.
        </p>
        <p v-else class="lacks">
          Found on {{ figure(found) }} of {{ counted(looked, 'page')
          }}<template v-if="detail.surveyedAt">, {{ say(detail.surveyedAt, detail.site.timeZone) }}</template
          >. Not found on:
        </p>
        <ul v-if="lacking.length" class="plainlist lacking">
          <li v-for="p in lacking.slice(0, 20)" :key="p.path">
            {{ p.path }} <span class="quiet">{{ p.snippet === 'missing' ? 'no snippet' : p.snippet }}</span>
          </li>
          <li v-if="lacking.length > 20" class="quiet">and {{ figure(lacking.length - 20) }} more</li>
        </ul>
      </template>
      <div v-if="mayWrite" class="ways">
        <template v-if="survey?.state === 'fewer'">
          <el-button type="primary" :loading="busy" @click="read({ fewer: true })">They are gone</el-button>
          <el-button :disabled="busy" @click="read()">Read the pages again</el-button>
        </template>
        <template v-else-if="survey?.state === 'stopped'">
          <el-button type="primary" :loading="busy" @click="read({ resume: true })">Resume</el-button>
          <el-button :disabled="busy" @click="read()">Start over</el-button>
        </template>
        <el-button v-else :loading="busy" @click="read()">{{
          detail.surveyedAt ? 'Read the pages again' : 'Read the pages'
        }}</el-button>
      </div>
      <template v-if="survey?.state === 'done'">
        <details v-for="d in differs" :key="d.name" class="small">
          <summary>{{ d.name }} since the reading before: {{ counted(d.some.count, 'page') }}</summary>
          <ul class="plainlist">
            <li v-for="e in d.some.first" :key="e.what">
              {{ e.what }} <span class="quiet">{{ d.name === 'Changed' ? e.why?.replaceAll(' ', ', ') : e.why }}</span>
            </li>
            <li v-if="d.some.count > (d.some.first?.length ?? 0)" class="quiet">
              and {{ figure(d.some.count - (d.some.first?.length ?? 0)) }} more
            </li>
          </ul>
        </details>
        <details v-for="o in survey.leftOut" :key="o.code" class="small">
          <summary>Left out: {{ reasons[o.code](o.count) }}</summary>
          <ul class="plainlist">
            <li v-for="e in o.first" :key="e.what">
              {{ e.what }} <span class="quiet">{{ e.why }}</span>
            </li>
            <li v-if="o.count > (o.first?.length ?? 0)" class="quiet">
              and {{ figure(o.count - (o.first?.length ?? 0)) }} more
            </li>
          </ul>
        </details>
      </template>
    </template>
  </section>
</template>

<style scoped>
section p {
  margin: 4px 0 10px;
  max-width: 68ch;
}
.far {
  max-width: 420px;
  margin-bottom: 10px;
}
.band {
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
.lacking {
  margin-bottom: 10px;
}
.lacks {
  color: var(--alarm);
}
.ways {
  margin-bottom: 8px;
}
details {
  margin-top: 4px;
}
details ul {
  max-height: 240px;
  overflow: auto;
  margin: 4px 0 8px;
  overflow-wrap: anywhere;
}
summary {
  color: var(--sea);
  cursor: pointer;
}
</style>
