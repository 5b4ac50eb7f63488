<script setup lang="ts">
// What a notice says in one language: its message, and where it leads. A link
// and a longer message exclude each other; the one not chosen is kept aside.
import { computed, defineAsyncComponent, reactive } from 'vue'
import type { Countdown, Notice, PhraseUse, Wording } from '../../api/client'
import OwnWords from '../../instruments/OwnWords.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { phrasesIn, usual } from '../../state/phrases'
import { useSite } from '../../state/sites'
import OwnLabels from './OwnLabels.vue'

const RichText = defineAsyncComponent(() => import('./RichText.vue'))

/** `tag` tells two editors on one screen apart. */
const props = defineProps<{
  lang: string
  name: string
  known: string[]
  picture?: boolean
  tag?: string
  countdown?: Countdown
  /** What a disclaimer asks for, which has words on its buttons. */
  asks?: 'acknowledge' | 'declare'
  /** A consent notice has a message and a link in plain words, and nothing else. */
  plain?: boolean
  kind: Notice['kind']
}>()
defineEmits<{ count: [] }>()
const wording = defineModel<Wording>({ required: true })

/** What was written and then not chosen, by language. */
const aside = reactive<Record<string, Pick<Wording, 'link' | 'details' | 'second'>>>({})

const link = computed(() => wording.value.link)
const second = computed(() => wording.value.second)
const leads = computed(() =>
  wording.value.link ? 'link' : wording.value.details !== undefined ? 'details' : 'nothing',
)
function lead(to: string | number | boolean | undefined) {
  const { link, details, second, ...rest } = wording.value
  const kept = (aside[props.lang] ??= {})
  if (link) kept.link = link
  if (second) kept.second = second
  if (details) kept.details = details
  if (to === 'link')
    wording.value = {
      ...rest,
      link: kept.link ?? { href: '/', label: '' },
      ...(kept.second && { second: kept.second }),
    }
  else if (to === 'details') wording.value = { ...rest, details: kept.details ?? '' }
  else wording.value = rest
}
const { site } = useViewpoint()
const { detail } = useSite()
/** Where the program says something on a notice of this kind. */
const uses = computed<PhraseUse[]>(() => {
  if (props.kind === 'consent') return ['consent', 'everywhere']
  if (props.kind === 'alert') return ['levels', 'everywhere']
  return props.asks ? ['answers', 'everywhere'] : ['everywhere']
})
const siteWords = computed(() => {
  const own = detail.value?.site.words?.[props.lang]
  return own && !own.unread ? own.words : undefined
})
const own = computed({
  get: () => wording.value.words,
  set: (words) => (wording.value = { ...wording.value, words }),
})
const phrases = computed(() => phrasesIn(site.value, props.lang))
const usualButton = (key: string) => phrases.value && usual(phrases.value, key, siteWords.value)
/** Visitors get English words here, and there is a draft of others. */
const drafted = computed(() => phrases.value?.state === 'draft' && !siteWords.value && !own.value)
function takeDraft() {
  const rows = phrases.value?.rows.filter((r) => uses.value.includes(r.use)) ?? []
  wording.value = { ...wording.value, words: Object.fromEntries(rows.map((r) => [r.key, r.text])), unread: true }
}
/** Changes the second button, which stands beside the first alone; without a change it goes. */
function setSecond(part?: Partial<NonNullable<Wording['link']>>) {
  const next = { ...wording.value }
  if (part) next.second = { href: '/', ...next.second, ...part }
  else delete next.second
  wording.value = next
}
function setLink(part: Partial<NonNullable<Wording['link']>>) {
  const next = { ...wording.value, link: { ...wording.value.link!, ...part } }
  // Beside a whole bar that is a link there is no room for another.
  if (next.link.as === 'bar') delete next.second
  wording.value = next
}
</script>

<template>
  <div class="wording">
    <el-input
      v-if="kind !== 'tab-title'"
      :model-value="wording.headline ?? ''"
      class="headline"
      maxlength="200"
      :lang="lang"
      dir="auto"
      placeholder="Headline, if it is to have one"
      :aria-label="`Headline in ${name}`"
      @update:model-value="(v: string) => (wording = { ...wording, headline: v || undefined })"
    />
    <RichText
      :model-value="wording.message ?? ''"
      :label="`Message in ${name}`"
      :lang="lang"
      :countable="!plain && (!tag || !!countdown)"
      @update:model-value="(m) => (wording = { ...wording, message: m })"
      @count="$emit('count')"
    />
    <div v-if="countdown?.then === 'say'" class="after">
      Once the countdown has run out it says
      <RichText
        :model-value="wording.afterEnd ?? ''"
        :label="`What it says then, in ${name}`"
        :lang="lang"
        @update:model-value="(m) => (wording = { ...wording, afterEnd: m || undefined })"
      />
    </div>
    <OwnLabels v-if="countdown?.labels === 'own'" v-model="wording" :lang="lang" :name="name" :countdown="countdown" />
    <fieldset v-if="kind !== 'tab-title'">
      <legend>It leads to</legend>
      <el-radio-group :model-value="leads" size="small" aria-label="It leads to" @change="lead">
        <el-radio-button value="nothing">nothing</el-radio-button>
        <el-radio-button value="link">a link</el-radio-button>
        <el-radio-button v-if="!plain || leads === 'details'" value="details">a longer message</el-radio-button>
      </el-radio-group>
      <div v-if="link" class="link">
        <el-input
          :model-value="link?.href"
          :list="`known-pages${tag ?? ''}`"
          :aria-label="tag ? `Address it leads to, ${name}` : 'Address it leads to'"
          placeholder="/status or https://…"
          @update:model-value="(v: string) => setLink({ href: v })"
        />
        <datalist :id="`known-pages${tag ?? ''}`"><option v-for="p in known" :key="p" :value="p"></option></datalist>
        <el-input
          v-if="plain || link?.as !== 'bar'"
          :model-value="link?.label"
          :aria-label="tag ? `Words on the link, ${name}` : 'Words on the link'"
          placeholder="Words on it, such as: See the times"
          @update:model-value="(v: string) => setLink({ label: v })"
        />
        <div class="wide forms">
          <el-select
            v-if="!plain"
            :model-value="link?.as ?? 'button'"
            aria-label="Form of the link"
            @change="(v: 'button' | 'link' | 'bar') => setLink({ as: v })"
          >
            <el-option value="button" label="a button" />
            <el-option value="link" label="plain words" />
            <el-option value="bar" label="the whole bar" />
          </el-select>
          <el-select
            :model-value="link?.opens ?? 'same'"
            aria-label="Where the link opens"
            @change="(v: 'same' | 'new') => setLink({ opens: v })"
          >
            <el-option value="same" label="opens here" />
            <el-option value="new" label="opens a new tab" />
          </el-select>
          <el-button
            v-if="!second && link?.as !== 'bar' && !plain && !asks"
            text
            @click="setSecond({ href: '/', label: '' })"
            >A second button</el-button
          >
        </div>
      </div>
      <div v-if="second" class="link" role="group" aria-label="The second button">
        <el-input
          :model-value="second?.href"
          :list="`known-pages${tag ?? ''}`"
          :aria-label="`Address the second button leads to${tag ? `, ${name}` : ''}`"
          placeholder="/status or https://…"
          @update:model-value="(v: string) => setSecond({ href: v })"
        />
        <el-input
          :model-value="second?.label"
          :aria-label="`Words on the second button${tag ? `, ${name}` : ''}`"
          placeholder="Words on it"
          @update:model-value="(v: string) => setSecond({ label: v })"
        />
        <el-select
          :model-value="second?.as ?? 'button'"
          aria-label="Form of the second button"
          @change="(v: 'button' | 'link') => setSecond({ as: v })"
        >
          <el-option value="button" label="a button" />
          <el-option value="link" label="plain words" />
        </el-select>
        <el-button @click="setSecond()">No second button</el-button>
      </div>
      <RichText
        v-if="leads === 'details'"
        :model-value="wording.details ?? ''"
        :label="`Longer message in ${name}`"
        :lang="lang"
        :pictured="site"
        @update:model-value="(m) => (wording = { ...wording, details: m })"
      />
    </fieldset>
    <div v-if="asks" class="link">
      <span class="wide quiet small">Words on its buttons, where they are to be others than these</span>
      <el-input
        :model-value="wording.confirm ?? ''"
        :aria-label="tag ? `Words on the button, ${name}` : 'Words on the button'"
        :placeholder="usualButton(asks === 'declare' ? 'yes' : 'acknowledge')"
        maxlength="100"
        @update:model-value="(v: string) => (wording = { ...wording, confirm: v || undefined })"
      />
      <el-input
        :model-value="wording.decline ?? ''"
        :aria-label="tag ? `Words on the other button, ${name}` : 'Words on the other button'"
        :placeholder="usualButton(asks === 'declare' ? 'no' : 'leave')"
        maxlength="100"
        @update:model-value="(v: string) => (wording = { ...wording, decline: v || undefined })"
      />
    </div>
    <details v-if="kind !== 'tab-title'">
      <summary>
        Words on buttons
        <span class="quiet small">{{ own ? 'its own' : siteWords ? 'the site’s' : 'the program’s' }}</span>
      </summary>
      <p v-if="drafted" class="small">
        Visitors get English words here. A draft in {{ name }} is ready to be read.
        <el-button size="small" @click="takeDraft">Take the draft</el-button>
      </p>
      <OwnWords v-model="own" :site="site" :lang="lang" :name="name" :uses="uses" :beneath="siteWords" />
    </details>
    <label v-if="picture" class="alt"
      >What the picture shows, for those who do not see it
      <el-input
        :model-value="wording.alt ?? ''"
        :aria-label="`What the picture shows, in ${name}`"
        maxlength="500"
        @update:model-value="(v: string) => (wording = { ...wording, alt: v || undefined })"
      />
    </label>
  </div>
</template>

<style scoped>
.wording,
fieldset {
  display: grid;
  gap: 8px;
}
fieldset {
  grid-template-columns: auto minmax(0, 1fr);
  align-items: center;
}
fieldset > :not(legend, .el-radio-group) {
  grid-column: 1 / -1;
}
.link {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
fieldset {
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  margin-inline-end: 12px;
  font-weight: 600;
}
summary {
  cursor: pointer;
}
details[open] > summary {
  margin-bottom: 6px;
}
.headline :deep(input) {
  font-weight: 600;
}
.forms {
  display: flex;
  gap: 8px;
}
.forms .el-select {
  flex: 1;
}
.link .wide {
  grid-column: 1 / -1;
}
.alt {
  display: grid;
  gap: 2px;
}
</style>
