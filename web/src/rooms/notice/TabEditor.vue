<script setup lang="ts">
// How a message stands in the title of the browser’s tab: all the time, or in turn while the
// visitor is elsewhere; with a picture of that tab.
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { Notice, Site } from '../../api/client'
import PeriodField from '../../instruments/PeriodField.vue'
import RadioField from '../../instruments/RadioField.vue'
import ColourField from './look/ColourField.vue'
import IconPicker from './look/IconPicker.vue'
import ImageChoice from './look/ImageChoice.vue'

type Content = NonNullable<Notice['content']>
type Tab = NonNullable<Content['tab']>
type Icon = NonNullable<Tab['icon']>

const props = defineProps<{ site: string; message: string; palette?: Site['palette'] }>()
const content = defineModel<Content>({ required: true })
const tab = computed(() => content.value.tab)
function setTab(next?: Tab) {
  const c: Content = { ...content.value, tab: next }
  if (!next) delete c.tab
  content.value = c
}
const timing = computed({
  get: () => (tab.value ? 'away' : 'always'),
  set: (v: 'away' | 'always') => setTab(v === 'away' ? {} : undefined),
})
const timings = [
  { value: 'away' as const, label: 'while they are in another tab' },
  { value: 'always' as const, label: 'all the time' },
]
const delay = (key: 'first' | 'gap') =>
  computed({
    get: () => tab.value?.[key] ?? 'PT2S',
    set: (v) => {
      const next: Tab = { ...tab.value, [key]: v }
      if (v === 'PT2S') delete next[key]
      setTab(next)
    },
  })
const [first, gap] = [delay('first'), delay('gap')]
function setIcon(icon?: Icon) {
  const next: Tab = { ...tab.value, icon }
  if (!icon) delete next.icon
  setTab(next)
}
const name = computed({
  get: () => tab.value?.icon?.name ?? '',
  set: (n) => setIcon(n ? { ...tab.value?.icon, name: n, file: undefined } : undefined),
})
const field = computed({
  get: () => tab.value?.icon?.field,
  set: (f) => tab.value?.icon && setIcon({ ...tab.value.icon, field: f }),
})
const choosing = ref(false)
const address = computed(() => {
  const i = tab.value?.icon
  if (!i) return ''
  if (i.file) return `/i/${props.site}/${i.file}`
  const q = new URLSearchParams({ field: (i.field ?? '').slice(1) })
  if (i.number) q.set('number', String(i.number))
  return `/i/${props.site}/icon/${i.name}.svg?${q}`
})

/** The titles, a paragraph each. */
const titles = computed(() =>
  [...new DOMParser().parseFromString(props.message, 'text/html').querySelectorAll('p')]
    .map((p) => p.textContent!.replaceAll('{countdown}', '00:59').trim())
    .filter(Boolean),
)
const suggestions = ['Your booking is not finished', 'We kept your place', 'Still there?', 'One thing before you go']

// The tab as a visitor elsewhere sees it.
const playing = ref(-1)
let timer = 0
function stop() {
  clearTimeout(timer)
  playing.value = -1
}
const ms = (period: string) => {
  const [, n, unit] = /^PT(\d+)([HMS])$/.exec(period) ?? []
  return Number(n ?? 2) * { H: 3_600_000, M: 60_000, S: 1000 }[(unit ?? 'S') as 'H' | 'M' | 'S']
}
function play() {
  stop()
  const next = () => {
    playing.value++
    timer = window.setTimeout(next, ms(gap.value))
  }
  timer = window.setTimeout(next, ms(first.value))
}
watch([titles, tab], stop)
onBeforeUnmount(stop)
</script>

<template>
  <section class="tab-editor" aria-label="In the tab">
    <div class="line">
      <span>It stands there</span>
      <RadioField v-model="timing" label="When it stands there" :options="timings" />
    </div>
    <template v-if="tab">
      <p class="quiet small">
        Each paragraph above is one title; they take turns. For example:
        <template v-for="(s, i) in suggestions" :key="s"
          >{{ i ? ' · ' : '' }}<em>{{ s }}</em></template
        >
      </p>
      <div class="line">
        <span>The first after</span><PeriodField v-model="first" label="When the first comes" /> <span>each for</span
        ><PeriodField v-model="gap" label="How long each stays" />
      </div>
      <IconPicker v-model="name" />
      <div class="line">
        <button type="button" class="word small" :aria-expanded="choosing" @click="choosing = !choosing">
          {{ tab.icon?.file ? 'Another picture' : 'A picture of the site instead' }}
        </button>
        <button v-if="tab.icon?.file" type="button" class="word small" @click="setIcon()">No picture</button>
      </div>
      <ImageChoice
        v-if="choosing"
        :site="site"
        @take="
          (i) => {
            setIcon({ file: i.file })
            choosing = false
          }
        "
      />
      <template v-if="tab.icon?.name">
        <ColourField v-model="field" label="Field of the icon" :palette="palette" usual="dark" shown="#16202e" />
        <label class="line"
          >A number on it
          <el-input-number
            :model-value="tab.icon.number ?? 0"
            :min="0"
            :max="99"
            size="small"
            aria-label="Number on the icon, none if 0"
            @change="(n: number | undefined) => setIcon({ ...tab!.icon, number: n || undefined })"
          />
        </label>
      </template>
      <div class="line">
        <el-button size="small" @click="playing < 0 ? play() : stop()">{{
          playing < 0 ? 'Show it as they see it elsewhere' : 'They are back'
        }}</el-button>
        <span class="strip" aria-live="off"
          ><img v-if="playing >= 0 && address" :src="address" alt="" width="16" height="16" /><span
            v-else
            class="plain-icon"
          ></span
          >{{ playing >= 0 && titles.length ? titles[playing % titles.length] : 'The page’s own title' }}</span
        >
      </div>
    </template>
  </section>
</template>

<style scoped>
.tab-editor {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
p {
  margin: 0;
}
.line :deep(.period .el-input-number) {
  width: 70px;
}
.line :deep(.period .el-select) {
  width: 110px;
}
.strip {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 240px;
  overflow: hidden;
  padding: 4px 10px;
  border: 1px solid var(--line);
  border-bottom: 0;
  background: var(--chart);
  font-size: 12px;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.plain-icon {
  flex: none;
  width: 16px;
  height: 16px;
  border: 1px solid var(--ink-2);
}
</style>
