<script setup lang="ts">
// Site: how it is installed, its addresses, its colours, and the master switch.
import { computed, ref, watch } from 'vue'
import { api, CallError, type Saved, type Site, type SiteDetail } from '../../api/client'
import DateTime from '../../instruments/DateTime.vue'
import { tell } from '../../instruments/tell'
import { local, say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const { site, view, refresh } = useViewpoint()
const detail = ref<SiteDetail>()
const draft = ref<Site>({ key: '', name: '', timeZone: '', language: '' })
const origins = ref('')
const languages = ref('')
const homes = ref('')
const error = ref('')
const busy = ref(false)
const whole = ref(false)

function take(d: SiteDetail) {
  detail.value = d
  draft.value = structuredClone(d.site)
  origins.value = (d.site.origins ?? []).join('\n')
  languages.value = (d.site.languages ?? []).join(', ')
  homes.value = (d.site.homePaths ?? []).join(', ')
}
watch(site, async (key) => take(await api.site(key)), { immediate: true })

async function attempt(work: () => Promise<SiteDetail>, done: string) {
  busy.value = true
  error.value = ''
  try {
    take(await work())
    tell(done)
    await refresh()
  } catch (e) {
    const p = (e as CallError).problem
    error.value = p?.revision
      ? 'Someone else changed the site meanwhile. Reload to see it; what you wrote stands here until then.'
      : (e as CallError).message
  }
  busy.value = false
}
const words = (s: string) => s.split(/[\s,]+/).filter(Boolean)
const save = () =>
  attempt(
    () =>
      api.changeSite(site.value, {
        revision: detail.value!.revision,
        site: { ...draft.value, origins: words(origins.value), languages: words(languages.value), homePaths: words(homes.value) },
      }),
    'Saved.',
  )
/** Puts the lists of what is kept for use again in place; what is being written in the form stays. */
async function keep(change: (s: Site) => Site, done: string, undo?: () => void) {
  error.value = ''
  try {
    const d = await api.changeSite(site.value, { revision: detail.value!.revision, site: change(detail.value!.site) })
    detail.value = d
    draft.value = { ...draft.value, audiences: d.site.audiences, pageSets: d.site.pageSets }
    tell(done, 'success', undo)
  } catch (e) {
    error.value = (e as CallError).message
  }
}
function forget(s: Saved) {
  const was = detail.value!.site
  const put = (audiences: Site['audiences'], pageSets: Site['pageSets']) => (now: Site) => ({ ...now, audiences, pageSets })
  void keep(
    put(
      s.kind === 'audience' ? was.audiences?.filter((a) => a.name !== s.name) : was.audiences,
      s.kind === 'page set' ? was.pageSets?.filter((p) => p.name !== s.name) : was.pageSets,
    ),
    `“${s.name}” is removed.`,
    () => keep(put(was.audiences, was.pageSets), `“${s.name}” is back.`),
  )
}
const survey = () => attempt(() => api.survey(site.value), 'The site’s pages are read.')
const display = (on: string | number | boolean) =>
  attempt(
    () => api.display(site.value, { revision: detail.value!.revision, on: !!on }),
    on ? 'Notices show again.' : 'Everything is off. No visitor sees a notice.',
  )

async function copy() {
  try {
    await navigator.clipboard.writeText(detail.value!.snippet)
    tell('Copied. Paste it into the head of every page.')
  } catch {
    tell('The browser does not let this page copy. The whole text stands below, for the site’s developer: select it there.', 'warning')
    whole.value = true
  }
}

const found = computed(() => detail.value?.pages.filter((p) => p.snippet === 'found').length ?? 0)
const lacking = computed(() => detail.value?.pages.filter((p) => p.snippet !== 'found') ?? [])
/** The snippet as it is shown: its first line is long and says nothing to a reader. */
const short = computed(() => detail.value?.snippet.replace(/^(<script>).*(<.script>)$/m, '$1 … $2') ?? '')
const origin = location.origin
const zones = Intl.supportedValuesOf('timeZone')

// The stand-in clock of the demo.
const clockSet = ref('')
const me = ref(false)
api.me().then((m) => (me.value = m.clockCanBeSet))
async function setClock(at: string) {
  await api.setClock(
    at
      ? new Date(
          new Date(view.value!.now).getTime() + (Date.parse(at + 'Z') - Date.parse(local(view.value!.now, view.value!.zone) + 'Z')),
        ).toISOString()
      : '',
  )
  await refresh()
  tell(at ? 'The demo’s clock is set.' : 'The demo’s clock runs with the machine’s again.')
}
</script>

<template>
  <div v-if="detail" class="site-room">
    <h1>{{ detail.site.name }}</h1>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <div class="columns">
      <div>
        <section>
          <h2>Two lines on every page</h2>
          <p>Paste this into the head of every page of the site, or into the template that all pages share.</p>
          <div class="snippet">
            <code>{{ short }}</code>
            <el-button type="primary" @click="copy">Copy</el-button>
          </div>
        </section>
        <section class="policy">
          <details :open="whole">
            <summary>For the site’s developer</summary>
            <code class="whole">{{ detail.snippet }}</code>
            <p>
              The first line keeps the room of a bar free, so that the page does not jump; without it everything else works. The second
              brings the notices in and never holds the page up. A Content-Security-Policy lists <code>{{ origin }}</code> in
              <code>script-src</code> and <code>connect-src</code>, and <code>{{ detail.scriptSource }}</code> in <code>script-src</code>.
            </p>
          </details>
        </section>
        <section>
          <h2>Is it there?</h2>
          <p v-if="!detail.surveyedAt">
            Nobody has looked yet. Mast Flag reads the site’s sitemap, visits each page once, and says where the line is missing.
          </p>
          <p v-else-if="lacking.length === 0">Found on all {{ found }} pages, {{ say(detail.surveyedAt, detail.site.timeZone) }}.</p>
          <p v-else class="lacks">
            Found on {{ found }} of {{ detail.pages.length }} pages, {{ say(detail.surveyedAt, detail.site.timeZone) }}. Not found on:
          </p>
          <ul v-if="detail.surveyedAt && lacking.length" class="plainlist lacking">
            <li v-for="p in lacking.slice(0, 20)" :key="p.path">
              {{ p.path }} <span class="quiet">{{ p.snippet === 'missing' ? 'no snippet' : p.snippet }}</span>
            </li>
            <li v-if="lacking.length > 20" class="quiet">and {{ lacking.length - 20 }} more</li>
          </ul>
          <el-button :loading="busy" @click="survey">{{ detail.surveyedAt ? 'Read the pages again' : 'Read the pages' }}</el-button>
        </section>
        <section>
          <h2>Master switch</h2>
          <el-switch
            :model-value="detail.site.display !== false"
            active-text="Notices show on the site"
            aria-label="Notices show on the site"
            @change="display"
          />
          <p class="quiet small">Switch everything off for a moment to learn whether a fault on the site comes from a notice.</p>
        </section>
        <section v-if="detail.saved.length" aria-labelledby="kept">
          <h2 id="kept">Kept for use in many notices</h2>
          <ul class="plainlist kept">
            <li v-for="s in detail.saved" :key="s.kind + s.name">
              <span
                ><b>{{ s.name }}</b> <span class="quiet small">{{ s.kind }}</span><br /><span class="small">{{ s.words }}</span
                ><br /><span class="quiet small">{{ s.usedBy.length ? 'Used by ' + s.usedBy.join(', ') : 'Used by no notice' }}</span></span
              >
              <el-button
                text
                size="small"
                :disabled="s.usedBy.length > 0"
                :aria-label="`Remove ${s.name}`"
                :title="s.usedBy.length ? 'Notices use it' : 'Remove'"
                @click="forget(s)"
                >✕</el-button
              >
            </li>
          </ul>
        </section>
        <section v-if="me && view">
          <h2>The demo’s clock</h2>
          <p class="quiet small">
            This is the demo: its clock can be set, for visitors too. It reads {{ say(view.now, view.zone) }}, {{ view.zone }}.
          </p>
          <div class="clock">
            <DateTime v-model="clockSet" clearable placeholder="Day and hour" label="Set the demo’s clock to" />
            <el-button :disabled="!clockSet" @click="setClock(clockSet)">Set</el-button>
            <el-button text @click="((clockSet = ''), setClock(''))">Back to real time</el-button>
          </div>
        </section>
      </div>
      <form @submit.prevent="save">
        <h2>About the site</h2>
        <label>Name <el-input v-model="draft.name" /></label>
        <label>
          Addresses, one a line
          <el-input v-model="origins" type="textarea" :autosize="{ minRows: 2 }" placeholder="https://www.example.org" />
          <span class="quiet small">Only pages of these may show notices. With and without www. count as one.</span>
        </label>
        <label>
          Time zone
          <el-select v-model="draft.timeZone" filterable aria-label="Time zone"
            ><el-option v-for="z in zones" :key="z" :value="z" :label="z"
          /></el-select>
        </label>
        <div class="pair">
          <label>Main language <el-input v-model="draft.language" /></label>
          <label>All languages <el-input v-model="languages" placeholder="en, de, pl" /></label>
        </div>
        <label>Home pages <el-input v-model="homes" placeholder="/, /de" /></label>
        <fieldset>
          <legend>Colours offered for notices</legend>
          <div v-for="(c, i) in draft.palette" :key="i" class="colour">
            <input v-model="c.value" type="color" :aria-label="`Colour ${i + 1}`" />
            <el-input v-model="c.name" :aria-label="`Name of colour ${i + 1}`" />
            <el-button text :aria-label="`Remove colour ${i + 1}`" @click="draft.palette!.splice(i, 1)">✕</el-button>
          </div>
          <el-button size="small" @click="draft.palette = [...(draft.palette ?? []), { name: 'Colour', value: '#0b5a66' }]"
            >Add a colour</el-button
          >
        </fieldset>
        <el-button type="primary" native-type="submit" :loading="busy">Save</el-button>
      </form>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 24px 48px;
  margin-top: 12px;
}
section {
  padding: 12px 0 16px;
  border-top: 1px solid var(--line);
}
section p {
  margin: 4px 0 10px;
  max-width: 68ch;
}
.snippet {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 10px 12px;
  background: var(--chart);
}
.snippet code {
  flex: 1;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
  font-size: 14px;
}
.whole {
  display: block;
  margin-top: 8px;
  white-space: pre-wrap;
  font-size: 12px;
}
.policy {
  padding: 0 0 12px;
  border: 0;
}
.policy code {
  overflow-wrap: anywhere;
}
summary {
  color: var(--sea);
  cursor: pointer;
}
.lacking {
  margin-bottom: 10px;
}
.lacks {
  color: var(--alarm);
}
.kept li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 0;
}
.clock {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.clock .el-button {
  margin: 0;
}
form {
  display: grid;
  gap: 10px;
  align-content: start;
  padding-top: 12px;
  border-top: 1px solid var(--line);
}
label {
  display: grid;
  gap: 2px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 2fr;
  gap: 8px;
}
fieldset {
  display: grid;
  gap: 4px;
  justify-items: start;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  margin-bottom: 4px;
}
.colour {
  display: flex;
  gap: 6px;
  width: 100%;
}
input[type='color'] {
  flex: none;
  width: 44px;
  height: 32px;
  padding: 2px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
}
form > .el-button {
  justify-self: start;
}
.error {
  margin: 8px 0 0;
  padding: 8px 12px;
  background: var(--alarm-bg);
  color: var(--alarm);
}
@media (max-width: 860px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
