<script setup lang="ts">
// A picture of a notice, and another for phones: one of the site's images, a file from this
// machine, or one at an address.
import { ref } from 'vue'
import type { Notice } from '../../../api/client'
import ImageChoice from './ImageChoice.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
type Image = Pick<Picture, 'file' | 'address' | 'width' | 'height'>
const props = defineProps<{ site: string }>()
const picture = defineModel<Picture | undefined>({ required: true })

const choosing = ref<'main' | 'phone'>()
const error = ref('')
const address = (i: Image) => (i.file ? `/i/${props.site}/${i.file}` : (i.address ?? ''))

function open(which: 'main' | 'phone') {
  choosing.value = choosing.value === which ? undefined : which
  error.value = ''
}
/** Takes an image for the place that is being chosen for, in place of what was there. */
function put(image: Image) {
  if (choosing.value === 'phone' && picture.value) picture.value = { ...picture.value, phone: image }
  else {
    const rest = { ...picture.value }
    for (const k of ['file', 'address', 'width', 'height'] as const) delete rest[k]
    picture.value = { ...rest, ...image }
  }
  choosing.value = undefined
}
const elsewhere = ref('')
function takeAddress() {
  const at = elsewhere.value.trim()
  if (!/^(https:\/\/|\/)/.test(at)) error.value = 'Give an address that begins with https:// or /.'
  else put({ address: at })
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
      <img v-if="picture?.file" :src="address(picture)" alt="The picture chosen" />
      <code v-else-if="picture?.address" class="small">{{ picture.address }}</code>
      <el-button size="small" :aria-expanded="choosing === 'main'" @click="open('main')">{{
        picture ? 'Another' : 'Choose a picture'
      }}</el-button>
      <el-button v-if="picture" size="small" text @click="drop('main')">No picture</el-button>
    </div>
    <div v-if="picture" class="row">
      <span class="label">On phones</span>
      <img v-if="picture.phone?.file" :src="address(picture.phone)" alt="The picture for phones" />
      <code v-else-if="picture.phone?.address" class="small">{{ picture.phone.address }}</code>
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
    <ImageChoice v-if="choosing" :site="site" @take="({ file, width, height }) => put({ file, width, height })" />
    <form v-if="choosing" class="row" @submit.prevent="takeAddress">
      <el-input
        v-model="elsewhere"
        size="small"
        placeholder="or its address, https://…"
        aria-label="Address of the picture"
      />
      <el-button size="small" native-type="submit" :disabled="!elsewhere.trim()">Take it</el-button>
      <span class="quiet small">Its host learns who visits the site. It is shown on the stage.</span>
    </form>
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
.error {
  margin: 0;
  color: var(--alarm);
}
</style>
