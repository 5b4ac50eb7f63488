<script setup lang="ts">
// The stage: the site's real page in a frame with the real site script at work
// on it; one width, or three side by side. The notice's words are written where
// they stand; a spot in the page is chosen by pointing at it.
import { useElementSize, useEventListener, useTimeoutFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { mayManage } from './me'
import { png, type Taken } from './png'
import { tell } from './tell'
import { useViewpoint, widths } from './viewpoint'

/**
 * `writable` says whether words can be written where they stand: those of the notice, or of a part of a block. Others
 * stand there with something that is none of them, such as a number that the site says once.
 */
const props = defineProps<{
  address: string
  token: string
  notice: string
  why: string
  writable: (part?: string) => boolean
}>()
const emit = defineEmits<{
  link: []
  /** The words are to be written beside the stage. */
  beside: []
  words: [html: string, part?: string]
  part: [id: string]
  pointed: [selector: string]
  other: [id: string]
}>()

const { site: key, width: wanted, visitor, look } = useViewpoint()
const three = ref(false)
const own = ref(1280)
const width = computed(() => Number(wanted.value) || own.value)
function choose(v: string | number | boolean | undefined) {
  three.value = v === 'three'
  if (typeof v !== 'number') return
  own.value = v
  if (wanted.value) void look({ width: String(v) })
}
const box = useTemplateRef<HTMLElement>('box')
const frames = useTemplateRef<HTMLIFrameElement[]>('frames')
const { width: room, height: high } = useElementSize(box)
const gap = 8
const shown = computed(() => {
  if (!three.value) {
    const scale = Math.min(1, (room.value || width.value) / width.value)
    return [{ px: width.value, label: '', scale, left: Math.max(0, (room.value - width.value * scale) / 2) }]
  }
  // Each as large as it can be beside the others.
  const all = widths.reduce((sum, w) => sum + w.px, 0)
  const scale = Math.min(1, ((room.value || all) - gap * (widths.length - 1)) / all)
  let left = 0
  return widths.map((w) => {
    const at = left
    left += w.px * scale + gap
    return { ...w, scale, left: at }
  })
})
/** The name of a frame, by which the site script in it has the token; and the page's address with it, for a tab. */
const carrier = computed(() => `mastflag-preview=${encodeURIComponent(props.token)}`)
const link = computed(() => props.address + (props.address.includes('#') ? '?' : '#') + carrier.value)
/** What a frame is made anew for. */
const opened = computed(() => (props.address && props.token ? props.address + ' ' + props.token : ''))

/** What the site script last said; undefined until it has. */
const placed = ref<string[]>()
const silent = ref(false)
const patience = useTimeoutFn(() => (silent.value = placed.value === undefined), 6000)
watch(
  [opened, three],
  () => {
    placed.value = undefined
    silent.value = false
    route.value = ''
    patience.start()
  },
  { immediate: true },
)

/** What of it is for the top of the page and stands at the bottom. */
const atBottom = ref<string[]>([])
/** What the address of the page goes on with behind its #, where no condition sees that. */
const route = ref('')
const slots = ref(false)
const dark = ref(false)
const pointing = ref(false)
const busy = ref(false)
const origin = computed(() => (props.address ? new URL(props.address).origin : ''))
/** Says something to the page, or to all that are there. */
function ask(message: object) {
  for (const f of frames.value ?? []) f.contentWindow?.postMessage(message, origin.value)
}
function showSlots(on: boolean) {
  slots.value = on
  ask({ mastflag: 'slots', on })
}
/** Has the page say what it says to the viewpoint’s visitor. */
function showVisitor() {
  let facts: unknown
  try {
    facts = JSON.parse(visitor.value || '{}')
  } catch {
    // Not read yet: the words for all others stand.
  }
  ask({ mastflag: 'visitor', facts: facts ?? {} })
}
watch(visitor, showVisitor)
/** Has the next press on the page choose a spot. */
function point() {
  three.value = false
  pointing.value = true
  slots.value = false
  ask({ mastflag: 'point', on: true })
}
function stopPointing() {
  pointing.value = false
  ask({ mastflag: 'point', on: false })
}
const taking = useTimeoutFn(() => busy.value && failed(), 20_000, { immediate: false })
function picture() {
  busy.value = true
  frames.value?.at(-1)?.contentWindow?.postMessage({ mastflag: 'picture' }, origin.value)
  taking.start()
}
function failed() {
  busy.value = false
  tell('The picture could not be taken. Send the preview link instead: it is in More.', 'warning')
}
async function save(taken?: Taken) {
  try {
    if (!taken) throw new Error('nothing was taken down')
    const a = document.createElement('a')
    a.href = await png(taken)
    a.download = `${props.notice}.png`
    a.click()
    busy.value = false
    tell('The picture is saved. It shows the page with the draft, as on the stage.')
  } catch {
    failed()
  }
}

useEventListener(window, 'message', (e: MessageEvent) => {
  // From one of our frames, while the site's own page is in it.
  if (e.origin !== origin.value || !frames.value?.some((f) => f.contentWindow === e.source)) return
  switch (e.data?.mastflag) {
    case 'placed':
      placed.value = e.data.ids
      atBottom.value = e.data.atBottom ?? [] // a page may have an older script yet
      silent.value = false
      showVisitor()
      if (slots.value) ask({ mastflag: 'slots', on: true })
      break
    case 'route':
      route.value = String(e.data.path)
      break
    case 'edit':
      // Words are written where they stand; what is around them, beside the stage.
      if (e.data.id !== props.notice) emit('other', String(e.data.id))
      else if (e.data.part === 'words') {
        if (props.writable()) (e.source as Window).postMessage({ mastflag: 'write', id: props.notice }, origin.value)
        else emit('beside')
      } else if (e.data.part === 'part') {
        emit('part', String(e.data.name))
        if (props.writable(String(e.data.name)))
          (e.source as Window).postMessage({ mastflag: 'write', id: props.notice, part: e.data.name }, origin.value)
      } else emit('link')
      break
    case 'words':
      emit('words', String(e.data.html), e.data.part === undefined ? undefined : String(e.data.part))
      break
    case 'pointed':
      pointing.value = false
      if (e.data.selector) emit('pointed', String(e.data.selector))
      break
    case 'picture':
      void save(e.data.taken)
  }
})

/** Has the page ask again what to show. */
const refresh = () => ask({ mastflag: 'refresh' })
defineExpose({ refresh, point })
</script>

<template>
  <section class="stage" aria-label="Stage">
    <div class="bar">
      <el-radio-group
        :model-value="three ? 'three' : width"
        size="small"
        aria-label="Width of the stage"
        @change="choose"
      >
        <el-radio-button v-for="w in widths" :key="w.px" :value="w.px">{{ `${w.label} ${w.px}` }}</el-radio-button>
        <el-radio-button value="three">All three</el-radio-button>
      </el-radio-group>
      <button
        type="button"
        class="tool"
        :aria-pressed="dark"
        title="As where a visitor’s system is dark"
        @click="dark = !dark"
      >
        Dark
      </button>
      <button
        type="button"
        class="tool"
        :aria-pressed="slots"
        title="Where notices can stand"
        @click="showSlots(!slots)"
      >
        Slots
      </button>
      <button
        type="button"
        class="tool"
        :disabled="!placed || busy"
        title="Save what the stage shows as a PNG"
        @click="picture"
      >
        {{ busy ? 'Taking…' : 'Picture' }}
      </button>
      <span class="says" role="status" title="Press its words on the page to change them there.">
        <template v-if="!address">Give the site its address in Site to see its pages here.</template>
        <template v-else-if="pointing"
          >Press the element that it is to stand at.
          <button type="button" class="word" @click="stopPointing">Stop</button></template
        >
        <template v-else-if="silent"
          >This page does not answer here. It may lack the snippet, or forbid to be shown in a frame (X-Frame-Options,
          or frame-ancestors in its Content-Security-Policy).
          <a :href="link" target="_blank" rel="noopener">Open the preview in a tab</a></template
        >
        <template v-else-if="placed && !placed.includes(notice)">{{ why }}</template>
        <template v-else-if="placed && atBottom.includes(notice)"
          >On this page it stands at the bottom: the page keeps something at the top that cannot be moved.</template
        >
        <template v-else-if="placed">The draft, on the real page.</template>
        <template v-else>Opening the page…</template>
      </span>
    </div>
    <p v-if="route" class="route">
      The address goes on behind a #: <code>{{ route }}</code>. Conditions do not tell such pages apart yet.
      <RouterLink v-if="mayManage" :to="{ name: 'site', params: { site: key, part: 'about' }, hash: '#routes' }"
        >Tell them apart</RouterLink
      >
    </p>
    <div ref="box" class="box" :class="{ dark }">
      <template v-if="opened">
        <iframe
          v-for="s in shown"
          :key="opened + s.label"
          ref="frames"
          :title="three ? `The page on a ${s.label.toLowerCase()}` : 'The site’s page with the draft on it'"
          :name="carrier"
          :src="address"
          :style="{
            width: s.px + 'px',
            height: (high || 400) / s.scale + 'px',
            transform: `scale(${s.scale})`,
            insetInlineStart: s.left + 'px',
          }"
          sandbox="allow-scripts allow-same-origin allow-forms"
        ></iframe>
      </template>
    </div>
  </section>
</template>

<style scoped>
.stage {
  position: sticky;
  top: 12px;
  display: flex;
  flex-direction: column;
  align-self: start;
  height: 440px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  background: var(--chart);
}
.route {
  margin: 0;
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}
.tool {
  min-height: 24px;
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
  font-size: 12px;
  cursor: pointer;
}
.tool[aria-pressed='true'] {
  border-color: var(--sea);
  background: var(--sea);
  color: var(--on-sea);
}
.tool:disabled {
  color: var(--el-text-color-disabled);
  cursor: default;
}
.says {
  flex: 1 1 180px;
  color: var(--ink-2);
  font-size: 12px;
}
.box {
  position: relative;
  flex: 1;
  overflow: hidden;
  background: var(--chart);
}
iframe {
  position: absolute;
  inset: 0 auto auto 0;
  display: block;
  border: 0;
  background: #fff;
  color-scheme: light;
  transform-origin: 0 0;
}
.dark iframe {
  color-scheme: dark;
}
</style>
