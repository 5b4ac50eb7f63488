<script setup lang="ts">
// A document: the questions on one side, the text that grows from the answers, and
// what it has to say on the other; then its next version, where it stands, and the
// versions there were.
import { ElMessageBox } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '../../api/client'
import { attempt, reason } from '../../instruments/attempts'
import { saveText } from '../../instruments/file'
import { nameOf } from '../../instruments/languages'
import { mayWrite, me } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'
import { sendOut, takeIn } from '../../instruments/translator'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'
import { useDocument } from './document'
import PublishPart from './PublishPart.vue'
import QuestionField from './QuestionField.vue'
import SectionText from './SectionText.vue'

const route = useRoute()
const router = useRouter()
const { site, view } = useViewpoint()
const id = String(route.params.document)
const main = me.value?.sites.find((s) => s.key === site.value)?.languages[0] ?? 'en'
const language = ref(main)
const doc = useDocument(site.value, id, language)
const { detail, answers, own, titles, error, stale, missing, faults, saving } = doc
void doc.load()
watch(language, async () => {
  await doc.save()
  await doc.load(!stale.value && !Object.keys(faults.value).length)
})

// An item and its section are shown by each other.
const item = ref('')
const section = ref('')
const openFirst = computed(() => {
  const order = { open: 0, said: 1, 'not-applicable': 2 }
  return [...(detail.value?.points ?? [])].sort((a, b) => order[a.state] - order[b.state])
})
const open = computed(() => detail.value?.points.filter((p) => p.state === 'open').length ?? 0)
async function chooseItem(p: { id: string; section?: string; state: string; question?: string }) {
  item.value = p.id
  section.value = p.section ?? ''
  await nextTick()
  const field =
    p.state === 'open' && p.question
      ? document.querySelector(`[data-question="${p.question}"] :is(input, textarea)`)
      : null
  if (field) (field as HTMLElement).focus()
  document.querySelector(`[data-section="${p.section}"]`)?.scrollIntoView({ block: 'nearest' })
}
function chooseSection(s: { id: string; items: string[] }) {
  section.value = s.id
  item.value = s.items[0] ?? ''
}
/** The sources of what a section says, in short: “GDPR Art. 13(1)(c), (1)(d)”. */
function says(s: { items: string[] }): string {
  let before = ''
  return (detail.value?.points ?? [])
    .filter((p) => s.items.includes(p.id))
    .map((p) => {
      const [, act = '', rest = ''] = /^(.*Art\. \d+)(.*)$/.exec(p.source) ?? []
      const short = act && act === before ? rest : p.source
      before = act
      return short
    })
    .join(', ')
}
const states = { said: 'said', 'not-applicable': 'does not apply', open: 'open' }

function setOwn(id: string, text: string, tag = language.value) {
  ;(own[id] ??= {})[tag] = text
  if (!text) delete own[id][tag]
  if (!Object.keys(own[id]).length) delete own[id]
  void doc.saveSoon()
}
/** Takes out what was written by hand, with a way back. */
function dropOwn(id: string) {
  const tag = language.value
  const before = own[id]?.[tag] ?? ''
  setOwn(id, '')
  tell('What was written by hand is taken out.', 'success', () => setOwn(id, before, tag))
}
function setTitle(text: string) {
  if (text.trim()) titles[language.value] = text
  else delete titles[language.value]
  void doc.saveSoon()
}
function setAnswer(id: string, text: string) {
  if (text) answers[id] = text
  else delete answers[id]
  void doc.saveSoon()
}
const sections = computed(
  () => detail.value?.sections.filter((s) => s.html || s.source || s.from === 'missing' || s.id === 'more') ?? [],
)

const linkIn = (notice: string) =>
  attempt(
    async () => doc.take(await api.linkDocument(site.value, id, notice)),
    'It is linked in the draft of that notice. Publish the notice, and visitors have it.',
  )
async function away(as: 'html' | 'markdown' | 'text') {
  if (!(await doc.save())) return
  await attempt(async () => {
    const f = await api.documentFile(site.value, id, as, language.value)
    saveText(f.name, f.text, { html: 'text/html', markdown: 'text/markdown', text: 'text/plain' }[as])
  })
}
const file = ref<HTMLInputElement>()
const take = async (e: Event) => (await takeIn(site.value, e)) && doc.load()
/** Its answers and the sections written by hand are gone with it: that is asked first, once nothing leads to it. */
async function remove() {
  const sure =
    detail.value?.uses.length ||
    (await ElMessageBox.confirm(
      'Its answers and what was written by hand are gone then. The versions that were published stay at their ' +
        'addresses.',
      `Remove “${detail.value?.title}”?`,
      { confirmButtonText: 'Remove it', cancelButtonText: 'Keep it', type: 'warning' },
    ).catch(() => false))
  if (!sure) return
  try {
    await api.deleteDocument(site.value, id)
    tell('The document is removed. The versions that were published stay at their addresses.')
    await router.push({ name: 'library', params: { site: site.value } })
  } catch (e) {
    error.value = reason(e)
  }
}
const inspect = () =>
  attempt(
    () => api.inspect(site.value, detail.value?.kind === 'accessibility'),
    'The site is being inspected. Consent shows how far it is; what it finds stands here afterwards.',
  )
</script>

<template>
  <p v-if="missing" class="error">
    This document is not here, or not any more.
    <router-link :to="{ name: 'library', params: { site } }">To the Library</router-link>
  </p>
  <p v-else-if="!detail && error" class="error" role="alert">
    {{ error }} <button class="word" @click="doc.load()">Try again</button>
  </p>
  <div v-else-if="detail" class="document">
    <header>
      <div>
        <p class="quiet small">
          <router-link :to="{ name: 'library', params: { site } }">Library</router-link> · {{ detail.kindName }} ·
          <span v-if="detail.version"
            >version {{ detail.version }} is out since {{ view && say(detail.since!, view.zone) }}
            <a :href="detail.address" target="_blank" rel="noopener">Read it</a></span
          ><span v-else>not published yet</span>
        </p>
        <h1 class="unseen">{{ detail.title }}</h1>
        <input
          class="title"
          :value="titles[language] ?? ''"
          :placeholder="detail.title"
          :aria-label="`Title in ${nameOf(language)}`"
          :disabled="!mayWrite"
          maxlength="200"
          @input="setTitle(($event.target as HTMLInputElement).value)"
        />
      </div>
      <div class="tabs" role="group" aria-label="Language">
        <button
          v-for="l in detail.languages"
          :key="l.tag"
          type="button"
          :aria-pressed="l.tag === language"
          @click="language = l.tag"
        >
          {{ nameOf(l.tag) }}
          <span v-if="l.missing || l.again" class="small wait">{{
            l.missing ? `${l.missing} missing` : `${l.again} to read again`
          }}</span>
        </button>
      </div>
      <span class="quiet small saving" role="status">{{ saving ? 'Saving' : 'Saved' }}</span>
    </header>
    <p v-if="error" class="error" role="alert">
      {{ error }} <button v-if="stale" class="word" @click="doc.load()">Load theirs; mine is dropped</button>
    </p>

    <div class="work" :class="{ alone: !detail.questions.length }">
      <section v-if="detail.questions.length" aria-labelledby="questions" class="questions">
        <h2 id="questions">Questions</h2>
        <p class="quiet small">What the program knows of the site is not asked.</p>
        <QuestionField
          v-for="q in detail.questions"
          :key="q.id"
          :model-value="answers[q.id] ?? ''"
          :question="q"
          :fault="faults[q.id]"
          :disabled="!mayWrite"
          @update:model-value="(v: string) => setAnswer(q.id, v)"
        />
      </section>

      <section aria-labelledby="text" class="text">
        <h2 id="text">The text</h2>
        <p v-if="!detail.ready" class="small quiet">
          {{ nameOf(language) }} has no ready words: write the title, and each section beside the original.
          <button class="word" @click="sendOut(site, language, { document: id })">Save for a translator (XLIFF)</button>
          <button class="word" @click="file?.click()">Take in a translation</button>
          <input
            ref="file"
            type="file"
            class="unseen"
            tabindex="-1"
            accept=".xlf,.xliff"
            aria-label="A translation, XLIFF"
            @change="take"
          />
        </p>
        <div class="sheet">
          <SectionText
            v-for="s in sections"
            :key="s.id + language"
            :model-value="own[s.id]?.[language] ?? ''"
            :section="s"
            :language="language"
            :language-name="nameOf(language)"
            :beside="language !== main"
            :says="says(s)"
            :marked="section === s.id"
            :disabled="!mayWrite"
            @update:model-value="(t: string) => setOwn(s.id, t)"
            @drop="dropOwn(s.id)"
            @choose="chooseSection(s)"
            @again="doc.readAgain(s.id, language)"
          />
        </div>
      </section>

      <aside>
        <section v-if="detail.points.length" aria-labelledby="items">
          <h2 id="items">What it has to say</h2>
          <p class="small" :class="open ? 'wait' : 'quiet'">
            {{ open ? `${open} of ${detail.points.length} are open.` : 'Nothing is open.' }} Sources are cited from
            memory. This is no legal advice.
          </p>
          <ul class="plainlist items">
            <li v-for="p in openFirst" :key="p.id" :class="[p.state, { marked: item === p.id }]">
              <button type="button" :aria-pressed="item === p.id" @click="chooseItem(p)">
                <span class="state">{{ states[p.state] }}</span>
                <span
                  ><b>{{ p.what }}</b
                  ><br /><span v-if="p.why" class="small">{{ p.why }}<br /></span
                  ><span class="small quiet">{{ p.source }}</span></span
                >
              </button>
            </li>
          </ul>
        </section>
        <section v-if="detail.kind === 'cookies' || detail.kind === 'accessibility'" aria-labelledby="evidence">
          <h2 id="evidence">What was looked at</h2>
          <p v-if="detail.kind === 'cookies'" class="small">
            <template v-if="detail.evidence?.inspected"
              >The last inspection was on {{ detail.evidence.inspected.day }},
              {{ detail.evidence.inspected.pages }} pages.</template
            ><template v-else>The site was never inspected.</template> The table is the
            <router-link :to="{ name: 'consent', params: { site, part: 'sets' } }">inventory</router-link>.
          </p>
          <p v-else class="small">
            <template v-if="detail.evidence?.checked"
              >{{ detail.evidence.checked.pages }} pages were checked on {{ detail.evidence.checked.day }} with
              {{ detail.evidence.checked.tool }}: {{ detail.evidence.checked.failed?.length ?? 0 }} kinds of failure. It
              finds only a part of what can be wrong.</template
            ><template v-else>No page was checked yet. A check finds only a part of what can be wrong.</template>
          </p>
          <el-button v-if="mayWrite" size="small" @click="inspect">Inspect the site now</el-button>
        </section>
      </aside>
    </div>

    <div class="below parted">
      <PublishPart
        :detail="detail"
        :language="language"
        :save="doc.save"
        :mark="doc.mark"
        :site="site"
        @published="doc.take"
      />
      <section aria-labelledby="stands">
        <h2 id="stands">Where it stands</h2>
        <p v-if="detail.version">
          Its address: <a :href="detail.address" target="_blank" rel="noopener">{{ detail.address }}</a>
        </p>
        <ul v-if="detail.uses.length" class="plainlist">
          <li v-for="u in detail.uses" :key="u.notice + u.document">
            <router-link v-if="u.notice" :to="{ name: 'notice', params: { site, notice: u.notice } }">{{
              u.title
            }}</router-link><router-link v-else :to="{ name: 'document', params: { site, document: u.document } }">{{
              u.title
            }}</router-link>
            {{ ' ' }}<span class="quiet small">{{ u.kind || 'document' }}</span>
          </li>
        </ul>
        <p v-else class="quiet">Nothing leads to it yet.</p>
        <p class="acts">
          <template v-if="mayWrite">
            <el-button v-for="o in detail.offers" :key="o.notice" size="small" type="primary" @click="linkIn(o.notice)"
              >Link it in “{{ o.title }}”</el-button
            >
            <el-button size="small" @click="beginNotice(router, site, undefined, 'disclaimer', id)"
              >Have it acknowledged</el-button
            >
            <el-button size="small" @click="beginNotice(router, site, undefined, 'block', id)"
              >Put its text into a page</el-button
            >
          </template>
        </p>
        <p class="small">
          Take it away as
          <button class="word" @click="away('html')">HTML</button>,
          <button class="word" @click="away('markdown')">Markdown</button> or
          <button class="word" @click="away('text')">plain text</button>. In a notice, the address
          <code>document:{{ id }}</code> leads to it in each language.
        </p>
        <el-button v-if="mayWrite" size="small" text @click="remove">Remove this document</el-button>
      </section>
    </div>
  </div>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
  align-items: end;
}
header > div:first-child {
  flex: 1 1 320px;
}
header p {
  margin: 0;
}
.title {
  width: 100%;
  padding: 0;
  border: 0;
  border-bottom: 1px dashed var(--line);
  background: none;
  color: var(--ink);
  font: 650 28px/1.3 var(--head);
  font-stretch: 88%;
}
.title::placeholder {
  color: var(--ink);
  opacity: 1;
}
.saving {
  width: 50px;
}
.wait {
  color: var(--wait);
}
.work {
  display: grid;
  grid-template-columns: minmax(0, 300px) minmax(0, 1fr) minmax(0, 290px);
  gap: 24px;
  margin-top: 12px;
}
.work.alone {
  grid-template-columns: minmax(0, 1fr) minmax(0, 290px);
}
.questions,
.text .sheet,
aside {
  min-width: 0;
}
.work > :is(.questions, aside),
.text .sheet {
  max-height: max(420px, calc(100vh - 290px));
  overflow-y: auto;
}
.work p {
  margin: 2px 0 6px;
}
.sheet {
  padding: 10px 6px;
  border: 1px solid var(--line);
}
aside section + section {
  margin-top: 16px;
}
.items button {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 8px;
  width: 100%;
  padding: 5px 4px;
  border: 0;
  border-top: 1px solid var(--line);
  background: none;
  color: inherit;
  font: inherit;
  text-align: start;
  cursor: pointer;
}
.items .marked button {
  background: var(--chart);
}
.items b {
  font-weight: 600;
}
.state {
  color: var(--ink-2);
}
.open .state {
  color: var(--wait);
  font-weight: 600;
}
.said .state {
  color: var(--live);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.acts .el-button {
  margin: 0;
}
code {
  overflow-wrap: anywhere;
}
@media (max-width: 1100px) {
  .work,
  .work.alone {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .work > .text {
    grid-column: 1 / -1;
    grid-row: 2;
  }
  .work.alone > .text {
    grid-row: auto;
  }
}
@media (max-width: 700px) {
  .work,
  .work.alone {
    grid-template-columns: minmax(0, 1fr);
  }
  .work > *,
  .work > .text {
    grid-column: auto;
    grid-row: auto;
  }
  .work > :is(.questions, aside),
  .text .sheet {
    max-height: none;
  }
}
</style>
