<script setup lang="ts">
// What a notice looks like beyond its colours. Nothing here has to be touched:
// it folds away until it is asked for, and says in a line what is set.
import { computed, ref } from 'vue'
import type { Notice, Site } from '../../../api/client'
import ColourEditor from './ColourEditor.vue'
import IconPicker from './IconPicker.vue'
import PicturePicker from './PicturePicker.vue'

type Look = NonNullable<Notice['look']>
type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
/** `plain` is for what has neither an icon nor a picture. */
const props = defineProps<{ site: string; detail?: Site; card: boolean; plain?: boolean }>()
const look = defineModel<Look>({ required: true })
const picture = defineModel<Picture | undefined>('picture', { required: true })

/** Sets parts of the look; what is as it would be anyway is left out. */
function set(part: Partial<Look>) {
  const next: Record<string, unknown> = { ...look.value, ...part }
  const usual = { shape: 'soft', width: 'normal', font: '', icon: '', motion: '', css: '' }
  for (const [k, v] of Object.entries(usual)) if (next[k] === v || next[k] === undefined) delete next[k]
  if (!next.dark) delete next.dark
  look.value = next as Look
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
    l.font && 'a font',
    l.dark && 'dark colours',
    l.motion && (l.motion === 'fade' ? 'fades in' : 'slides in'),
    l.css && 'own style',
  ].filter(Boolean)
  if (said.length) return said.join(', ')
  return props.plain ? 'corners, font, motion…' : 'icon, picture, corners, font, motion…'
})
/** What an own style can speak of. */
const parts = computed(() =>
  props.plain
    ? '.bar .words .choices .button .link .detail .close'
    : '.bar .words .button .link .close .longer .icon .picture',
)
const darkColours = computed({
  get: () => look.value.dark ?? {},
  set: (v) => set({ dark: v as Look['dark'] }),
})
</script>

<template>
  <details class="look">
    <summary>
      <b>More of its look</b> <span class="quiet small">{{ summary }}</span>
    </summary>
    <div class="parts">
      <IconPicker v-if="!plain" :model-value="look.icon ?? ''" @update:model-value="(icon: string) => set({ icon })" />
      <PicturePicker v-if="!plain" v-model="picture" :site="site" />
      <div class="row">
        <span class="label">Corners</span>
        <el-radio-group
          :model-value="look.shape ?? 'soft'"
          size="small"
          aria-label="Corners"
          @change="(v) => set({ shape: v as Look['shape'] })"
        >
          <el-radio-button v-for="s in shapes" :key="s.value" :value="s.value">{{ s.label }}</el-radio-button>
        </el-radio-group>
      </div>
      <div class="row">
        <span class="label">{{ card ? 'Width' : 'Words run' }}</span>
        <el-radio-group
          :model-value="look.width ?? 'normal'"
          size="small"
          :aria-label="card ? 'Width' : 'Words run'"
          @change="(v) => set({ width: v as Look['width'] })"
        >
          <el-radio-button v-for="w in widths" :key="w.value" :value="w.value">{{ w.label }}</el-radio-button>
        </el-radio-group>
      </div>
      <div class="row">
        <span class="label">Font</span>
        <el-select
          :model-value="look.font ?? ''"
          size="small"
          filterable
          allow-create
          aria-label="Font"
          @change="(font: string) => set({ font })"
        >
          <el-option value="" label="each visitor’s system font" />
          <el-option v-for="f in fonts" :key="f" :value="f" :label="f" />
        </el-select>
      </div>
      <div class="row">
        <span class="label">Comes in</span>
        <el-select
          :model-value="look.motion ?? ''"
          size="small"
          aria-label="How it comes in"
          @change="(v: string) => set({ motion: (v || undefined) as Look['motion'] })"
        >
          <el-option v-for="m in motions" :key="m.value" :value="m.value" :label="m.label" />
        </el-select>
        <span v-if="look.motion" class="quiet small">not for visitors who want less motion</span>
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
        <span>Own style, CSS for this notice alone</span>
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
.label {
  width: 72px;
  color: var(--ink-2);
}
.own {
  display: grid;
  gap: 2px;
}
</style>
