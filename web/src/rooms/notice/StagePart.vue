<script setup lang="ts">
// The draft on the real page, where its words can be written and its spot pointed at.
import { computed } from 'vue'
import type { Notice } from '../../api/client'
import Stage from '../../instruments/Stage.vue'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { say, written } from './block/rows'
import { useNotice } from './room'

const { view, named } = useViewpoint()
const {
  id,
  detail,
  notice,
  content,
  wording,
  wordings,
  language,
  isCode,
  blocked,
  token,
  variant,
  stage,
  blocks,
  spotIsOneMore,
} = useNotice()

const setStage = (c: unknown) => (stage.value = c as typeof stage.value)

/** Words written on the stage: the message, or what a part of a block says. */
function write(html: string, part?: string) {
  if (part === undefined) {
    wording.value = { ...wording.value, message: html }
    return
  }
  const words = written(content.value.rows ?? [], part, wording.value.parts?.[part] ?? {}, html)
  wordings.value = say(wordings.value, language.value, part, words)
}
/** The spot pointed at is the notice's, or one more, for the page on the stage. */
function pointed(selector: string) {
  const n = notice.value
  if (!n) return
  n.slot = 'inline'
  if (spotIsOneMore.value) {
    const path = view.value?.page.path ?? '/'
    n.spots = [...(n.spots ?? []), { selector, pages: { include: [{ match: 'page', path }] } }]
    tell(`On ${path} it stands after ${selector}. Press the words about its place for more pages like this one.`)
    return
  }
  n.spot = { ...n.spot, selector }
  tell(`It stands ${n.spot.where ?? 'after'} ${selector} now. Press the words about its place for another side.`)
}
/** Whether what stands on the stage is the text itself, without what is put into it or before it. */
function writable(part?: string): boolean {
  if (variant.value) return false
  const blank = /\{[a-z]/
  if (part !== undefined) {
    const { heading = '', text = '' } = wording.value.parts?.[part] ?? {}
    return !blank.test(heading + text)
  }
  const { message = '', headline } = wording.value
  return !headline && !content.value.countdown && notice.value?.kind !== 'alert' && !blank.test(message)
}
const toWords = () => document.querySelector<HTMLElement>('.write .tiptap')?.focus()
const toLink = () => document.querySelector<HTMLElement>('.write [aria-label="Words on the link"]')?.focus()
function other(id: string) {
  tell(`That is another notice, “${named(id)?.title ?? id}”. It is in Now & next.`, 'warning')
}

/** Why a notice in the page has no spot on the one on the stage. */
function nowhere({ spot, spots = [] }: Notice): string {
  const all = [...spots, ...(spot ? [spot] : [])].map((s) => s.selector)
  if (!all.length) return 'Its spot in the page is not chosen yet.'
  return all.length === 1 ? `Nothing on this page is ${all[0]}.` : `This page has none of its spots: ${all.join(', ')}.`
}
/** Why the draft is not on the stage. */
const why = computed(() => {
  if (!isCode.value && detail.value?.languages.every((l) => l.state === 'missing'))
    return 'It has no words yet. Write some, and it stands here.'
  if (notice.value?.slot === 'inline' && blocked.value?.gate !== 'pages') return nowhere(notice.value)
  return blocked.value?.why ?? 'Another notice has the place.'
})
</script>

<template>
  <div class="staged">
    <div v-if="detail?.variants.length" class="variants">
      <span class="quiet small" aria-hidden="true">Variant</span>
      <el-radio-group v-model="variant" size="small" aria-label="Variant on the stage">
        <el-radio-button v-for="(v, at) in detail.variants" :key="v.id" :value="at ? v.id : ''">{{
          v.name
        }}</el-radio-button>
      </el-radio-group>
    </div>
    <Stage
      v-if="view"
      :ref="setStage"
      :address="view.page.address"
      :token="token"
      :notice="id"
      :why="why"
      :writable="writable"
      @words="write"
      @part="(p) => blocks?.choose(p)"
      @link="toLink"
      @beside="toWords"
      @other="other"
      @pointed="pointed"
    />
  </div>
</template>

<style scoped>
.staged {
  min-width: 0;
}
.variants {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-bottom: 6px;
}
</style>
