<script setup lang="ts">
// A notice: its order line, its words, its colours, the stage, its time.
import { onKeyStroke } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  blocking as blockingGate,
  CallError,
  type Act,
  type Notice,
  type Operation,
  type Wording,
} from '../../api/client'
import { slotOf, slots } from '../../api/sets'
import { nameOf } from '../../instruments/languages'
import { mayWrite } from '../../instruments/me'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import Stage from '../../instruments/Stage.vue'
import { intoText } from '../../instruments/shortcuts'
import { ends, wholes, type End, type Whole } from '../../instruments/strip'
import { tell } from '../../instruments/tell'
import { instantOf, lasting, local, noonAfter, say } from '../../instruments/time'
import TimeRow from '../../instruments/TimeRow.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import CopyPart from './CopyPart.vue'
import LanguagesPanel from './LanguagesPanel.vue'
import ColourEditor from './look/ColourEditor.vue'
import LookEditor from './look/LookEditor.vue'
import { wasOnlyBegun } from './begin'
import BlockEditor from './block/BlockEditor.vue'
import { say as sayPart, written } from './block/rows'
import CodeEditor from './code/CodeEditor.vue'
import { useDraft } from './draft'
import NoticeHistory from './NoticeHistory.vue'
import OrderEditor from './OrderEditor.vue'
import { useKept } from './kept'
import { patched } from './patch'
import { knownPages, place, stillOn } from './placing'
import TakeOff from './TakeOff.vue'
import WordingEditor from './WordingEditor.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>

const route = useRoute()
const router = useRouter()
const { site, view, moment, language: seenIn, refresh, look, named } = useViewpoint()
/** The notice that the room was opened for: it is made anew for another. */
const id = route.params.notice as string
/** The site of this notice; the viewpoint's may be another when it is left. */
const mine = site.value
const stage = useTemplateRef<InstanceType<typeof Stage>>('stage')
const order = useTemplateRef<InstanceType<typeof OrderEditor>>('order')

const { siteDetail, saveAudience, savePages, saveStarting, saveWording, wordingOf } = useKept(site)
/** What a disclaimer asks for, if it has to be answered. */
const asks = computed(() => {
  const ask = notice.value?.content?.disclaimer?.ask
  return ask === 'acknowledge' || ask === 'declare' ? ask : undefined
})
/** Where links can lead: pages of the site, and documents by name. */
const known = computed(() => [
  ...(siteDetail.value?.site.documents ?? []).map((d) => `document:${d.id}`),
  ...(siteDetail.value?.pages.map((p) => p.path) ?? []),
])
const nameForLater = computed(() => notice.value?.title || id)
/** Takes words that were kept, in all their languages. */
function useWording(name: string) {
  wordings.value = { ...wordings.value, ...wordingOf(name) }
  tell(`The words of “${name}” are in.`, 'success', () => undo())
}

/** The stage keeps the token it began with, so that it does not load anew on every save. */
const token = ref('')
const { detail, notice, saving, why, missing, load, act, undo, redo, canUndo, canRedo, settle, save } = useDraft(
  site.value,
  id,
  moment,
  (d) => {
    stage.value?.refresh()
    void refresh()
    if (d.removed?.length) tell(`Left out, because a notice may not hold it: ${d.removed.join(', ')}.`, 'warning')
  },
)
watch(seenIn, () => (token.value = ''))
watch(detail, (d) => d && (token.value ||= d.preview))
/** The spot pointed at is one more, for the page on the stage. */
let more = false
function pointed(selector: string) {
  if (!notice.value) return
  notice.value.slot = 'inline'
  if (more) {
    const path = view.value?.page.path ?? '/'
    notice.value.spots = [...(notice.value.spots ?? []), { selector, pages: { include: [{ match: 'page', path }] } }]
    tell(`On ${path} it stands after ${selector}. Press the words about its place for more pages like this one.`)
    return
  }
  notice.value.spot = { ...notice.value.spot, selector }
  tell(
    `It stands ${notice.value.spot.where ?? 'after'} ${selector} now. Press the words about its place for ` +
      `another side.`,
  )
}
function point(one: boolean) {
  more = one
  stage.value?.point()
}
/** Words written on the stage: the message, or what a part of a block says. */
function wroteOnStage(html: string, part?: string) {
  if (part === undefined) wording.value = { ...wording.value, message: html }
  else {
    const words = written(notice.value?.content?.rows ?? [], part, wording.value.parts?.[part] ?? {}, html)
    wordings.value = sayPart(wordings.value, language.value, part, words)
  }
}
const blockEditor = useTemplateRef<InstanceType<typeof BlockEditor>>('blockEditor')
const content = computed({
  get: () => notice.value?.content ?? {},
  set: (c) => notice.value && (notice.value.content = c),
})
const isBlock = computed(() => notice.value?.kind === 'block')
const isCode = computed(() => notice.value?.kind === 'code')
const toLink = () => document.querySelector<HTMLElement>('.write [aria-label="Words on the link"]')?.focus()
function otherOnStage(other: string) {
  const title = named(other)?.title ?? other
  tell(`That is another notice, “${title}”. It is in Now & next.`, 'warning')
}

onKeyStroke(['z', 'Z'], (e) => {
  // In a text the browser's own undo is meant.
  if (!(e.ctrlKey || e.metaKey) || intoText(e)) return
  e.preventDefault()
  void (e.shiftKey ? redo() : undo())
})

function part<K extends 'look' | 'schedule'>(key: K) {
  return computed<NonNullable<Notice[K]>>({
    get: () => (notice.value?.[key] ?? {}) as NonNullable<Notice[K]>,
    set: (v) => notice.value && (notice.value[key] = v as Notice[K]),
  })
}
/** Carries out what a finding offers. */
function applyFix(label: string, patch: Operation[]) {
  if (!notice.value) return
  try {
    notice.value = patched(notice.value, patch)
    tell(`Done: ${label}.`, 'success', () => undo())
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
const colours = part('look')
const schedule = part('schedule')
/** What of its time can be moved on the strip: those read on the site's clock. */
const movable = computed<{ ends: End[]; wholes: Whole[] }>(() => {
  const plan = notice.value?.schedule
  if (!view.value) return { ends: [], wholes: [] }
  const on = [
    plan?.clock && plan.clock !== 'site' ? [] : (plan?.windows ?? []),
    view.value.zone,
    view.value.from,
    view.value.until,
  ] as const
  const c = countdown.value
  const runsOut =
    c?.kind === 'to' && c.at && (!c.clock || c.clock === 'site') ? instantOf(c.at, view.value.zone) : undefined
  const seen = runsOut && runsOut >= new Date(view.value.from) && runsOut <= new Date(view.value.until)
  return {
    ends: [...ends(...on), ...(seen ? [{ window: 0, end: 'countdown' as const, at: runsOut }] : [])],
    wholes: wholes(...on),
  }
})
const countdown = computed(() => notice.value?.content?.countdown)
/** A countdown is wanted: to noon tomorrow, until something else is chosen. */
function count() {
  if (!notice.value || !view.value) return
  const noon = noonAfter(local(view.value.at, view.value.zone))
  notice.value.content = { ...notice.value.content, countdown: countdown.value ?? { kind: 'to', at: noon } }
  order.value?.edit('countdown')
}
function putEnd(e: End, to: string) {
  if (e.end !== 'countdown') return putWindow(e.window, { [e.end]: to })
  if (notice.value?.content?.countdown) notice.value.content.countdown = { ...notice.value.content.countdown, at: to }
}
function putWindow(at: number, part: { from?: string; until?: string }) {
  const plan = notice.value?.schedule
  if (!plan?.windows) return
  schedule.value = { ...plan, windows: plan.windows.map((w, i) => (i === at ? { ...w, ...part } : w)) }
}

// Languages.
const languages = computed(() => {
  const s = siteDetail.value?.site
  return s ? [...new Set([s.language, ...(s.languages ?? [])])] : []
})
/** The language written in is that of the viewpoint: its own, or the page's. */
const language = computed(() => {
  const wanted = seenIn.value || (view.value?.page.language ?? '')
  return languages.value.includes(wanted) ? wanted : (languages.value[0] ?? '')
})
const wording = computed<Wording>({
  get: () => notice.value?.content?.wordings?.[language.value] ?? {},
  set: (w) => (wordings.value = { ...wordings.value, [language.value]: w }),
})
const wordings = computed<Record<string, Wording>>({
  get: () => notice.value?.content?.wordings ?? {},
  set: (w) => notice.value && (notice.value.content = { ...notice.value.content, wordings: w }),
})
const picture = computed<Picture | undefined>({
  get: () => notice.value?.content?.picture,
  set: (p) => {
    if (!notice.value) return
    const content = { ...notice.value.content, picture: p }
    if (!p) delete content.picture
    notice.value.content = content
  },
})
/** Said beside a language whose words want something. */
const wants: Record<string, string> = { missing: 'missing', old: 'old', unread: 'unread' }
const wantOf = (tag: string) => {
  const state = detail.value?.languages.find((l) => l.tag === tag)?.state ?? 'current'
  return tag !== languages.value[0] || state !== 'old' ? (wants[state] ?? '') : ''
}
/** The words of all languages are shown side by side, in place of the stage. */
const sideBySide = ref(false)
async function draftIn(tag: string) {
  if (!(await save()) || !detail.value) return
  try {
    await api.translate(site.value, id, moment.value, { revision: detail.value.card.revision, language: tag })
    await load()
    stage.value?.refresh()
    tell('Drafted. Read it: visitors do not get it before someone has.')
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}

// Commands.
const out = computed(() => detail.value && detail.value.card.flag !== 'draft')
const pending = computed(() => detail.value?.card.hasDraft || detail.value?.card.flag === 'draft')
async function command(what: Act, done: string, history?: number) {
  if (!(await act(what, history))) return tell(why.value, 'error')
  tell(done)
}
async function publish() {
  order.value?.shut()
  if (!(await act('publish'))) return tell(why.value, 'error')
  const d = detail.value!
  const whom = d.line.find((w) => w.control === 'audience')?.text
  const later =
    d.card.flag === 'scheduled'
      ? 'It goes up at its time'
      : `It is up on ${d.onPages.length} page${d.onPages.length === 1 ? '' : 's'}` +
        `${whom === 'everyone' ? '' : `, for ${whom}`}`
  tell(`Published. ${later}.`)
}
async function remove() {
  const gone = { site: site.value, notice: id, title: notice.value?.title ?? id }
  if (!(await act('delete'))) return tell(why.value, 'error')
  await router.push({ name: 'now', params: { site: gone.site }, query: route.query })
  tell(`“${gone.title}” is deleted.`, 'success', async () => {
    await api.act(gone.site, gone.notice, 'undelete', {}, { revision: 0 })
    await refresh()
  })
}
/** The three ways to take it away are shown. */
const takingOff = ref(false)
async function takeOffPage() {
  if (!(await save()) || !detail.value || !view.value) return tell(why.value, 'error')
  const path = view.value.page.path
  try {
    await place({
      site: mine,
      id,
      revision: detail.value.card.revision,
      to: { off: path },
      said: (d) => `It is off ${path}, and ${stillOn(d.outOn.length)}.`,
      after: async () => {
        takingOff.value = false
        await load()
        stage.value?.refresh()
        void refresh()
      },
      before: async () => {
        await save()
        return detail.value?.card.revision
      },
    })
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
async function takeOffEverywhere() {
  const from = knownPages(detail.value?.outOn.length ?? 0)
  if (!(await act('unpublish'))) return tell(why.value, 'error')
  takingOff.value = false
  const where =
    isBlock.value || isCode.value
      ? `It is off everywhere: ${from}. It is in the Library, as a draft.`
      : 'Unpublished. It is a draft again.'
  tell(where, 'success', async () => {
    if (!(await act('republish'))) tell(why.value, 'error')
  })
}
async function duplicate() {
  await save()
  const made = await api.newNotice(site.value, { copyOf: id })
  await router.push({ name: 'notice', params: { site: site.value, notice: made.card.id }, query: route.query })
  tell('This is the copy.')
}
async function previewLink() {
  try {
    const link = await api.previewLink(site.value, id, moment.value)
    await navigator.clipboard?.writeText(link.address).catch(() => undefined)
    preview.value = link.address
    tell(`The preview link is copied. It works until ${say(link.ends, view.value?.zone ?? 'UTC')}.`)
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
/** What was only begun, and left as it was, is nobody's draft. */
onBeforeUnmount(async () => {
  const card = detail.value?.card
  if (!card || !wasOnlyBegun(mine, id) || card.flag !== 'draft' || canUndo.value || saving.value !== 'saved') return
  await api.act(mine, id, 'delete', {}, { revision: card.revision }).catch(() => undefined)
  await refresh()
  tell('The empty draft is not kept.', 'success', async () => {
    await api.act(mine, id, 'undelete', {}, { revision: 0 })
    await refresh()
  })
})
const preview = ref('')
/** What is offered to be copied as plain HTML. */
const plain = ref('')
async function copyPlain() {
  await save()
  try {
    plain.value = (await api.plain(site.value, id, language.value)).html
    await navigator.clipboard?.writeText(plain.value).catch(() => undefined)
    tell(
      `Copied in ${nameOf(language.value)}, ${new Blob([plain.value]).size} bytes. Paste it where it is to stand;` +
        ` it needs no script and does not come and go by itself.`,
    )
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}

const savingWords = {
  saved: 'Saved',
  unsaved: 'Saving…',
  saving: 'Saving…',
  offline: 'Not saved',
  refused: 'Not saved yet',
  stale: 'Changed by someone else',
}
/** Why a notice in the page has no spot on the one on the stage. */
function nowhere({ spot, spots = [] }: Notice): string {
  const all = [...spots, ...(spot ? [spot] : [])].map((s) => s.selector)
  if (!all.length) return 'Its spot in the page is not chosen yet.'
  return all.length === 1 ? `Nothing on this page is ${all[0]}.` : `This page has none of its spots: ${all.join(', ')}.`
}
/** Why the draft is not on the stage. */
const stageWhy = computed(() => {
  if (!isCode.value && detail.value?.languages.every((l) => l.state === 'missing'))
    return 'It has no words yet. Write some, and it stands here.'
  if (notice.value?.slot === 'inline' && blocking.value?.gate !== 'pages') return nowhere(notice.value)
  return blocking.value?.why ?? 'Another notice has the place.'
})
const blocking = computed(() => detail.value && blockingGate(detail.value.rehearsal))
</script>

<template>
  <div v-if="missing" class="missing">
    <h1>This notice is not here</h1>
    <p>It was deleted, or never was. <router-link :to="{ name: 'now', params: { site } }">All notices</router-link></p>
  </div>
  <div v-else-if="detail && notice && view" class="notice-room">
    <div class="head">
      <Halyard :flag="detail.card.flag" :draft="detail.card.hasDraft" />
      <h1 class="unseen">{{ notice.title }}</h1>
      <input
        v-model="notice.title"
        class="title"
        aria-label="Working title, only you see it"
        maxlength="200"
        placeholder="Working title"
      />
      <span class="saving small" :class="saving" role="status">{{ savingWords[saving] }}</span>
      <el-button v-if="canUndo" text size="small" title="Undo  Ctrl Z" @click="undo">Undo</el-button>
      <el-button v-if="canRedo" text size="small" title="Redo  Ctrl Shift Z" @click="redo">Redo</el-button>
      <span class="grow"></span>
      <el-button v-if="pending && mayWrite" type="primary" @click="publish">{{
        out ? 'Publish the changes' : 'Publish'
      }}</el-button>
      <el-button
        v-if="out && mayWrite && detail.card.flag === 'paused' && !detail.card.leftOut"
        @click="command('resume', 'Resumed.')"
        >Resume</el-button
      >
      <el-button
        v-if="out && mayWrite && detail.card.flag !== 'paused'"
        @click="command('pause', 'Paused. No visitor sees it until you resume it.')"
        >Pause</el-button
      >
      <el-button v-if="(isBlock || isCode) && mayWrite" :aria-expanded="takingOff" @click="takingOff = !takingOff"
        >Take it off</el-button
      >
      <el-button v-else-if="out && mayWrite" @click="takeOffEverywhere">Unpublish</el-button>
      <el-dropdown trigger="click">
        <el-button aria-label="More commands">More ▾</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item
              v-if="detail.card.hasDraft"
              @click="command('discard', 'The draft is discarded. It is kept in the history.')"
              >Discard the draft</el-dropdown-item
            >
            <el-dropdown-item @click="previewLink">Copy a preview link</el-dropdown-item>
            <el-dropdown-item v-if="!isCode" @click="copyPlain">Copy as plain HTML</el-dropdown-item>
            <el-dropdown-item @click="duplicate">Duplicate</el-dropdown-item>
            <el-dropdown-item @click="notice && saveStarting(nameForLater, notice)"
              >Save as starting point</el-dropdown-item
            >
            <el-dropdown-item @click="saveWording(nameForLater, wordings)">Keep its words</el-dropdown-item>
            <el-dropdown-item v-for="w in siteDetail?.site.wordings ?? []" :key="w.name" @click="useWording(w.name)"
              >Use the words of “{{ w.name }}”</el-dropdown-item
            >
            <el-dropdown-item v-if="!isBlock && !isCode" @click="remove">Delete</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </div>

    <TakeOff
      v-if="takingOff"
      :detail="detail"
      :page="view.page.path"
      @page="takeOffPage"
      @everywhere="takeOffEverywhere"
      @delete="remove"
      @close="takingOff = false"
    />
    <div v-if="!mayWrite" class="band plain" role="status">
      You are a viewer: look at everything, change nothing. What you try is not kept.
    </div>
    <div v-if="saving === 'stale'" class="band" role="alert">
      <span
        >Someone else changed this notice after you opened it. Nothing is lost: what you wrote is in the history
        too.</span
      >
      <el-button size="small" @click="settle(false)">See theirs</el-button>
      <el-button size="small" @click="settle(true)">Overwrite with mine</el-button>
    </div>
    <div v-else-if="why" class="band" role="alert">
      {{ why
      }}<template v-if="saving === 'offline'">
        What you wrote is kept here and saved as soon as that works again.</template
      >
    </div>
    <div v-if="detail.card.leftOut" class="band" role="alert">
      {{ detail.card.leftOut }}. Change what it names, and publish; until then nothing of it is lost.
    </div>
    <div v-if="preview" class="band plain">
      <el-input :model-value="preview" readonly aria-label="Preview link" size="small" /><el-button
        size="small"
        text
        @click="preview = ''"
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

    <OrderEditor
      ref="order"
      v-model="notice"
      :detail="detail"
      :view="view"
      :site="siteDetail"
      @save-audience="saveAudience"
      @save-pages="savePages"
      @point="point"
    />

    <CopyPart v-if="detail.original" v-model="notice" :original="detail.original" :site="site" />

    <LanguagesPanel
      v-if="sideBySide && siteDetail"
      v-model="wordings"
      :detail="detail"
      :site="siteDetail"
      :known="known"
      :picture="!!picture && !picture.decorative"
      :countdown="countdown"
      :asks="asks"
      :rows="notice.content?.rows"
      @draft="draftIn"
      @taken="load()"
      @close="sideBySide = false"
    />
    <div v-else class="bench" :class="{ even: isCode }">
      <CodeEditor v-if="isCode" v-model="content" class="write" :site="siteDetail" />
      <div v-else class="write">
        <div v-if="languages.length > 1" class="languages tabs" role="group" aria-label="Language of the words">
          <button
            v-for="tag in languages"
            :key="tag"
            type="button"
            :aria-pressed="tag === language"
            @click="look({ language: tag })"
          >
            {{ nameOf(tag)
            }}<span v-if="wantOf(tag)" class="lacks"><span class="unseen">, </span>{{ wantOf(tag) }}</span>
          </button>
          <button type="button" class="aside" @click="sideBySide = true">Side by side</button>
        </div>
        <p v-if="wantOf(language) === 'unread'" class="unread small" role="status">
          A machine’s draft: visitors do not get it before someone has read it.
          <button type="button" class="word" @click="sideBySide = true">Read it</button>
        </p>
        <WordingEditor
          v-if="!notice.content?.rows?.length || wording.message"
          :key="id + language"
          v-model="wording"
          :lang="language"
          :name="nameOf(language)"
          :known="known"
          :picture="!!picture && !picture.decorative"
          :countdown="countdown"
          :asks="asks"
          @count="count"
        />
        <BlockEditor
          v-if="isBlock"
          ref="blockEditor"
          v-model="content"
          :site="site"
          :detail="siteDetail"
          :lang="language"
          :name="nameOf(language)"
          :known="known"
          @count="count"
        />
        <ColourEditor
          v-model="colours"
          :palette="siteDetail?.site.palette"
          :contrast="detail.contrast"
          legend="Colours"
        />
        <LookEditor
          :key="id"
          v-model="colours"
          v-model:picture="picture"
          :site="site"
          :detail="siteDetail?.site"
          :card="!slots[slotOf(notice)].edge && slotOf(notice) !== 'inline'"
        />
      </div>
      <Stage
        ref="stage"
        :address="view.page.address"
        :token="token"
        :notice="id"
        :why="stageWhy"
        @words="wroteOnStage"
        @part="(p) => blockEditor?.choose(p)"
        @link="toLink"
        @other="otherOnStage"
        @pointed="pointed"
      />
    </div>

    <div class="time">
      <div class="quiet small">
        {{ out && !detail.card.hasDraft && !detail.card.leftOut ? 'Live' : 'Would be live' }}
        {{ detail.hours ? lasting(detail.hours) : 'at no time' }} here, times in {{ view.zone }}
      </div>
      <TimeScale :view="view" />
      <div></div>
      <TimeRow
        :view="view"
        :intervals="detail.intervals"
        :out="!!out && !detail.card.hasDraft && detail.card.flag !== 'paused'"
        :name="notice.title ?? ''"
        :held="detail.held"
        :ends="movable.ends"
        :wholes="movable.wholes"
        @move="putEnd"
        @shift="(at: number, from: string, until: string) => putWindow(at, { from, until })"
      />
    </div>

    <div class="foot">
      <section aria-labelledby="seen">
        <h2 id="seen">On {{ view.page.path }} at this moment<template v-if="pending">, once published</template></h2>
        <Gates :account="detail.rehearsal" />
        <p v-if="blocking?.gate === 'pages' && detail.onPages.length" class="small">
          It shows on
          <button class="word" @click="look({ page: detail.onPages[0] })">{{ detail.onPages[0] }}</button><template
            v-if="detail.onPages.length > 1"
          >
            and {{ detail.onPages.length - 1 }} more pages</template
          >.
        </p>
      </section>
      <section aria-labelledby="found">
        <h2 id="found">Findings</h2>
        <ul v-if="detail.findings.length" class="plainlist findings">
          <li v-for="f in detail.findings" :key="f.code + f.pointers[0]" :class="`of-${f.severity}`">
            {{ f.what }} <span class="quiet">{{ f.fix }}</span>
            <span v-if="f.notices[0] === id && f.fixes?.length" class="fixes">
              <el-button v-for="m in f.fixes" :key="m.label" size="small" @click="applyFix(m.label, m.patch)">{{
                m.label
              }}</el-button>
            </span>
          </li>
        </ul>
        <p v-else class="quiet">No problems found.</p>
      </section>
      <NoticeHistory
        :site="site"
        :notice="id"
        :detail="detail"
        :zone="view.zone"
        @restore="(line) => command('restore', 'That text is your draft now.', line)"
      />
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
  color: var(--ink);
}
.fixes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 4px;
}
.fixes .el-button {
  margin: 0;
}
.bench {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 20px;
}
.bench.even {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.write {
  display: grid;
  gap: 12px;
  align-content: start;
}
.languages {
  border-bottom: 1px solid var(--line);
}
.languages .aside {
  margin-inline-start: auto;
  color: var(--sea);
  font: 12px/1.2 var(--text);
}
.unread {
  margin: 0;
  padding: 4px 8px;
  background: var(--wait-bg);
  color: var(--wait);
}
/* What a language lacks stands below its name, in a line kept for it: what is below does not move when it goes. */
.languages > button {
  min-height: 42px;
  line-height: 16px;
  vertical-align: top;
}
.languages > button:not(.aside) {
  display: grid;
  align-content: start;
  justify-items: start;
}
.lacks {
  color: var(--wait);
  font: 12px/16px var(--text);
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
.findings .of-error {
  border-color: var(--alarm);
}
.findings .of-warning {
  border-color: var(--wait);
}
@media (max-width: 1000px) {
  .bench,
  .bench.even,
  .foot {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 560px) {
  .time {
    grid-template-columns: minmax(0, 1fr);
  }
  .time > :nth-child(3) {
    display: none;
  }
}
</style>
