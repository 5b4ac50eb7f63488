<script setup lang="ts">
// What a notice says, in the language that is written in, and how it looks.
import { computed, ref } from 'vue'
import { slotOf, slots } from '../../api/sets'
import { nameOf } from '../../instruments/languages'
import { local, noonAfter } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import BlockEditor from './block/BlockEditor.vue'
import ColourEditor from './look/ColourEditor.vue'
import LookEditor from './look/LookEditor.vue'
import SoundField from './SoundField.vue'
import TabEditor from './TabEditor.vue'
import ThemeField from './look/ThemeField.vue'
import OptionField from '../../instruments/OptionField.vue'
import { useNotice } from './room'
import WordingEditor from './WordingEditor.vue'

const { view, look } = useViewpoint()
const room = useNotice()
const { id, site, siteDetail, detail, notice, content, wording, language, languages, picture, countdown } = room
const { known, asks, order, blocks, sideBySide, hasRows, isConsent, look: colours } = room

const setBlocks = (c: unknown) => (blocks.value = c as typeof blocks.value)

/** Said beside a language whose words want something. */
const wants: Record<string, string> = { missing: 'missing', old: 'old', unread: 'unread' }
function wantOf(tag: string): string {
  const state = detail.value?.languages.find((l) => l.tag === tag)?.state ?? 'current'
  return tag !== languages.value[0] || state !== 'old' ? (wants[state] ?? '') : ''
}
/** Rows are wanted, though there are none yet. */
const wanted = ref(false)
const rows = computed({ get: () => wanted.value || !!content.value.rows?.length, set: (on) => (wanted.value = on) })
const hasWords = computed(() => !content.value.rows?.length || !!wording.value.message)
const pictureSpeaks = computed(() => !!picture.value && !picture.value.decorative)
const overPages = computed(() => !slots[slotOf(notice.value!)].edge && slotOf(notice.value!) !== 'inline')
const hasHeadline = computed(() => Object.values(content.value.wordings ?? {}).some((w) => w.headline))
const longer = computed(() => Object.values(content.value.wordings ?? {}).some((w) => w.details !== undefined))
type Content = typeof content.value
/** A part of what it says that is left out where it is as usual. */
function part<K extends 'detailsAs' | 'detailsBy'>(key: K, usual: NonNullable<Content[K]>) {
  return computed<NonNullable<Content[K]>>({
    get: () => content.value[key] ?? usual,
    set: (v) => {
      const next = { ...content.value, [key]: v }
      if (v === usual) delete next[key]
      content.value = next
    },
  })
}
const detailsAs = part('detailsAs', 'unfold')
const detailsBy = part('detailsBy', 'button')
/** It stands on the page: what is in the tab title has no look. */
const seen = computed(() => notice.value?.kind !== 'tab-title')
const sounds = computed(() => /^(pop-up|tab-title)$/.test(notice.value?.kind ?? ''))
const forms = [
  { value: 'unfold' as const, label: 'unfolds below' },
  { value: 'dialog' as const, label: 'stands in a dialog' },
]
const ways = [
  { value: 'button' as const, label: 'by its button' },
  { value: 'bar' as const, label: 'by a press anywhere on it' },
]
/** A draft in the site’s own language has no other beside it to be read with. */
function read() {
  const w = { ...wording.value }
  delete w.unread
  wording.value = w
}
/** A countdown is wanted: to noon tomorrow, until something else is chosen. */
function count() {
  if (!view.value) return
  const noon = noonAfter(local(view.value.at, view.value.zone))
  content.value = { ...content.value, countdown: countdown.value ?? { kind: 'to', at: noon } }
  order.value?.edit('countdown')
}
</script>

<template>
  <div v-if="notice && detail" class="write">
    <div v-if="languages.length > 1" class="languages tabs" role="group" aria-label="Language of the words">
      <button
        v-for="tag in languages"
        :key="tag"
        type="button"
        :aria-pressed="tag === language"
        @click="look({ language: tag })"
      >
        {{ nameOf(tag) }}<span v-if="wantOf(tag)" class="lacks"><span class="unseen">, </span>{{ wantOf(tag) }}</span>
      </button>
      <button type="button" class="aside" @click="sideBySide = true">Side by side</button>
    </div>
    <p v-if="wantOf(language) === 'unread'" class="unread small" role="status">
      A machine’s draft: visitors do not get it before someone has read it.
      <button v-if="language === languages[0]" type="button" class="word" @click="read">I have read it</button>
      <button v-else type="button" class="word" @click="sideBySide = true">Read it</button>
    </p>
    <WordingEditor
      v-if="hasWords"
      :key="id + language"
      v-model="wording"
      :lang="language"
      :name="nameOf(language)"
      :known="known"
      :picture="pictureSpeaks"
      :countdown="countdown"
      :asks="asks"
      :plain="isConsent"
      :kind="notice.kind"
      @count="count"
    />
    <div v-if="longer" class="longer">
      <span>The longer message</span>
      <OptionField v-model="detailsAs" label="How the longer message comes" :options="forms" size="small" />
      <OptionField v-model="detailsBy" label="What opens the longer message" :options="ways" size="small" />
    </div>
    <BlockEditor
      v-if="hasRows && (rows || /^(block|pop-up)$/.test(notice.kind))"
      :ref="setBlocks"
      v-model="content"
      :site="site"
      :detail="siteDetail"
      :lang="language"
      :name="nameOf(language)"
      :known="known"
      @count="count"
    />
    <TabEditor
      v-if="notice.kind === 'tab-title'"
      v-model="content"
      :site="site"
      :message="wording.message ?? ''"
      :palette="siteDetail?.site.palette"
    />
    <SoundField v-if="sounds" v-model="content" />
    <p v-if="hasRows && !rows && notice.kind !== 'block' && notice.kind !== 'pop-up'" class="quiet small">
      <button type="button" class="word" @click="rows = true">Add rows</button> for more: columns, pictures, contact
      lines, or a form to fill in.
    </p>
    <ColourEditor
      v-if="seen"
      v-model="colours"
      :palette="siteDetail?.site.palette"
      :contrast="detail.contrast"
      legend="Colours"
    />
    <ThemeField v-if="siteDetail && seen" :key="'theme' + id" v-model="colours" :site="siteDetail.site" />
    <LookEditor
      v-if="seen"
      :key="id"
      v-model="colours"
      v-model:picture="picture"
      :site="site"
      :detail="siteDetail?.site"
      :card="overPages"
      :plain="isConsent"
      :headline="hasHeadline"
      :countdown="countdown"
      :behind="{ centre: 60, cover: 87 }[slotOf(notice) as string]"
    />
  </div>
</template>

<style scoped>
.write {
  display: grid;
  gap: 12px;
  align-content: start;
}
.longer {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.longer .el-select {
  width: 180px;
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
</style>
