<script setup lang="ts">
// One part of a block: what it shows, and what it says in one language.
import { computed, defineAsyncComponent } from 'vue'
import RadioField from '../../../instruments/RadioField.vue'
import type { Part, PartWords, SiteDetail } from '../../../api/client'
import OptionField from '../../../instruments/OptionField.vue'
import FieldEditor from './FieldEditor.vue'
import HoursEditor from './HoursEditor.vue'
import VideoEditor from './VideoEditor.vue'
import PicturePicker from '../look/PicturePicker.vue'
import FocalPoint from '../look/FocalPoint.vue'
import LinkRow from './LinkRow.vue'
import { kindName } from './rows'

const RichText = defineAsyncComponent(() => import('../RichText.vue'))

const props = defineProps<{
  part: Part
  words: PartWords
  site: string
  detail?: SiteDetail
  lang: string
  name: string
  known: string[]
  /** What it says alone is edited, as beside another language. */
  wordsOnly?: boolean
}>()
const emit = defineEmits<{ part: [p: Part]; words: [w: PartWords]; remove: []; count: []; close: [] }>()

/** Sets what the part has; what is undefined is left out. */
function set(p: { [K in keyof Part]?: Part[K] | undefined }) {
  const next: Record<string, unknown> = { ...props.part, ...p }
  for (const [k, v] of Object.entries(next)) if (v === undefined) delete next[k]
  emit('part', next as unknown as Part)
}
const say = (w: Partial<PartWords>) => emit('words', { ...props.words, ...w })
/** A list with one of its members changed, or dropped where nothing is given. */
function withOne<T>(list: T[] | undefined, i: number, one?: Partial<T>): T[] {
  return (list ?? []).flatMap((x, j) => (j !== i ? [x] : one ? [{ ...x, ...one }] : []))
}

const levels = [
  { value: 2, label: 'large' },
  { value: 3, label: 'middle' },
  { value: 4, label: 'small' },
]
const crops = [
  { value: '', label: 'whole' },
  { value: 'wide', label: 'wide' },
  { value: 'square', label: 'square' },
  { value: 'tall', label: 'tall' },
] as const
const ways = [
  { value: 'telephone', label: 'Telephone' },
  { value: 'message', label: 'Text message' },
  { value: 'mail', label: 'Mail' },
  { value: 'address', label: 'Address' },
  { value: 'map', label: 'Map' },
  { value: 'link', label: 'Any address' },
] as const
const whens = [
  { value: '', label: 'always' },
  { value: 'open', label: 'while it is open' },
  { value: 'closed', label: 'while it is closed' },
] as const
/** What the lines say as buttons, in one language. */
const labels = computed(() => (props.part.contact ?? []).map((_, i) => props.words.answers?.[i] ?? ''))
const label = (i: number, said: string) => say({ answers: labels.value.map((l, j) => (j === i ? said : l)) })
function offered(i: number, when: '' | 'open' | 'closed') {
  const contact = withOne(props.part.contact, i, { when: when || undefined })
  const hours = props.part.hours ?? [{ days: [1, 2, 3, 4, 5], from: '09:00', until: '17:00' }]
  set(contact.some((l) => l.when) ? { contact, hours } : { contact, hours: undefined })
}
/** A value that each way can begin with. */
const examples = {
  telephone: '+44 1632 960 000',
  message: '+44 1632 960 000',
  mail: 'office@example.org',
  address: 'Street, town',
  map: 'https://',
  link: 'https://',
}
const picture = computed({
  get: () => props.part.picture,
  set: (p) => {
    const next: Part = { ...props.part, picture: p }
    if (!p) delete next.picture
    emit('part', next)
  },
})
const documents = computed(() => props.detail?.site.documents ?? [])
const listed = computed(() => props.part.documents ?? [])
const all = computed(() => listed.value.includes('*'))
function toggle(id: string, on: boolean) {
  set({ documents: on ? [...listed.value.filter((d) => d !== '*'), id] : listed.value.filter((d) => d !== id) })
}
type PartLink = NonNullable<PartWords['links']>[number]
const links = computed(() => props.words.links ?? [])
const setLink = (i: number, link?: Partial<PartLink>) => say({ links: withOne(links.value, i, link) })
type Line = NonNullable<Part['contact']>[number]
const setLine = (i: number, line?: Partial<Line>) => set({ contact: withOne(props.part.contact, i, line) })
function addLine() {
  set({ contact: [...(props.part.contact ?? []), { by: 'telephone', value: examples.telephone }] })
}
const setWay = (i: number, by: Line['by']) => setLine(i, { by, value: examples[by] })
const events = computed(() => props.part.events ?? [])
function addAnswer() {
  const name = `${props.part.id}-${events.value.length + 1}`
  emit('part', { ...props.part, events: [...events.value, name] })
  say({ answers: [...(props.words.answers ?? []), 'Perhaps'] })
}
</script>

<template>
  <div class="part-editor" role="group" :aria-label="kindName(part.kind)">
    <template v-if="part.kind === 'heading'">
      <el-input
        :model-value="words.heading"
        :aria-label="`Heading in ${name}`"
        maxlength="300"
        :lang="lang"
        @update:model-value="(heading: string) => say({ heading })"
      />
      <RadioField
        v-if="!wordsOnly"
        :model-value="part.level ?? 2"
        label="Size of the heading"
        :options="levels"
        @update:model-value="(l) => set({ level: l === 2 ? undefined : l })"
      />
    </template>

    <RichText
      v-else-if="part.kind === 'text'"
      :model-value="words.text ?? ''"
      :label="`Text in ${name}`"
      :lang="lang"
      @update:model-value="(text: string) => say({ text })"
    />

    <template v-else-if="part.kind === 'picture'">
      <PicturePicker v-if="!wordsOnly" v-model="picture" :site="site" />
      <template v-if="picture">
        <div v-if="!wordsOnly" class="line">
          <span class="label">Cropped</span>
          <RadioField
            :model-value="picture.crop ?? ''"
            label="Cropped"
            :options="crops"
            @update:model-value="(c) => (picture = { ...picture!, crop: c || undefined })"
          />
        </div>
        <FocalPoint
          v-if="picture.crop && picture.file && !wordsOnly"
          :model-value="picture.focus"
          :src="`/i/${site}/${picture.file}`"
          @update:model-value="(focus) => (picture = { ...picture!, focus })"
        />
        <label v-if="!picture.decorative" class="field"
          >What it shows, for those who do not see it
          <el-input
            :model-value="words.alt"
            :aria-label="`What the picture shows, in ${name}`"
            maxlength="500"
            :lang="lang"
            @update:model-value="(alt: string) => say({ alt })"
          />
        </label>
      </template>
    </template>

    <template v-else-if="part.kind === 'links'">
      <LinkRow
        v-for="(link, i) in links"
        :key="i"
        :link="link"
        :number="i + 1"
        :lang="lang"
        :name="name"
        @change="(l) => setLink(i, l)"
        @remove="setLink(i)"
      />
      <datalist id="known-to-parts"><option v-for="k in known" :key="k" :value="k"></option></datalist>
      <el-button size="small" @click="say({ links: [...links, { href: '/', label: 'More' }] })">Add a link</el-button>
    </template>

    <p v-else-if="part.kind === 'countdown'" class="small">
      The block’s countdown stands here.
      <button type="button" class="word" @click="emit('count')">Set what it counts</button>
    </p>

    <template v-else-if="part.kind === 'documents'">
      <el-checkbox
        :model-value="all"
        label="All documents that are published"
        @change="(on) => set({ documents: on ? ['*'] : [] })"
      />
      <template v-if="!all">
        <el-checkbox
          v-for="d in documents"
          :key="d.id"
          :model-value="listed.includes(d.id)"
          :label="d.published?.[detail!.site.language]?.title ?? d.id"
          @change="(on) => toggle(d.id, !!on)"
        />
      </template>
    </template>

    <template v-else-if="part.kind === 'contact'">
      <div v-for="(l, i) in part.contact ?? []" :key="i" class="item contact">
        <el-select
          :model-value="l.by"
          size="small"
          :aria-label="`Way ${i + 1}`"
          @change="(by: Line['by']) => setWay(i, by)"
        >
          <el-option v-for="w in ways" :key="w.value" :value="w.value" :label="w.label" />
        </el-select>
        <el-input
          :model-value="l.value"
          :type="l.by === 'address' ? 'textarea' : 'text'"
          :aria-label="`Number or address ${i + 1}`"
          maxlength="500"
          @update:model-value="(v: string) => setLine(i, { value: v })"
        />
        <el-button
          v-if="!wordsOnly"
          size="small"
          text
          :aria-label="`Remove line ${i + 1}`"
          @click="
            () => {
              say({ answers: labels.filter((_, j) => j !== i) })
              setLine(i)
            }
          "
          >✕</el-button
        >
        <template v-if="part.buttons">
          <el-input
            :model-value="labels[i]"
            class="whole"
            :aria-label="`On button ${i + 1}, in ${name}`"
            placeholder="What the button says"
            maxlength="100"
            :lang="lang"
            @update:model-value="(v: string) => label(i, v)"
          />
        </template>
        <label v-if="!wordsOnly" class="whole small"
          >offered
          <OptionField
            :model-value="l.when ?? ''"
            :label="`When line ${i + 1} is offered`"
            :options="whens"
            size="small"
            @update:model-value="(w) => offered(i, w)"
          />
        </label>
      </div>
      <div v-if="!wordsOnly" class="line">
        <el-button size="small" @click="addLine">Add a line</el-button>
        <el-checkbox
          :model-value="!!part.buttons"
          label="as buttons"
          @change="(on) => set({ buttons: on ? true : undefined })"
        />
      </div>
      <template v-if="part.hours?.length && !wordsOnly">
        <span class="quiet small">It is open</span>
        <HoursEditor :hours="part.hours" @hours="(hours) => set({ hours })" />
      </template>
    </template>

    <VideoEditor
      v-else-if="part.kind === 'video'"
      :video="part.video ?? {}"
      :words="words"
      :site="site"
      :purposes="detail?.site.consent?.purposes ?? []"
      :lang="lang"
      :name="name"
      :words-only="wordsOnly"
      @video="(video) => set({ video })"
      @words="(w) => emit('words', w)"
    />

    <HoursEditor v-else-if="part.kind === 'hours'" :hours="part.hours ?? []" @hours="(hours) => set({ hours })" />

    <FieldEditor
      v-else-if="part.kind === 'field' && part.field"
      :id="part.id"
      :field="part.field"
      :words="words"
      :lang="lang"
      :name="name"
      :words-only="wordsOnly"
      @field="(field) => set({ field })"
      @words="(w) => emit('words', w)"
    />

    <template v-else-if="part.kind === 'send'">
      <el-input
        :model-value="words.heading"
        :aria-label="`On the button, in ${name}`"
        placeholder="Send"
        maxlength="100"
        :lang="lang"
        @update:model-value="(heading: string) => say({ heading })"
      />
      <RichText
        :model-value="words.text ?? ''"
        :label="`Said once it was sent, in ${name}`"
        :lang="lang"
        @update:model-value="(text: string) => say({ text })"
      />
    </template>

    <template v-else>
      <el-input
        :model-value="words.heading"
        :aria-label="`Question in ${name}`"
        maxlength="300"
        :lang="lang"
        @update:model-value="(heading: string) => say({ heading })"
      />
      <div v-for="(e, i) in events" :key="e" class="item">
        <el-input
          :model-value="words.answers?.[i]"
          :aria-label="`Answer ${i + 1} in ${name}`"
          maxlength="100"
          :lang="lang"
          @update:model-value="
            (a: string) => say({ answers: events.map((_, j) => (j === i ? a : (words.answers?.[j] ?? ''))) })
          "
        />
        <span class="quiet small">tells the site the event {{ e }}</span>
      </div>
      <el-button v-if="events.length < 6 && !wordsOnly" size="small" @click="addAnswer">Add an answer</el-button>
      <el-input
        :model-value="words.thanks"
        :aria-label="`Said afterwards, in ${name}`"
        placeholder="Said once it is answered"
        maxlength="300"
        :lang="lang"
        @update:model-value="(thanks: string) => say({ thanks })"
      />
    </template>

    <div v-if="!wordsOnly" class="line">
      <el-button size="small" type="primary" @click="emit('close')">Done</el-button>
      <el-button size="small" text @click="emit('remove')">Remove this part</el-button>
    </div>
  </div>
</template>

<style scoped>
.part-editor {
  display: grid;
  gap: 8px;
  justify-items: start;
  padding: 10px;
  border-top: 1px solid var(--line);
  background: var(--chart);
}
.part-editor > p {
  margin: 0;
}
.part-editor > .el-input,
.item,
.field {
  width: 100%;
}
.item {
  display: grid;
  grid-template-columns: 1fr 1fr 90px auto;
  gap: 4px;
  align-items: center;
}
.item.contact {
  grid-template-columns: 110px 1fr auto;
}
.item .whole {
  grid-column: 1 / -1;
}
.item .el-button {
  margin: 0;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.label {
  width: 72px;
  color: var(--ink-2);
}
@media (max-width: 560px) {
  .item {
    grid-template-columns: 1fr auto;
  }
}
</style>
