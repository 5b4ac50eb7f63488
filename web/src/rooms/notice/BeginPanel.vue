<script setup lang="ts">
// What can be begun: the kinds of notice, what the site has kept, and what is ready, by purpose and by the time of the
// year. Typing narrows it; Enter takes the first, a plain bar where nothing was typed.
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, type NewNotice, type StartingList } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { mayManage } from '../../instruments/me'
import NoticePicture from '../library/NoticePicture.vue'
import { beginNotice } from './begin'

interface Choice {
  key: string
  name: string
  for: string
  kind?: NewNotice['kind']
  starting?: string
  html?: string
  css?: string
  inSeason?: boolean
}
const props = defineProps<{ site: string }>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const list = ref<StartingList>()
const find = ref('')
const panel = useTemplateRef<HTMLElement>('panel')

type Kind = NonNullable<NewNotice['kind']>
/** What each kind is for, in the order in which they are listed. */
const words: Record<Kind, { name: string; for: string }> = {
  bar: { name: 'A bar', for: 'Tell something at the edge of pages. Enter begins it.' },
  alert: { name: 'An alert', for: 'Warn, with a level that it says in a word and a sign.' },
  countdown: { name: 'A countdown', for: 'Time to or since something, and what follows.' },
  'pop-up': { name: 'A pop-up', for: 'A card in a corner or in the middle.' },
  consent: { name: 'A consent notice', for: 'Asks for a choice by purpose, and keeps the proof.' },
  disclaimer: { name: 'A disclaimer', for: 'A statement to read, to acknowledge, or to declare.' },
  block: { name: 'A block', for: 'A section in the page, on as many pages as you like.' },
  'tab-title': { name: 'A tab title', for: 'Words in the title of the browser’s tab.' },
  code: { name: 'Code', for: 'A few lines in the head or the body of pages.' },
}
const kinds = computed<Choice[]>(() =>
  (Object.keys(words) as Kind[])
    .filter((kind) => kind !== 'code' || mayManage.value)
    .map((kind) => ({ key: kind, kind, ...words[kind] })),
)
const points = computed<(Choice & { purpose?: string })[]>(() =>
  (list.value?.points ?? []).map((p) => ({
    ...p,
    kind: undefined,
    starting: p.key,
    key: `from ${p.key}`,
    for: p.from ? `${p.for || p.line} Shared by ${p.from}.` : p.for || p.line,
  })),
)
const like = (c: Choice) => `${c.name} ${c.for}`.toLowerCase().includes(find.value.trim().toLowerCase())
const groups = computed(() => {
  const of = (name: string, choices: Choice[]) => ({ name, choices: choices.filter(like) })
  return [
    of('Kinds', kinds.value),
    of(
      'Your own',
      points.value.filter((p) => !p.purpose),
    ),
    ...(list.value?.purposes ?? []).map((row) =>
      of(
        row.name,
        points.value.filter((p) => p.purpose === row.purpose),
      ),
    ),
  ].filter((g) => g.choices.length)
})
async function take(c: Choice | undefined) {
  if (!c) return
  emit('close')
  await beginNotice(router, props.site, c.starting, c.kind === 'bar' ? undefined : c.kind)
}
const takeFirst = () => take(groups.value[0]?.choices[0])

/** Moves through what is listed; above the first is the field. */
function step(by: number) {
  const all = [...panel.value!.querySelectorAll<HTMLElement>('input, li button')]
  const at = all.indexOf(document.activeElement as HTMLElement)
  all[Math.min(Math.max(at + by, 0), all.length - 1)]?.focus()
}
onMounted(async () => {
  await nextTick()
  panel.value?.querySelector('input')?.focus()
  await attempt(async () => (list.value = await api.starting(props.site)))
})
</script>

<template>
  <div
    ref="panel"
    class="panel starting-menu"
    role="dialog"
    aria-label="Begin a notice"
    @keydown.esc.stop="$emit('close')"
    @keydown.down.prevent="step(1)"
    @keydown.up.prevent="step(-1)"
  >
    <el-input
      v-model="find"
      placeholder="What do you want to do?"
      aria-label="What do you want to do?"
      clearable
      @keydown.enter.prevent="takeFirst"
    />
    <div class="lists">
      <section v-for="g in groups" :key="g.name" :aria-label="g.name">
        <h3>{{ g.name }}</h3>
        <ul class="plainlist" :class="{ kinds: g.name === 'Kinds' }">
          <li v-for="c in g.choices" :key="c.key">
            <button type="button" @click="take(c)">
              <span
                ><b>{{ c.name }}</b
                ><span v-if="c.inSeason" class="season small"> in season</span><br /><span class="quiet small">{{
                  c.for
                }}</span></span
              >
              <NoticePicture v-if="c.html" class="shown" :html="c.html" :css="c.css ?? ''" :zoom="0.6" />
            </button>
          </li>
        </ul>
      </section>
      <p v-if="!groups.length" class="quiet" role="status">Nothing to begin with is called “{{ find }}”.</p>
    </div>
    <router-link :to="{ name: 'library', params: { site } }" @click="$emit('close')"
      >See them all in the Library</router-link
    >
  </div>
</template>

<style scoped>
.panel {
  position: absolute;
  z-index: 30;
  inset-inline-end: 0;
  display: grid;
  gap: 10px;
  width: min(680px, calc(100vw - 24px));
  padding: 14px;
  border: 1px solid var(--ink-2);
  border-radius: 3px;
  background: var(--sail);
  box-shadow: var(--float);
}
.lists {
  max-height: min(60vh, 520px);
  overflow: auto;
}
h3 {
  margin: 8px 0 2px;
  color: var(--ink-2);
  font: 600 12px/1.3 var(--text);
}
/* They have no pictures: two stand beside each other. */
.kinds {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
.kinds li button {
  grid-template-columns: minmax(0, 1fr);
}
li button {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: center;
  width: 100%;
  padding: 5px 6px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: inherit;
  font: inherit;
  text-align: start;
  cursor: pointer;
}
li button:hover,
li button:focus-visible {
  background: var(--chart);
}
.shown {
  max-height: 72px;
  overflow: hidden;
}
.season {
  color: var(--live);
}
@media (max-width: 860px) {
  .panel {
    inset-inline: 0 auto;
  }
}
@media (max-width: 560px) {
  .kinds,
  li button {
    grid-template-columns: minmax(0, 1fr);
  }
  .shown {
    display: none;
  }
}
</style>
