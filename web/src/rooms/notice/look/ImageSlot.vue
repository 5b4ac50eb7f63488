<script setup lang="ts">
// One image of a picture: one of the site's, a file from this machine, or one at an address.
import { ref } from 'vue'
import type { Notice } from '../../../api/client'
import ImageChoice from './ImageChoice.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
export type Image = Pick<Picture, 'file' | 'address' | 'width' | 'height'>

/**
 * `label` stands before it and `alt` says which it is; `choose` are the words that choose one, read out as `chooses`,
 * and `drop` those that take it away. `none` stands where there is none.
 */
const props = defineProps<{
  site: string
  label: string
  alt: string
  choose: string
  chooses?: string
  drop?: string
  drops?: string
  none?: string
}>()
const image = defineModel<Image | undefined>({ required: true })

const choosing = ref(false)
const error = ref('')
const elsewhere = ref('')
const address = (i: Image) => (i.file ? `/i/${props.site}/${i.file}` : (i.address ?? ''))

function toggle() {
  choosing.value = !choosing.value
  error.value = ''
}
function put(next: Image) {
  image.value = next
  choosing.value = false
}
function takeAddress() {
  const at = elsewhere.value.trim()
  if (!/^(https:\/\/|\/)/.test(at)) error.value = 'Give an address that begins with https:// or /.'
  else put({ address: at })
}
</script>

<template>
  <div class="slot">
    <div class="row">
      <span class="label">{{ label }}</span>
      <img v-if="image?.file" :src="address(image)" :alt="alt" />
      <code v-else-if="image?.address" class="small">{{ image.address }}</code>
      <span v-else-if="none" class="quiet">{{ none }}</span>
      <el-button size="small" :aria-label="chooses" :aria-expanded="choosing" @click="toggle">{{ choose }}</el-button>
      <el-button v-if="drop && image" size="small" text :aria-label="drops" @click="image = undefined">{{
        drop
      }}</el-button>
      <slot />
    </div>
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
.slot {
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
.label:empty {
  display: none;
}
.error {
  margin: 0;
  color: var(--alarm);
}
</style>
