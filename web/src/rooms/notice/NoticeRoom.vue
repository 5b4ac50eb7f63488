<script setup lang="ts">
// A notice: its order line, its words, its colours, the stage, its time.
import { onKeyStroke } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  blocking as blockingGate,
  CallError,
  type Act,
  type HistoryLine,
  type Node,
  type Notice,
  type Operation,
  type Site,
  type SiteDetail,
  type Word,
  type Wording,
} from '../../api/client'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import OrderLine from '../../instruments/OrderLine.vue'
import Stage from '../../instruments/Stage.vue'
import { ends, type End } from '../../instruments/strip'
import { tell } from '../../instruments/tell'
import { local, say } from '../../instruments/time'
import TimeRow from '../../instruments/TimeRow.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import ColourEditor from './ColourEditor.vue'
import { useDraft } from './draft'
import { patched } from './patch'
import WordingEditor from './WordingEditor.vue'
import AudienceWord from './words/AudienceWord.vue'
import ChoiceWord from './words/ChoiceWord.vue'
import ClosingWord from './words/ClosingWord.vue'
import PagesWord from './words/PagesWord.vue'
import ScheduleWord from './words/ScheduleWord.vue'

const route = useRoute()
const router = useRouter()
const { site, view, moment, refresh, look } = useViewpoint()
const id = computed(() => route.params.notice as string)
const stage = useTemplateRef<InstanceType<typeof Stage>>('stage')
const room = useTemplateRef<HTMLElement>('room')

const siteDetail = shallowRef<SiteDetail>()
watch(site, async (key) => (siteDetail.value = await api.site(key)), { immediate: true })
const known = computed(() => siteDetail.value?.pages.map((p) => p.path) ?? [])
const sets = computed(() => siteDetail.value?.site.pageSets?.map((s) => s.name) ?? [])
const saved = computed(() => siteDetail.value?.site.audiences?.map((a) => a.name) ?? [])
const others = computed(() => (view.value?.notices ?? []).map((n) => ({ id: n.id, title: n.title })))

/** Puts something under a name on the site, then carries on with it. */
async function keep(change: (s: Site) => Site, then: () => void, done: string) {
  const d = siteDetail.value
  if (!d) return
  try {
    siteDetail.value = await api.changeSite(site.value, { revision: d.revision, site: change(d.site) })
    then()
    tell(done)
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
const saveAudience = (name: string, node: Node, then: () => void) =>
  keep((s) => ({ ...s, audiences: [...(s.audiences ?? []), { name, audience: node }] }), then, `“${name}” can be used in every notice now.`)
const savePages = (name: string, c: NonNullable<Notice['pages']>, then: () => void) =>
  keep((s) => ({ ...s, pageSets: [...(s.pageSets ?? []), { name, ...c }] }), then, `“${name}” can be used in every notice now.`)

/** The stage keeps the token it began with, so that it does not load anew on every save. */
const token = ref('')
const { detail, notice, saving, why, missing, act, undo, redo, canUndo, canRedo, settle, save } = useDraft(site, id, moment, (d) => {
  stage.value?.refresh()
  void refresh()
  if (d.removed?.length) tell(`Left out, because a notice may not hold it: ${d.removed.join(', ')}.`, 'warning')
})
watch(id, () => (token.value = ''))
watch(detail, (d) => d && (token.value ||= d.preview))

// Words of the order line.
type Control = NonNullable<Word['control']>
const control = ref<Control>()
/** Editors that show much side by side. */
const wide: Control[] = ['audience', 'pages']
const editorAt = ref({ left: 0, top: 0 })
function choose(c: Control, word: HTMLElement) {
  if (control.value === c) return close()
  control.value = c
  const box = word.offsetParent as HTMLElement
  editorAt.value = {
    left: Math.max(0, Math.min(word.offsetLeft, box.clientWidth - (wide.includes(c) ? 780 : 520))),
    top: word.offsetTop + word.offsetHeight + 6,
  }
  nextTick(() =>
    room.value?.querySelector<HTMLElement>('.editor input:not(.el-date-editor input), .editor button')?.focus({ preventScroll: true }),
  )
}
function close() {
  const was = control.value
  control.value = undefined
  nextTick(() => room.value?.querySelector<HTMLElement>(`[data-control="${was}"]`)?.focus({ preventScroll: true }))
}
onKeyStroke('Escape', (e) => {
  // An open list or calendar takes the first Escape for itself.
  if (control.value && !document.querySelector('.el-popper[aria-hidden="false"]')) {
    e.preventDefault()
    close()
  }
})

onKeyStroke(['z', 'Z'], (e) => {
  // In a text the browser's own undo is meant.
  const target = e.target as HTMLElement
  if (!(e.ctrlKey || e.metaKey) || /^(INPUT|TEXTAREA)$/.test(target.tagName) || target.isContentEditable) return
  e.preventDefault()
  void (e.shiftKey ? redo() : undo())
})

function part<K extends 'look' | 'pages' | 'schedule' | 'memory'>(key: K) {
  return computed<NonNullable<Notice[K]>>({
    get: () => (notice.value?.[key] ?? {}) as NonNullable<Notice[K]>,
    set: (v) => notice.value && (notice.value[key] = v as Notice[K]),
  })
}
const audience = computed<Node | undefined>({
  get: () => notice.value?.audience,
  set: (v) => {
    if (!notice.value) return
    if (v) notice.value.audience = v
    else delete notice.value.audience
  },
})
/** Carries out what a finding offers. */
function mend(label: string, patch: Operation[]) {
  if (!notice.value) return
  notice.value = patched(notice.value, patch)
  tell(`Done: ${label}.`, 'success', () => undo())
}
const [colours, pages, schedule, memory] = [part('look'), part('pages'), part('schedule'), part('memory')]
function choice<K extends 'slot' | 'stay' | 'level'>(key: K, absent: NonNullable<Notice[K]>) {
  return computed<NonNullable<Notice[K]>>({
    get: () => notice.value?.[key] ?? absent,
    set: (v) => notice.value && (notice.value[key] = v),
  })
}
const slot = choice('slot', 'top')
const stay = choice('stay', 'scrolling')
const level = choice('level', 'information')
const slots = [
  { value: 'top' as const, label: 'At the top', means: 'Room for two bars.' },
  { value: 'bottom' as const, label: 'At the bottom', means: 'Room for one bar.' },
  { value: 'corner-end' as const, label: 'In the corner where lines end', means: 'A small card. Room for one.' },
  { value: 'corner-start' as const, label: 'In the corner where lines begin', means: 'A small card. Room for one.' },
  { value: 'centre' as const, label: 'In the middle', means: 'It holds the page until it is closed. Room for one.' },
  { value: 'cover' as const, label: 'Over everything', means: 'The same, over the whole window.' },
  { value: 'title' as const, label: 'In the tab title', means: 'Its words stand in the title of the browser’s tab.' },
]
const stays = [
  { value: 'scrolling' as const, label: 'Scrolls away with the page', means: 'It lies in the page and covers nothing.' },
  { value: 'sticking' as const, label: 'Always in sight', means: 'It floats at its edge of the window and covers what lies under it.' },
]
const levels = [
  { value: 'information' as const, label: 'Information', means: 'What most notices are.' },
  { value: 'promotion' as const, label: 'Promotion', means: 'Gives way to all others.' },
  { value: 'warning' as const, label: 'Warning', means: 'Goes before information.' },
  { value: 'emergency' as const, label: 'Emergency', means: 'Goes before everything.' },
]

/** The ends of its time that can be moved on the strip: those read on the site's clock. */
const movable = computed<End[]>(() => {
  const plan = notice.value?.schedule
  if (!view.value || (plan?.clock && plan.clock !== 'site')) return []
  return ends(plan?.windows ?? [], view.value.zone, view.value.from, view.value.until)
})
function moveEnd(end: End, to: string) {
  const plan = notice.value?.schedule
  if (!plan?.windows) return
  schedule.value = { ...plan, windows: plan.windows.map((w, i) => (i === end.window ? { ...w, [end.end]: to } : w)) }
}

// Languages.
const languages = computed(() => {
  const s = siteDetail.value?.site
  return s ? [...new Set([s.language, ...(s.languages ?? [])])] : []
})
const language = ref('')
watch(
  [languages, () => view.value?.page.language],
  ([all, here]) => {
    if (!all.includes(language.value)) language.value = here && all.includes(here) ? here : (all[0] ?? '')
  },
  { immediate: true },
)
const languageNames = new Intl.DisplayNames(['en'], { type: 'language' })
/** "" before the site's languages are known. */
const nameOf = (tag: string) => (tag && languageNames.of(tag)) || tag
const wording = computed<Wording>({
  get: () => notice.value?.content?.wordings?.[language.value] ?? {},
  set: (w) => notice.value && (notice.value.content = { wordings: { ...notice.value.content?.wordings, [language.value]: w } }),
})
const says = (tag: string) => !!notice.value?.content?.wordings?.[tag]?.message

// Commands.
const out = computed(() => detail.value && detail.value.card.flag !== 'draft')
const pending = computed(() => detail.value?.card.hasDraft || detail.value?.card.flag === 'draft')
async function command(what: Act, done: string, history?: number) {
  if (!(await act(what, history))) return tell(why.value, 'error')
  tell(done)
  if (historyOpen.value) loadHistory()
}
async function publish() {
  control.value = undefined
  if (!(await act('publish'))) return tell(why.value, 'error')
  const d = detail.value!
  const later =
    d.card.flag === 'scheduled' ? 'It goes up at its time' : `It is up on ${d.onPages.length} page${d.onPages.length === 1 ? '' : 's'}`
  tell(`Published. ${later}.`)
}
async function remove() {
  const gone = { site: site.value, notice: id.value, title: notice.value?.title ?? id.value }
  if (!(await act('delete'))) return tell(why.value, 'error')
  await router.push({ name: 'now', params: { site: gone.site }, query: route.query })
  tell(`“${gone.title}” is deleted.`, 'success', async () => {
    await api.act(gone.site, gone.notice, 'undelete', {}, { revision: 0 })
    await refresh()
  })
}
async function duplicate() {
  await save()
  const made = await api.newNotice(site.value, { copyOf: id.value })
  await router.push({ name: 'notice', params: { site: site.value, notice: made.card.id }, query: route.query })
  tell('This is the copy.')
}
async function previewLink() {
  try {
    const link = await api.previewLink(site.value, id.value, moment.value)
    await navigator.clipboard?.writeText(link.address).catch(() => undefined)
    preview.value = link.address
    tell(`The preview link is copied. It works until ${say(link.ends, view.value?.zone ?? 'UTC')}.`)
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
const preview = ref('')
/** What is offered to be copied as plain HTML. */
const plain = ref('')
async function copyPlain() {
  await save()
  try {
    plain.value = (await api.plain(site.value, id.value, language.value)).html
    await navigator.clipboard?.writeText(plain.value).catch(() => undefined)
    tell(
      `Copied in ${nameOf(language.value)}, ${new Blob([plain.value]).size} bytes. Paste it where it is to stand; it needs no script and does not come and go by itself.`,
    )
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}

// History.
const historyOpen = ref(false)
const lines = ref<HistoryLine[]>([])
async function loadHistory() {
  lines.value = (await api.history(site.value, id.value)).lines
}

const savingWords = {
  saved: 'Saved',
  unsaved: 'Saving…',
  saving: 'Saving…',
  offline: 'Not saved',
  refused: 'Not saved yet',
  stale: 'Changed by someone else',
}
const blocking = computed(() => detail.value && blockingGate(detail.value.rehearsal))
const pageFindings = computed(() => detail.value?.findings.filter((f) => f.pointers.some((p) => /^\/notices\/\d+\/pages/.test(p))) ?? [])
const localNow = computed(() => (view.value ? local(view.value.at, view.value.zone) : ''))
</script>

<template>
  <div v-if="missing" class="missing">
    <h1>This notice is not here</h1>
    <p>It was deleted, or never was. <router-link :to="{ name: 'now', params: { site } }">All notices</router-link></p>
  </div>
  <div v-else-if="detail && notice && view" ref="room" class="notice-room">
    <div class="head">
      <Halyard :flag="detail.card.flag" :draft="detail.card.hasDraft" />
      <h1 class="unseen">{{ notice.title }}</h1>
      <input v-model="notice.title" class="title" aria-label="Working title, only you see it" maxlength="200" placeholder="Working title" />
      <span class="saving small" :class="saving" role="status">{{ savingWords[saving] }}</span>
      <el-button v-if="canUndo" text size="small" title="Undo  Ctrl Z" @click="undo">Undo</el-button>
      <el-button v-if="canRedo" text size="small" title="Redo  Ctrl Shift Z" @click="redo">Redo</el-button>
      <span class="grow"></span>
      <el-button v-if="pending" type="primary" @click="publish">{{ out ? 'Publish the changes' : 'Publish' }}</el-button>
      <el-button v-if="out && detail.card.flag === 'paused'" @click="command('resume', 'Resumed.')">Resume</el-button>
      <el-button v-if="out && detail.card.flag !== 'paused'" @click="command('pause', 'Paused. No visitor sees it until you resume it.')"
        >Pause</el-button
      >
      <el-button v-if="out" @click="command('unpublish', 'Unpublished. It is a draft again.')">Unpublish</el-button>
      <el-dropdown trigger="click">
        <el-button aria-label="More commands">More ▾</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-if="detail.card.hasDraft" @click="command('discard', 'The draft is discarded. It is kept in the history.')"
              >Discard the draft</el-dropdown-item
            >
            <el-dropdown-item @click="previewLink">Copy a preview link</el-dropdown-item>
            <el-dropdown-item @click="copyPlain">Copy as plain HTML</el-dropdown-item>
            <el-dropdown-item @click="duplicate">Duplicate</el-dropdown-item>
            <el-dropdown-item @click="remove">Delete</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </div>

    <div v-if="saving === 'stale'" class="band" role="alert">
      <span>Someone else changed this notice after you opened it. Nothing is lost: what you wrote is in the history too.</span>
      <el-button size="small" @click="settle(false)">See theirs</el-button>
      <el-button size="small" @click="settle(true)">Put mine on top</el-button>
    </div>
    <div v-else-if="why" class="band" role="alert">
      {{ why }}<template v-if="saving === 'offline'"> What you wrote is kept here and saved as soon as that works again.</template>
    </div>
    <div v-if="preview" class="band plain">
      <el-input :model-value="preview" readonly aria-label="Preview link" size="small" /><el-button size="small" text @click="preview = ''"
        >Done</el-button
      >
    </div>

    <div v-if="plain" class="band plain">
      <el-input :model-value="plain" type="textarea" :rows="4" readonly aria-label="Plain HTML" /><el-button
        size="small"
        text
        @click="plain = ''"
        >Done</el-button
      >
    </div>

    <div class="order">
      <OrderLine :line="detail.line" editable @change="choose" />
      <div
        v-if="control"
        class="editor"
        :class="{ wide: control && wide.includes(control) }"
        :style="{ left: editorAt.left + 'px', top: editorAt.top + 'px' }"
        role="dialog"
        :aria-label="`Change the words about ${control}`"
      >
        <ChoiceWord v-if="control === 'slot'" v-model="slot" label="Where on the screen" :choices="slots" />
        <ChoiceWord v-else-if="control === 'stay'" v-model="stay" label="When the page scrolls" :choices="stays" />
        <ChoiceWord v-else-if="control === 'level'" v-model="level" label="How much it matters" :choices="levels" />
        <PagesWord
          v-else-if="control === 'pages'"
          v-model="pages"
          :known="siteDetail?.pages ?? []"
          :on="detail.onPages"
          :sets="sets"
          :findings="pageFindings"
          @save="savePages"
        />
        <AudienceWord
          v-else-if="control === 'audience'"
          v-model="audience"
          :account="detail.rehearsal"
          :saved="saved"
          :notices="others"
          @save="saveAudience"
        />
        <ScheduleWord v-else-if="control === 'schedule'" v-model="schedule" :zone="view.zone" :now="localNow" :times="detail.times" />
        <ClosingWord v-else v-model="memory" />
        <div class="done">
          <el-button size="small" type="primary" @click="close">Done</el-button> <span class="quiet small">or Esc</span>
        </div>
      </div>
    </div>

    <div class="bench">
      <div class="write">
        <div v-if="languages.length > 1" class="languages" role="group" aria-label="Language of the words">
          <button v-for="tag in languages" :key="tag" type="button" :aria-pressed="tag === language" @click="language = tag">
            {{ nameOf(tag) }}<span v-if="!says(tag)" class="lacks" title="No words yet">, missing</span>
          </button>
        </div>
        <WordingEditor :key="id + language" v-model="wording" :lang="language" :name="nameOf(language)" :known="known" />
        <ColourEditor v-model="colours" :palette="siteDetail?.site.palette" :contrast="detail.contrast" />
      </div>
      <Stage ref="stage" :address="view.page.address" :token="token" :notice="id" :why="blocking?.why ?? 'Another notice has the place.'" />
    </div>

    <div class="time">
      <div class="quiet small">{{ out && !detail.card.hasDraft ? 'Live' : 'Would be live' }}, times in {{ view.zone }}</div>
      <TimeScale :view="view" />
      <div></div>
      <TimeRow
        :view="view"
        :intervals="detail.intervals"
        :out="!!out && !detail.card.hasDraft && detail.card.flag !== 'paused'"
        :name="notice.title ?? ''"
        :held="detail.held"
        :ends="movable"
        @move="moveEnd"
      />
    </div>

    <div class="foot">
      <section aria-labelledby="seen">
        <h2 id="seen">On {{ view.page.path }} at this moment<template v-if="pending">, once published</template></h2>
        <Gates :account="detail.rehearsal" />
        <p v-if="blocking?.gate === 'pages' && detail.onPages.length" class="small">
          It shows on <button class="word" @click="look({ page: detail.onPages[0] })">{{ detail.onPages[0] }}</button><template
            v-if="detail.onPages.length > 1"
          >
            and {{ detail.onPages.length - 1 }} more pages</template
          >.
        </p>
      </section>
      <section aria-labelledby="found">
        <h2 id="found">Findings</h2>
        <ul v-if="detail.findings.length" class="plainlist findings">
          <li v-for="f in detail.findings" :key="f.code + f.pointers[0]" :class="f.severity">
            {{ f.what }} <span class="quiet">{{ f.mend }}</span>
            <span v-if="f.notices[0] === id && f.mends?.length" class="mends">
              <el-button v-for="m in f.mends" :key="m.label" size="small" @click="mend(m.label, m.patch)">{{ m.label }}</el-button>
            </span>
          </li>
        </ul>
        <p v-else class="quiet">Nothing stands against it.</p>
      </section>
      <section aria-labelledby="past">
        <h2 id="past">
          <button class="word" :aria-expanded="historyOpen" @click="((historyOpen = !historyOpen), historyOpen && loadHistory())">
            History
          </button>
        </h2>
        <p class="quiet small">Changed {{ say(detail.changedAt, view.zone) }} by {{ detail.changedBy }}</p>
        <ol v-if="historyOpen" class="plainlist history">
          <li v-for="h in lines" :key="h.id">
            <time class="small quiet">{{ say(h.at, view.zone) }}</time>
            <span>
              {{ h.who }} {{ h.act }}<template v-if="h.number && h.act === 'published it'">, version {{ h.number }}</template>
              <button v-if="h.restorable" class="word small" @click="command('restore', 'That text is your draft now.', h.id)">
                Go back to this
              </button>
              <br /><span class="small quiet">{{ h.line }}</span>
            </span>
          </li>
        </ol>
      </section>
    </div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
}
.head .el-button {
  margin: 0;
}
.title {
  flex: 0 1 340px;
  min-width: 120px;
  padding: 2px 6px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: 650 20px/1.3 var(--head);
  font-stretch: 88%;
}
.title:hover,
.title:focus {
  border-color: var(--line);
}
.saving {
  color: var(--ink-2);
}
.saving.offline,
.saving.refused,
.saving.stale {
  color: var(--alarm);
}
.grow {
  flex: 1;
}
.band {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
  padding: 6px 12px;
  background: var(--alarm-bg);
  color: var(--alarm);
}
.band.plain {
  flex-wrap: nowrap;
  background: var(--chart);
}
.order {
  position: relative;
  margin: 10px 0 14px;
}
.order .line {
  max-width: 96ch;
  font: 500 20px/1.45 var(--head);
  font-stretch: 92%;
}
.editor {
  position: absolute;
  z-index: 20;
  width: min(520px, calc(100vw - 24px));
  padding: 14px;
  border: 1px solid var(--ink-2);
  border-radius: 3px;
  background: var(--sail);
  box-shadow: var(--float);
}
.editor.wide {
  width: min(780px, calc(100vw - 24px));
}
.mends {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 4px;
}
.mends .el-button {
  margin: 0;
}
.done {
  margin-top: 12px;
}
.bench {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 20px;
}
.write {
  display: grid;
  gap: 12px;
  align-content: start;
}
.languages {
  display: flex;
  gap: 4px;
  border-bottom: 1px solid var(--line);
}
.languages button {
  padding: 4px 8px;
  border: 0;
  border-bottom: 2px solid transparent;
  background: none;
  color: var(--ink);
  font: 600 14px/1.2 var(--head);
  cursor: pointer;
}
.languages button[aria-pressed='true'] {
  border-color: var(--sea);
  color: var(--sea);
}
.lacks {
  color: var(--wait);
  font-weight: 400;
}
.time {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 0 12px;
  align-items: end;
  margin-top: 12px;
}
.time .row {
  height: 30px;
}
.foot {
  display: grid;
  grid-template-columns: 5fr 4fr 4fr;
  gap: 16px 32px;
  margin-top: 20px;
  padding-top: 14px;
  border-top: 1px solid var(--line);
}
.foot h2 {
  margin-bottom: 6px;
}
.foot p {
  margin: 4px 0;
}
.findings {
  display: grid;
  gap: 6px;
}
.findings li {
  padding-inline-start: 8px;
  border-inline-start: 3px solid var(--line);
}
.findings .alarm {
  border-color: var(--alarm);
}
.findings .caution {
  border-color: var(--wait);
}
.history {
  display: grid;
  gap: 8px;
}
.history li {
  display: grid;
  grid-template-columns: 104px 1fr;
  gap: 8px;
}
@media (max-width: 1000px) {
  .bench,
  .foot {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 560px) {
  .order .line {
    font-size: 16px;
  }
  .editor {
    left: 0 !important;
  }
  .time {
    grid-template-columns: minmax(0, 1fr);
  }
  .time > :nth-child(3) {
    display: none;
  }
}
</style>
