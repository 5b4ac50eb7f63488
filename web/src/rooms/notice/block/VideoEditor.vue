<script setup lang="ts">
// A film: where it lies, its still, its captions, and what a frame of another host waits for.
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Part, PartWords, Site } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import FileChoice from '../../../instruments/FileChoice.vue'
import RadioField from '../../../instruments/RadioField.vue'
import ImageChoice from '../look/ImageChoice.vue'
import TextField from '../../../instruments/TextField.vue'

const RichText = defineAsyncComponent(() => import('../RichText.vue'))
type Video = NonNullable<Part['video']>

const props = defineProps<{
  video: Video
  words: PartWords
  site: string
  purposes: NonNullable<NonNullable<Site['consent']>['purposes']>
  lang: string
  name: string
  wordsOnly?: boolean
}>()
const emit = defineEmits<{ video: [v: Video]; words: [w: PartWords] }>()
const say = (w: Partial<PartWords>) => emit('words', { ...props.words, ...w })
const set = (change: { [K in keyof Video]?: Video[K] | undefined }) => emit('video', changed(props.video, change))
const source = ref<'file' | 'frame'>(props.video.frame ? 'frame' : 'file')
const sources = [
  { value: 'file' as const, label: 'a file' },
  { value: 'frame' as const, label: 'a frame of a host' },
]
function setSource(to: 'file' | 'frame') {
  source.value = to
  const address = props.video.file ?? props.video.frame
  set({ file: to === 'file' ? address : undefined, frame: to === 'frame' ? address : undefined, bySelf: undefined })
}
const address = computed(() => props.video.file ?? props.video.frame ?? '')
const forms = [
  { value: 'wide' as const, label: 'wide' },
  { value: 'square' as const, label: 'square' },
  { value: 'tall' as const, label: 'tall' },
]
const choosing = ref(false)
async function captions([file]: File[]) {
  if (file) say({ captions: await file.text() })
}
</script>

<template>
  <el-input
    :model-value="words.heading"
    :aria-label="`Title of the video, in ${name}`"
    placeholder="What the film is called"
    maxlength="300"
    :lang="lang"
    @update:model-value="(heading: string) => say({ heading })"
  />
  <template v-if="!wordsOnly">
    <div class="line">
      <span>It is</span>
      <RadioField :model-value="source" label="What the video is" :options="sources" @update:model-value="setSource" />
    </div>
    <TextField
      :model-value="address"
      :aria-label="source === 'file' ? 'Address of the file' : 'Address of the frame'"
      :placeholder="source === 'file' ? '/films/seals.mp4' : 'https://films.example/embed/seals'"
      @change="(v: string) => set({ [source]: v.trim() })"
    />
    <el-checkbox
      v-if="source === 'file'"
      :model-value="!!video.bySelf"
      label="plays by itself, muted, after the first act on the page"
      @change="(on) => set({ bySelf: !!on })"
    />
    <p v-if="video.bySelf" class="quiet small">Never on phones, nor where less motion or less data is wanted.</p>
    <label v-if="source === 'frame'" class="line"
      >It waits until visitors agree to
      <el-select
        :empty-values="[null, undefined]"
        :model-value="video.purpose ?? ''"
        class="purpose"
        aria-label="The purpose that it waits for"
        @change="(v: string) => set({ purpose: v })"
      >
        <el-option value="" label="nothing" />
        <el-option v-for="p in purposes" :key="p.id" :value="p.id" :label="p.id" />
      </el-select>
    </label>
    <div class="line">
      <span>Form</span>
      <RadioField
        :model-value="video.form ?? 'wide'"
        label="Form of the video"
        :options="forms"
        @update:model-value="(f) => set({ form: f === 'wide' ? undefined : f })"
      />
    </div>
    <div class="line">
      <img v-if="video.still?.file" :src="`/i/${site}/${video.still.file}`" alt="" class="still" />
      <button type="button" class="word small" :aria-expanded="choosing" @click="choosing = !choosing">
        {{ video.still ? 'Another still' : 'A still, shown before it plays' }}
      </button>
      <button v-if="video.still" type="button" class="word small" @click="set({ still: undefined })">No still</button>
    </div>
    <ImageChoice
      v-if="choosing"
      :site="site"
      @take="
        (i) => {
          set({ still: { file: i.file, width: i.width, height: i.height } })
          choosing = false
        }
      "
    />
  </template>
  <template v-if="source === 'file'">
    <div class="line">
      <FileChoice :busy="false" :words="`Captions in ${name} (WebVTT)`" accept=".vtt,text/vtt" @files="captions" />
      <button v-if="words.captions" type="button" class="word small" @click="say({ captions: '' })">
        Remove the captions
      </button>
      <span v-else class="quiet small">none yet; people who do not hear need them</span>
    </div>
  </template>
  <RichText
    v-else-if="video.purpose"
    :model-value="words.text ?? ''"
    :label="`Said in its place until that is agreed to, in ${name}`"
    :lang="lang"
    @update:model-value="(text: string) => say({ text })"
  />
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
.purpose {
  width: 180px;
}
.still {
  width: 96px;
  height: 54px;
  object-fit: cover;
}
p {
  margin: 0;
}
</style>
