<script setup lang="ts">
// Site: how it is installed and the master switch; what is said of it; who may
// work here, what they did, and what was sent.
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { copy } from '../../instruments/copy'
import DateTime from '../../instruments/DateTime.vue'
import { mayManage, me } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { local, say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import AboutPart from './AboutPart.vue'
import ActivityPart from './ActivityPart.vue'
import AlertsPart from './alerts/AlertsPart.vue'
import MailboxPart from './MailboxPart.vue'
import PeoplePart from './PeoplePart.vue'
import PolicyPart from './PolicyPart.vue'
import ReadingPart from './ReadingPart.vue'
import SpeedPart from './SpeedPart.vue'
import WordsPart from './WordsPart.vue'

const { view, refresh } = useViewpoint()
const { site, detail, open, through } = useSite()
const { error, attempt } = useAttempts()
const whole = ref(false)

const route = useRoute()
const part = computed(() => (route.params.part as string) || 'installed')
const parts = computed(() =>
  [
    { name: 'installed', label: 'Installed' },
    { name: 'about', label: 'About' },
    { name: 'words', label: 'Words' },
    { name: 'alerts', label: 'Alerts' },
    { name: 'speed', label: 'Speed' },
    { name: 'people', label: 'People', manages: true },
    { name: 'activity', label: 'Activity' },
    { name: 'mailbox', label: 'Mailbox', manages: true },
  ].filter((p) => mayManage.value || !p.manages),
)
void attempt('open', open)

async function display(on: string | number | boolean) {
  const revision = detail.value!.revision
  const done = on ? 'Notices show again.' : 'Everything is off. No visitor sees a notice.'
  if (await attempt('display', () => through(api.display(site.value, { revision, on: !!on })), done)) await refresh()
}

const to = ref('')
async function send() {
  if (await attempt('send', () => api.send(site.value, to.value), `The two lines for ${to.value} lie in the mailbox.`))
    to.value = ''
}

async function copySnippet() {
  const refused = 'the whole text stands below, for the site’s developer; select it there'
  const said = 'Copied. Paste it into the head of every page, after the line that says the encoding.'
  if (!(await copy(detail.value!.snippet, said, refused))) whole.value = true
}

/** The snippet as it is shown: of each line only the address in it says something to a reader. */
const short = computed(
  () =>
    detail.value?.snippet.replace(/^(<script>)(.*)(<.script>)$/gm, (_, begins: string, code: string, ends: string) =>
      [begins, '…', ...(code.match(/"https?:[^"]*"/) ?? []).flatMap((address) => [address, '…']), ends].join(' '),
    ) ?? '',
)
const origin = location.origin

// The stand-in clock of the demo.
const clockSet = ref('')
async function setClock(at: string) {
  await api.setClock(
    at
      ? new Date(
          new Date(view.value!.now).getTime() +
            (Date.parse(at + 'Z') - Date.parse(local(view.value!.now, view.value!.zone) + 'Z')),
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
    <nav class="parts tabs" aria-label="Parts of the Site room">
      <router-link
        v-for="p in parts"
        :key="p.name"
        :to="{ name: 'site', params: { site, part: p.name === 'installed' ? '' : p.name }, query: route.query }"
        :aria-current="part === p.name ? 'page' : undefined"
        >{{ p.label }}</router-link
      >
    </nav>
    <AboutPart v-if="part === 'about'" />
    <WordsPart v-else-if="part === 'words'" />
    <AlertsPart v-else-if="part === 'alerts'" />
    <SpeedPart v-else-if="part === 'speed'" />
    <PeoplePart v-else-if="part === 'people'" />
    <ActivityPart v-else-if="part === 'activity'" />
    <MailboxPart v-else-if="part === 'mailbox'" />
    <div v-else class="parted">
      <div>
        <section>
          <h2>Two lines on every page</h2>
          <p>
            Paste this into the head of every page of the site, after the line that says the encoding, or into the
            template that all pages share.
          </p>
          <div class="snippet">
            <code>{{ short }}</code>
            <el-button type="primary" @click="copySnippet">Copy</el-button>
          </div>
        </section>
        <form v-if="mayManage" class="send" @submit.prevent="send">
          <el-input
            v-model="to"
            type="email"
            placeholder="colleague@example.org"
            aria-label="Send the two lines to"
            required
          />
          <el-button native-type="submit">Send them to a colleague</el-button>
        </form>
        <PolicyPart />
        <section class="policy">
          <details :open="whole">
            <summary>For the site’s developer</summary>
            <code class="whole" tabindex="0">{{ detail.snippet }}</code>
            <p>
              The first line keeps the room of a bar free, so that the page does not jump<template
                v-if="detail.site.consent?.guard"
                >, and holds back what is not agreed to</template
              >; without it everything else works. The second brings the notices in and never holds the page up. A
              Content-Security-Policy lists <code>{{ origin }}</code> in <code>script-src</code>,
              <code>connect-src</code> and, for pictures, <code>img-src</code>, and
              <code>{{ detail.scriptSource }}</code> in <code>script-src</code>. Pages that ask for Trusted Types allow
              the policy <code>mastflag</code>.
            </p>
          </details>
        </section>
        <ReadingPart />
      </div>
      <div>
        <section>
          <h2>Master switch</h2>
          <el-switch
            :model-value="detail.site.display !== false"
            active-text="Notices show on the site"
            aria-label="Notices show on the site"
            @change="display"
          />
          <p class="quiet small">
            Switch everything off for a moment to learn whether a fault on the site comes from a notice.
          </p>
        </section>
        <section v-if="me?.clockCanBeSet && mayManage && view">
          <h2>The demo’s clock</h2>
          <p class="quiet small">
            This is the demo: its clock can be set, for visitors too. It reads {{ say(view.now, view.zone) }},
            {{ view.zone }}.
          </p>
          <div class="clock">
            <DateTime v-model="clockSet" clearable placeholder="Day and hour" label="Set the demo’s clock to" />
            <el-button :disabled="!clockSet" @click="setClock(clockSet)">Set</el-button>
            <el-button text @click="((clockSet = ''), setClock(''))">Back to real time</el-button>
          </div>
        </section>
      </div>
    </div>
  </div>
  <p v-else-if="error" class="error" role="alert">{{ error }}</p>
</template>

<style scoped>
.parted {
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
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
  max-height: 180px;
  overflow: auto;
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
.clock {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.clock .el-button {
  margin: 0;
}
.send {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
.send .el-input {
  max-width: 280px;
}
.parts {
  margin: 8px 0 12px;
}
@media (max-width: 900px) {
  .parted {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
