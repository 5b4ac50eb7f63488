<script setup lang="ts">
// What a notice looks like beyond its colours. Nothing here has to be touched:
// it folds away until it is asked for, and says in a line what is set.
import { computed, ref } from 'vue'
import type { Countdown, Notice, Site } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import OptionField from '../../../instruments/OptionField.vue'
import RadioField from '../../../instruments/RadioField.vue'
import ColourEditor from './ColourEditor.vue'
import ColourField from './ColourField.vue'
import IconPicker from './IconPicker.vue'
import PicturePicker from './PicturePicker.vue'
import PicturePlace from './PicturePlace.vue'
import TextLookField from './TextLookField.vue'

type Look = NonNullable<Notice['look']>
type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
/**
 * `plain` is for what has neither an icon nor a picture; `headline` is whether it has a headline; `theme` is whether
 * the look is a theme's, which is open and has no picture.
 */
const props = defineProps<{
  site: string
  detail?: Site
  card: boolean
  plain?: boolean
  headline?: boolean
  countdown?: Countdown
  theme?: boolean
  /** How dark the page behind it is if nothing is said, per cent; undefined where there is none behind. */
  behind?: number
}>()
const look = defineModel<Look>({ required: true })
const picture = defineModel<Picture | undefined>('picture')

/** What a part is where nothing is said of it. */
const usual: Record<string, unknown> = { shape: 'soft', width: 'normal', font: '', icon: '', motion: '', css: '' }
/** Sets parts of the look; what is as it would be anyway is left out. */
function set(part: Partial<Look>) {
  const next: Record<string, unknown> = { ...look.value, ...part }
  // A theme may say otherwise: then what is usual is said.
  for (const [k, v] of Object.entries(next))
    if (v === undefined || (usual[k] === v && (!look.value.theme || v === ''))) delete next[k]
  look.value = next as Look
}
/** Sets a part of a part, which is left out when nothing is left of it. */
function within<K extends 'buttons' | 'count'>(key: K, part: Partial<NonNullable<Look[K]>>) {
  const next = changed<NonNullable<Look[K]>>(look.value[key], part)
  set({ [key]: Object.keys(next).length ? next : undefined } as Partial<Look>)
}

/** What a slider says; nothing where it is as usual. */
function percent(e: Event, usual: number): number | undefined {
  const n = Number((e.target as HTMLInputElement).value)
  return n === usual ? undefined : n
}
const shapes = [
  { value: 'square', label: 'square' },
  { value: 'soft', label: 'soft' },
  { value: 'round', label: 'round' },
] as const
const widths = [
  { value: 'narrow', label: 'narrow' },
  { value: 'normal', label: 'usual' },
  { value: 'wide', label: 'wide' },
] as const
const motions = [
  { value: '', label: 'at once' },
  { value: 'fade', label: 'fading in' },
  { value: 'slide', label: 'sliding in' },
] as const
const motionsOut = [
  { value: '', label: 'at once' },
  { value: 'fade', label: 'fading out' },
  { value: 'slide', label: 'sliding out' },
] as const
const sizes = [
  { value: 'small', label: 'small' },
  { value: '', label: 'medium' },
  { value: 'large', label: 'large' },
  { value: 'own', label: 'own' },
]
const aligns = [
  { value: 'start', label: 'at the start' },
  { value: 'centre', label: 'centred' },
  { value: 'end', label: 'at the end' },
] as const
/** Where lines stand if nothing is said. */
const usualAlign = computed(() => (props.card ? 'start' : 'centre'))
const pixels = computed(() => (/px$/.test(look.value.size ?? '') ? parseInt(look.value.size!) : undefined))
const fonts = computed(() => [...new Set([...(props.detail?.fonts ?? []), look.value.font ?? ''].filter(Boolean))])

/** Own style is taken when it is left, so that half a rule is not refused on the way. */
const css = ref(look.value.css ?? '')

const summary = computed(() => {
  const l = look.value
  const said = [
    l.icon && 'an icon',
    picture.value && 'a picture',
    l.shape && `${l.shape} corners`,
    l.width && `${l.width} words`,
    l.size && (pixels.value ? `words of ${l.size}` : `${l.size} letters`),
    l.align && `words ${aligns.find((a) => a.value === l.align)!.label}`,
    l.font && 'a font',
    l.headline && 'a headline of its own',
    l.buttons && 'buttons',
    l.border && 'a border',
    l.count && 'figures',
    l.dark && 'dark colours',
    l.motion && (l.motion === 'fade' ? 'fades in' : 'slides in'),
    l.css && 'own style',
  ].filter(Boolean)
  if (said.length) return said.join(', ')
  return props.plain ? 'corners, font, buttons…' : 'icon, picture, buttons, corners, font…'
})
/** What an own style can speak of. */
const parts = computed(() =>
  props.plain
    ? '.bar .words .headline .choices .button .link .detail .close'
    : '.bar .words .headline .button .link .close .fold .longer .icon .picture',
)
const darkColours = computed({
  get: () => look.value.dark ?? {},
  set: (v) => set({ dark: v as Look['dark'] }),
})
</script>

<template>
  <details class="look" :open="theme">
    <summary>
      <b>More of its look</b> <span class="quiet small">{{ summary }}</span>
    </summary>
    <div class="parts">
      <IconPicker v-if="!plain" :model-value="look.icon ?? ''" @update:model-value="(icon: string) => set({ icon })" />
      <div v-if="!plain && (look.icon || theme)" class="row">
        <span class="label">Its colour</span>
        <ColourField
          :model-value="look.iconColour"
          label="Colour of the icon"
          :palette="detail?.palette"
          usual="as the words"
          @update:model-value="(iconColour) => set({ iconColour })"
        />
      </div>
      <PicturePicker v-if="!plain && !theme" v-model="picture" :site="site" />
      <PicturePlace v-if="!plain && picture" v-model="picture" :site="site" :card="card" />
      <div class="row">
        <span class="label">Letters</span>
        <RadioField
          :model-value="pixels ? 'own' : (look.size ?? '')"
          label="Size of the words"
          :options="sizes"
          @update:model-value="(v) => set({ size: v === 'own' ? '18px' : v || undefined })"
        />
        <el-input-number
          v-if="pixels"
          :model-value="pixels"
          :min="10"
          :max="49"
          size="small"
          controls-position="right"
          aria-label="Size of the words, px"
          @change="(n: number | undefined) => set({ size: `${n ?? 16}px` })"
        />
      </div>
      <div class="row">
        <span class="label">Words</span>
        <RadioField
          :model-value="look.align ?? usualAlign"
          label="How the words are aligned"
          :options="aligns"
          @update:model-value="(v) => set({ align: v === usualAlign && !look.theme ? undefined : v })"
        />
      </div>
      <TextLookField
        v-if="headline || theme"
        :model-value="look.headline"
        label="The headline"
        :palette="detail?.palette"
        @update:model-value="(headline) => set({ headline })"
      />
      <div class="row">
        <span class="label">Corners</span>
        <RadioField
          :model-value="look.shape ?? 'soft'"
          label="Corners"
          :options="shapes"
          @update:model-value="(shape) => set({ shape })"
        />
      </div>
      <div class="row">
        <span class="label">{{ card ? 'Width' : 'Words run' }}</span>
        <RadioField
          :model-value="look.width ?? 'normal'"
          :label="card ? 'Width' : 'Words run'"
          :options="widths"
          @update:model-value="(width) => set({ width })"
        />
      </div>
      <div class="row">
        <span class="label">Font</span>
        <el-select
          :empty-values="[null, undefined]"
          :model-value="look.font ?? ''"
          size="small"
          filterable
          persistent
          allow-create
          aria-label="Font"
          @change="(font: string) => set({ font })"
        >
          <el-option value="" label="each visitor’s system font" />
          <el-option v-for="f in fonts" :key="f" :value="f" :label="f" />
        </el-select>
      </div>
      <fieldset>
        <legend>Buttons</legend>
        <div class="row">
          <span class="label">Field</span>
          <ColourField
            :model-value="look.buttons?.background"
            label="Field of the buttons"
            :palette="detail?.palette"
            usual="outlined"
            @update:model-value="(background) => within('buttons', { background, text: undefined })"
          />
        </div>
        <div v-if="look.buttons?.background" class="row">
          <span class="label">Words</span>
          <ColourField
            :model-value="look.buttons.text"
            label="Words on the buttons"
            :palette="detail?.palette"
            usual="best to read"
            @update:model-value="(text) => within('buttons', { text })"
          />
        </div>
        <div class="row">
          <span class="label">Corners</span>
          <RadioField
            :model-value="look.buttons?.shape ?? ''"
            label="Corners of the buttons"
            :options="[{ value: '', label: 'as the notice' }, ...shapes]"
            @update:model-value="(v) => within('buttons', { shape: v || undefined })"
          />
        </div>
      </fieldset>
      <div class="row">
        <span class="label">Border</span>
        <el-input-number
          :model-value="look.border?.width"
          :min="0"
          :max="12"
          size="small"
          controls-position="right"
          placeholder="none"
          aria-label="Width of the border, px"
          @change="(n: number | undefined) => set({ border: n ? { ...look.border, width: n } : undefined })"
        />
        <ColourField
          v-if="look.border"
          :model-value="look.border.colour"
          label="Colour of the border"
          :palette="detail?.palette"
          usual="as the words"
          @update:model-value="(colour) => set({ border: { ...look.border!, colour } })"
        />
      </div>
      <fieldset v-if="countdown || theme">
        <legend>The countdown</legend>
        <TextLookField
          :model-value="look.count?.figures"
          label="Its figures"
          :palette="detail?.palette"
          @update:model-value="(figures) => within('count', { figures })"
        />
        <TextLookField
          v-if="countdown?.labels !== 'none'"
          :model-value="look.count?.labels"
          label="Words beside them"
          :palette="detail?.palette"
          @update:model-value="(labels) => within('count', { labels })"
        />
        <div v-if="theme || ['square', 'round'].includes(countdown?.frame ?? '')" class="row">
          <span class="label">Frames</span>
          <ColourField
            :model-value="look.count?.frame"
            label="Colour of the frames"
            :palette="detail?.palette"
            usual="as the words"
            @update:model-value="(frame) => within('count', { frame })"
          />
        </div>
        <TextLookField
          v-if="theme || countdown?.then === 'say'"
          :model-value="look.count?.afterEnd"
          label="What it says at the end"
          :palette="detail?.palette"
          @update:model-value="(afterEnd) => within('count', { afterEnd })"
        />
      </fieldset>
      <div class="row">
        <span class="label">Comes in</span>
        <OptionField
          :model-value="look.motion ?? ''"
          label="How it comes in"
          :options="motions"
          size="small"
          @update:model-value="(v) => set({ motion: v || undefined })"
        />
      </div>
      <div class="row">
        <span class="label">Goes</span>
        <OptionField
          :model-value="look.motionOut ?? ''"
          label="How it goes"
          :options="motionsOut"
          size="small"
          @update:model-value="(v) => set({ motionOut: v || undefined })"
        />
        <span v-if="look.motion || look.motionOut" class="quiet small">not for visitors who want less motion</span>
      </div>
      <div v-if="card && !plain" class="row">
        <span class="label">Field</span>
        <input
          type="range"
          min="30"
          max="100"
          step="5"
          :value="look.opacity ?? 100"
          aria-label="How dense its field is, per cent"
          @change="(e) => set({ opacity: percent(e, 100) })"
        />
        <span class="quiet small">{{ look.opacity ?? 100 }} % dense</span>
      </div>
      <div v-if="behind" class="row">
        <span class="label">Behind it</span>
        <input
          type="range"
          min="0"
          max="95"
          step="5"
          :value="look.behind ?? behind"
          aria-label="How dark the page behind it is, per cent"
          @change="(e) => set({ behind: percent(e, behind!) })"
        />
        <span class="quiet small">the page is {{ look.behind ?? behind }} % darker</span>
      </div>
      <div class="row">
        <el-switch
          :model-value="!!look.dark"
          active-text="Other colours where a visitor’s system is dark"
          aria-label="Other colours where a visitor’s system is dark"
          @change="(on) => set({ dark: on ? { background: '#16202e' } : undefined })"
        />
      </div>
      <ColourEditor
        v-if="look.dark"
        v-model="darkColours"
        :palette="detail?.palette"
        legend="In the dark"
        of="Dark, "
      />
      <label class="own">
        <span>Own style, CSS for {{ theme ? 'these notices' : 'this notice' }} alone</span>
        <el-input
          v-model="css"
          type="textarea"
          :autosize="{ minRows: 2, maxRows: 8 }"
          spellcheck="false"
          placeholder=".bar { letter-spacing: .02em }"
          aria-label="Own style"
          @change="set({ css })"
        />
        <span class="quiet small">Its parts: {{ parts }}</span>
      </label>
    </div>
  </details>
</template>

<style scoped>
.look {
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
summary {
  cursor: pointer;
}
.parts {
  display: grid;
  gap: 10px;
  margin-top: 10px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.row .el-select {
  flex: 1;
  min-width: 140px;
}
.el-input-number {
  width: 100px;
}
fieldset {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 8px 0 0;
  border: 0;
  border-top: 1px dotted var(--line);
}
legend {
  float: left;
  font-weight: 600;
}
.label {
  width: 72px;
  color: var(--ink-2);
}
.own {
  display: grid;
  gap: 2px;
}
</style>
