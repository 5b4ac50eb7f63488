<script setup lang="ts">
// A notice's order line with the editors behind its words: each opens at its
// word and closes on Escape.
import { until, useEventListener } from '@vueuse/core'
import { computed, nextTick, provide, ref, useTemplateRef } from 'vue'
import type { Node, Notice, NoticeDetail, SiteDetail, View, Word } from '../../api/client'
import { levelOf, positionOf, slotOf } from '../../api/sets'
import OrderLine from '../../instruments/OrderLine.vue'
import { nameOf } from '../../instruments/languages'
import { findNames, useNames } from '../../instruments/names'
import { local } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import AimWord from './words/AimWord.vue'
import AudienceWord from './words/AudienceWord.vue'
import ChoiceWord from './words/ChoiceWord.vue'
import ClosingWord from './words/ClosingWord.vue'
import ConsentWord from './words/ConsentWord.vue'
import CountdownWord from './words/CountdownWord.vue'
import DisclaimerWord from './words/DisclaimerWord.vue'
import FormWord from './words/FormWord.vue'
import KindWord from './words/KindWord.vue'
import PagesWord from './words/PagesWord.vue'
import ScheduleWord from './words/ScheduleWord.vue'
import SlotWord from './words/SlotWord.vue'
import { useCommands } from './commands'

const props = defineProps<{ detail: NoticeDetail; view: View; site?: SiteDetail }>()
const notice = defineModel<Notice>({ required: true })
defineEmits<{
  saveAudience: [name: string, node: Node, then: () => void]
  savePages: [name: string, pages: NonNullable<Notice['pages']>, then: () => void]
  /** A spot is to be chosen on the stage: another, or one more for other pages. */
  point: [more: boolean]
}>()

const { command } = useCommands()
const box = useTemplateRef<HTMLElement>('box')
const sets = computed(() => props.site?.site.pageSets?.map((s) => s.name) ?? [])
const saved = computed(() => props.site?.site.audiences?.map((a) => a.name) ?? [])
const { names: others, find } = useNames(useViewpoint().site)
provide(findNames, find)
const pageFindings = computed(() =>
  props.detail.findings.filter((f) => f.pointers.some((p) => /^\/notices\/\d+\/(pages|spots)/.test(p))),
)
const localNow = computed(() => local(props.view.at, props.view.zone))

type Control = NonNullable<Word['control']>
const control = ref<Control>()
/** Editors that show much side by side. */
const wide: Control[] = ['audience', 'pages', 'level', 'countdown', 'slot', 'experiment']
const editorAt = ref({ left: 0, top: 0 })
function choose(c: Control, word: HTMLElement) {
  if (control.value === c) return close()
  control.value = c
  const line = word.offsetParent as HTMLElement
  editorAt.value = {
    left: Math.max(0, Math.min(word.offsetLeft, line.clientWidth - (wide.includes(c) ? 780 : 520))),
    top: word.offsetTop + word.offsetHeight + 6,
  }
  nextTick(() =>
    box.value
      ?.querySelector<HTMLElement>('.editor input:not(.el-date-editor input), .editor button')
      ?.focus({ preventScroll: true }),
  )
}
function close() {
  const was = control.value
  control.value = undefined
  nextTick(() => box.value?.querySelector<HTMLElement>(`[data-control="${was}"]`)?.focus({ preventScroll: true }))
}
// On its way to the field that has the focus, which may keep it for itself.
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    // An open list or calendar takes the first Escape for itself.
    if (e.key !== 'Escape' || !control.value || document.querySelector('.el-popper[aria-hidden="false"]')) return
    e.preventDefault()
    close()
  },
  { capture: true },
)

/**
 * `shut` closes what is open and leaves the focus where it is; `edit` opens the editor of a word, once the sentence has
 * it.
 */
defineExpose({
  shut: () => (control.value = undefined),
  edit,
})
async function edit(c: Control) {
  await until(() => props.detail.line.some((w) => w.control === c)).toBe(true)
  await nextTick()
  const word = box.value?.querySelector<HTMLElement>(`[data-control="${c}"]`)
  if (word && control.value !== c) choose(c, word)
}

function part<K extends 'pages' | 'schedule' | 'memory'>(key: K) {
  return computed<NonNullable<Notice[K]>>({
    get: () => (notice.value[key] ?? {}) as NonNullable<Notice[K]>,
    set: (v) => (notice.value[key] = v as Notice[K]),
  })
}
const [pages, schedule, memory] = [part('pages'), part('schedule'), part('memory')]
const audience = computed<Node | undefined>({
  get: () => notice.value.audience,
  set: (v) => {
    if (v) notice.value.audience = v
    else delete notice.value.audience
  },
})
const position = computed<ReturnType<typeof positionOf>>({
  get: () => positionOf(notice.value),
  set: (v) => (notice.value.position = v),
})
const level = computed<NonNullable<Notice['level']>>({
  get: () => levelOf(notice.value),
  set: (v) => (notice.value.level = v),
})
/** Another kind stands where such notices stand; all else of it stays. */
const kind = computed<Notice['kind']>({
  get: () => notice.value.kind,
  set: (v) => {
    const next = { ...notice.value, kind: v }
    if ((v === 'pop-up') !== (notice.value.kind === 'pop-up')) delete next.slot
    notice.value = next
  },
})
const stays = [
  {
    value: 'scrolling' as const,
    label: 'Scrolls away with the page',
    means: 'It lies in the page and covers nothing.',
  },
  {
    value: 'sticking' as const,
    label: 'Always in sight',
    means: 'It floats at its edge of the window and covers what lies under it.',
  },
]
const countdown = computed({
  get: () => notice.value.content?.countdown,
  set: (v) => {
    const content = { ...notice.value.content, countdown: v }
    if (!v) delete content.countdown
    notice.value.content = content
  },
})
const question = computed({
  get: () => notice.value.content?.consent ?? {},
  set: (v) => (notice.value.content = { ...notice.value.content, consent: v }),
})
const disclaimer = computed({
  get: () => notice.value.content?.disclaimer ?? {},
  set: (v) => (notice.value.content = { ...notice.value.content, disclaimer: v }),
})
/** What everyone gets alike cannot be compared. */
const mayAim = computed(
  () => !/^(consent|disclaimer|code)$/.test(notice.value.kind) && levelOf(notice.value) !== 'emergency',
)
async function addGoal() {
  notice.value = { ...notice.value, experiment: { goal: { link: true } } }
  await edit('experiment')
}
async function settle(variant: string) {
  close()
  await command('settle', 'Your draft says it to all now. Publish it, and the comparison is over.', { variant })
}
function removeGoal() {
  const next = { ...notice.value }
  delete next.experiment
  notice.value = next
  close()
}
/** Without a countdown its place in the words goes too. */
function removeCountdown() {
  const content = notice.value.content
  if (!content) return
  for (const w of Object.values(content.wordings ?? {}))
    if (w.message) w.message = w.message.replaceAll(/ ?\{countdown\}/g, '')
  countdown.value = undefined
  close()
}
</script>

<template>
  <div ref="box" class="order">
    <OrderLine :line="detail.line" editable @change="choose" />
    <button v-if="mayAim && !notice.experiment" type="button" class="goal small" @click="addGoal">
      Say what it is to bring about
    </button>
    <div
      v-if="control"
      class="editor"
      :class="{ wide: control && wide.includes(control) && (control !== 'slot' || notice.slot === 'inline') }"
      :style="{ left: editorAt.left + 'px', top: editorAt.top + 'px' }"
      role="dialog"
      :aria-label="`Change the words about ${control}`"
    >
      <SlotWord
        v-if="control === 'slot'"
        v-model="notice"
        :known="site?.pages ?? []"
        :sets="sets"
        @point="(more) => ((control = undefined), $emit('point', more))"
      />
      <ChoiceWord
        v-else-if="control === 'position'"
        v-model="position"
        label="When the page scrolls"
        :choices="stays"
      />
      <KindWord v-else-if="control === 'level'" v-model:kind="kind" v-model:level="level" />
      <CountdownWord
        v-else-if="control === 'countdown' && countdown"
        v-model="countdown"
        :zone="view.zone"
        :now="localNow"
        :reading="detail.count"
        :notices="others.filter((n) => n.id !== notice.id)"
        @remove="removeCountdown"
      />
      <ConsentWord v-else-if="control === 'consent'" v-model="question" />
      <DisclaimerWord
        v-else-if="control === 'disclaimer'"
        v-model="disclaimer"
        :site="site"
        :over="notice.slot === 'centre' || notice.slot === 'cover'"
      />
      <FormWord
        v-else-if="control === 'form'"
        v-model="notice"
        :language="view.page.language"
        :notices="others.filter((n) => n.id !== notice.id)"
      />
      <AimWord
        v-else-if="control === 'experiment'"
        v-model="notice"
        :site="site"
        :language="view.page.language"
        :language-name="nameOf(view.page.language)"
        @remove="removeGoal"
        @settle="settle"
      />
      <PagesWord
        v-else-if="control === 'pages'"
        v-model="pages"
        :known="site?.pages ?? []"
        :on="detail.onPages"
        :unplaced="detail.unplaced"
        :fresh="detail.newPages"
        :sets="sets"
        :findings="pageFindings"
        @save="(name, c, then) => $emit('savePages', name, c, then)"
      />
      <AudienceWord
        v-else-if="control === 'audience'"
        v-model="audience"
        :account="detail.rehearsal"
        :saved="saved"
        :notices="others"
        @save="(name, n, then) => $emit('saveAudience', name, n, then)"
      />
      <ScheduleWord
        v-else-if="control === 'schedule'"
        v-model="schedule"
        :zone="view.zone"
        :now="localNow"
        :times="detail.times"
      />
      <ClosingWord
        v-else
        v-model="memory"
        :level="notice.level"
        :kind="notice.kind"
        :over="/^(centre|cover)$/.test(slotOf(notice))"
      />
      <div class="done">
        <el-button size="small" type="primary" @click="close">Done</el-button> <span class="quiet small">or Esc</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.order {
  position: relative;
  margin: 10px 0 14px;
}
.order .line {
  max-width: 96ch;
  font: 500 20px/1.45 var(--head);
  font-stretch: 92%;
}
.goal {
  margin-top: 4px;
  padding: 2px 0;
  border: 0;
  background: none;
  color: var(--sea);
  font: inherit;
  text-decoration: underline;
  text-underline-offset: 3px;
  cursor: pointer;
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
.done {
  margin-top: 12px;
}
@media (max-width: 560px) {
  .order .line {
    font-size: 16px;
  }
  .editor {
    left: 0 !important;
  }
}
</style>
