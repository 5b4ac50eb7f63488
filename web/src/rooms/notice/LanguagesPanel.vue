<script setup lang="ts">
// All languages of a notice: the words in the site's language beside those in
// another, how each stands, and the ways to and from a translator.
import { computed, ref } from 'vue'
import {
  type Countdown,
  type NoticeDetail,
  type PartWords,
  type Row,
  type SiteDetail,
  type Wording,
} from '../../api/client'
import { nameOf } from '../../instruments/languages'
import { sendOut, takeIn } from '../../instruments/translator'
import { useViewpoint } from '../../instruments/viewpoint'
import PartEditor from './block/PartEditor.vue'
import { kindName, partsOf, say } from './block/rows'
import WordingEditor from './WordingEditor.vue'

type Wordings = Record<string, Wording>
const props = defineProps<{
  detail: NoticeDetail
  site: SiteDetail
  known: string[]
  picture: boolean
  countdown?: Countdown
  asks?: 'acknowledge' | 'declare'
  /** What a block is made of. */
  rows?: Row[]
}>()
const wordings = defineModel<Wordings>({ required: true })
const emit = defineEmits<{ draft: [language: string]; taken: []; close: [] }>()

const { site: key, language, look } = useViewpoint()
const main = computed(() => props.site.site.language)
const others = computed(() => props.detail.languages.filter((l) => l.tag !== main.value))
const target = computed(() =>
  others.value.some((l) => l.tag === language.value) ? language.value : (others.value[0]?.tag ?? ''),
)
const standing = computed(() => others.value.find((l) => l.tag === target.value)?.state)
const words = {
  current: 'up to date',
  missing: 'missing',
  unread: 'a machine’s draft, unread',
  old: 'older than the original',
}
const of = (tag: string) =>
  computed<Wording>({
    get: () => wordings.value[tag] ?? {},
    set: (w) => (wordings.value = { ...wordings.value, [tag]: w }),
  })
const original = computed(() => of(main.value))
const other = computed(() => of(target.value))

/** The parts of a block that say something. */
const parts = computed(() =>
  partsOf(props.rows ?? []).filter(
    (p) =>
      ['heading', 'text', 'links', 'question'].includes(p.kind) ||
      (p.kind === 'picture' && p.picture && !p.picture.decorative),
  ),
)
const sayPart = (tag: string, id: string, w: PartWords) => (wordings.value = say(wordings.value, tag, id, w))
/** A block of parts has a message besides only where one was written. */
const messages = computed(() => !props.rows?.length || !!original.value.value.message || !!other.value.value.message)

/** It has been read: a draft counts from now on; what was old is right as it stands. */
function read() {
  const w = { ...other.value.value }
  delete w.unread
  delete w.source
  other.value.value = w
}

const file = ref<HTMLInputElement>()
const take = async (e: Event) => (await takeIn(key.value, e)) && emit('taken')
</script>

<template>
  <section class="languages-panel" aria-label="Languages side by side">
    <div class="head">
      <h2>Languages</h2>
      <div class="tabs" role="group" aria-label="Language to translate into">
        <button
          v-for="l in others"
          :key="l.tag"
          type="button"
          :aria-pressed="l.tag === target"
          :class="l.state"
          @click="look({ language: l.tag })"
        >
          {{ nameOf(l.tag) }} <span class="small">{{ words[l.state] }}</span>
        </button>
      </div>
      <span class="grow"></span>
      <el-button size="small" @click="$emit('close')">Back to the stage</el-button>
    </div>
    <p v-if="others.length === 0">The site has one language. Add others in Site.</p>
    <div v-else class="sides">
      <div>
        <h3>{{ nameOf(main) }}, the original</h3>
        <WordingEditor
          v-if="messages"
          :key="'from' + main"
          v-model="original.value"
          :lang="main"
          :name="nameOf(main)"
          :known="known"
          :picture="picture"
          :countdown="countdown"
          :asks="asks"
          :plain="detail.card.kind === 'consent'"
          :kind="detail.card.kind"
          tag="from"
        />
        <div v-for="p in parts" :key="p.id" class="part">
          <h4>{{ kindName(p.kind) }}</h4>
          <PartEditor
            :part="p"
            :words="original.value.parts?.[p.id] ?? {}"
            :site="key"
            :lang="main"
            :name="nameOf(main)"
            :known="known"
            words-only
            @words="(w) => sayPart(main, p.id, w)"
          />
        </div>
      </div>
      <div>
        <h3>{{ nameOf(target) }}</h3>
        <p v-if="standing === 'unread'" class="state" role="status">
          A machine drafted this. Visitors do not get it before someone has read it.
          <el-button size="small" type="primary" @click="read">I have read it</el-button>
        </p>
        <p v-else-if="standing === 'old'" class="state" role="status">
          The original has changed since this was written.
          <el-button size="small" @click="read">It is still right</el-button>
        </p>
        <WordingEditor
          v-if="messages"
          :key="'to' + target"
          v-model="other.value"
          :lang="target"
          :name="nameOf(target)"
          :known="known"
          :picture="picture"
          :countdown="countdown"
          :asks="asks"
          :plain="detail.card.kind === 'consent'"
          :kind="detail.card.kind"
          tag="to"
        />
        <div v-for="p in parts" :key="p.id" class="part">
          <h4>{{ kindName(p.kind) }}</h4>
          <PartEditor
            :part="p"
            :words="other.value.parts?.[p.id] ?? {}"
            :site="key"
            :lang="target"
            :name="nameOf(target)"
            :known="known"
            words-only
            @words="(w) => sayPart(target, p.id, w)"
          />
        </div>
      </div>
    </div>
    <div v-if="others.length" class="ways">
      <el-button size="small" @click="$emit('draft', target)">Have it drafted by the machine</el-button>
      <el-button size="small" @click="sendOut(key, target, { notice: detail.card.id })"
        >Save for a translator (XLIFF)</el-button
      >
      <el-button size="small" @click="file?.click()">Take in a translation</el-button>
      <input
        ref="file"
        type="file"
        class="unseen"
        tabindex="-1"
        accept=".xlf,.xliff"
        aria-label="A translation, XLIFF"
        @change="take"
      />
      <span class="quiet small"
        >The machine is a stand-in that ships with the program: it knows a few sentences, and brackets the rest.</span
      >
    </div>
  </section>
</template>

<style scoped>
.languages-panel {
  padding: 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head,
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
.ways {
  margin-top: 12px;
}
.ways .el-button {
  margin: 0;
}
.grow {
  flex: 1;
}
.tabs .small {
  color: var(--ink-2);
  font-weight: 400;
}
.tabs .missing .small,
.tabs .old .small,
.tabs .unread .small {
  color: var(--wait);
}
.part h4 {
  margin: 8px 0 2px;
  font-size: 13px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 24px;
  margin-top: 12px;
}
h3 {
  margin-bottom: 6px;
  font-size: 14px;
}
.state {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 0 0 8px;
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
@media (max-width: 860px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
