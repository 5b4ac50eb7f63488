<script setup lang="ts">
// A picture of a notice, and another for phones: one of the site's images, or
// a file from this machine.
import { ref } from 'vue'
import { api, type ImageDetail, type Notice } from '../../../api/client'
import { useAttempts } from '../../../instruments/attempts'
import FileChoice from '../../../instruments/FileChoice.vue'
import { base64 } from '../../../instruments/file'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
const props = defineProps<{ site: string }>()
const picture = defineModel<Picture | undefined>({ required: true })

const choosing = ref<'main' | 'phone'>()
const images = ref<ImageDetail[]>([])
const { error, busy, attempt } = useAttempts()
const address = (file: string) => `/i/${props.site}/${file}`

async function open(which: 'main' | 'phone') {
  choosing.value = choosing.value === which ? undefined : which
  error.value = ''
  if (choosing.value) images.value = (await api.images(props.site).catch(() => ({ images: [] }))).images
}
function take(i: ImageDetail) {
  const image = { file: i.file, width: i.width, height: i.height }
  if (choosing.value === 'phone' && picture.value) picture.value = { ...picture.value, phone: image }
  else picture.value = { ...picture.value, ...image }
  choosing.value = undefined
}
async function upload([file]: File[]) {
  if (!file) return
  await attempt('upload', async () => {
    const data = await base64(file)
    images.value = (await api.addImage(props.site, { name: file.name, data })).images
    take(images.value[0]!)
  })
}
function drop(which: 'main' | 'phone') {
  if (which === 'main') picture.value = undefined
  else if (picture.value) {
    const rest = { ...picture.value }
    delete rest.phone
    picture.value = rest
  }
}
</script>

<template>
  <div class="picture-picker">
    <div class="row">
      <span class="label">Picture</span>
      <img v-if="picture" :src="address(picture.file)" alt="The picture chosen" />
      <el-button size="small" :aria-expanded="choosing === 'main'" @click="open('main')">{{
        picture ? 'Another' : 'Choose a picture'
      }}</el-button>
      <el-button v-if="picture" size="small" text @click="drop('main')">No picture</el-button>
    </div>
    <div v-if="picture" class="row">
      <span class="label">On phones</span>
      <img v-if="picture.phone" :src="address(picture.phone.file)" alt="The picture for phones" />
      <span v-else class="quiet">the same</span>
      <el-button
        size="small"
        aria-label="Another picture on phones"
        :aria-expanded="choosing === 'phone'"
        @click="open('phone')"
        >Another</el-button
      >
      <el-button v-if="picture.phone" size="small" text aria-label="The same on phones" @click="drop('phone')"
        >The same</el-button
      >
    </div>
    <el-checkbox
      v-if="picture"
      :model-value="!!picture.decorative"
      label="It says nothing that the words do not"
      @change="(on) => (picture = { ...picture!, decorative: on ? true : undefined })"
    />
    <div v-if="choosing" class="choice">
      <FileChoice words="From this machine" :busy="!!busy" @files="upload" />
      <div v-if="images.length" class="grid">
        <button
          v-for="i in images"
          :key="i.file"
          type="button"
          :title="`${i.name}, ${i.width} × ${i.height} px`"
          @click="take(i)"
        >
          <img :src="i.address" :alt="i.name" loading="lazy" />
        </button>
      </div>
    </div>
    <p v-if="error" class="error small" role="alert">{{ error }}</p>
  </div>
</template>

<style scoped>
.picture-picker {
  display: grid;
  gap: 6px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.row .el-button {
  margin: 0;
}
.row img {
  max-width: 72px;
  max-height: 32px;
}
.label {
  width: 72px;
  color: var(--ink-2);
}
.choice {
  display: grid;
  gap: 8px;
  padding: 10px;
  background: var(--chart);
}
.grid {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.grid button {
  padding: 2px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  cursor: pointer;
}
.grid img {
  display: block;
  width: 72px;
  height: 48px;
  object-fit: contain;
}
.error {
  margin: 0;
  color: var(--alarm);
}
</style>
