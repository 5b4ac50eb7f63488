<script setup lang="ts">
// A picture of a notice, another for phones, and others for visitors of whom the site tells something.
import { computed } from 'vue'
import type { Notice } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import ImageSlot, { type Image } from './ImageSlot.vue'
import PictureTable from './PictureTable.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
defineProps<{ site: string }>()
const picture = defineModel<Picture | undefined>({ required: true })

/** Changes parts of the picture; without an image and a table it is none. */
function set(part: Partial<Picture>) {
  const next = changed(picture.value, part)
  picture.value = next.file || next.address || next.table ? next : undefined
}
const own = computed<Image | undefined>({
  get: () => (picture.value?.file || picture.value?.address ? picture.value : undefined),
  set: (i) => set({ file: i?.file, address: i?.address, width: i?.width, height: i?.height }),
})
const phone = computed({ get: () => picture.value?.phone, set: (i) => set({ phone: i }) })
const table = computed({ get: () => picture.value?.table, set: (t) => set({ table: t }) })
</script>

<template>
  <div class="picture-picker">
    <ImageSlot
      v-model="own"
      :site="site"
      label="Picture"
      alt="The picture chosen"
      :choose="own ? 'Another' : 'Choose a picture'"
      drop="No picture"
      :none="table ? 'none for all others' : undefined"
    />
    <ImageSlot
      v-if="own"
      v-model="phone"
      :site="site"
      label="On phones"
      alt="The picture for phones"
      none="the same"
      choose="Another"
      chooses="Another picture on phones"
      drop="The same"
      drops="The same on phones"
    />
    <PictureTable v-if="picture" v-model="table" :site="site" />
    <el-checkbox
      v-if="picture"
      :model-value="!!picture.decorative"
      label="It says nothing that the words do not"
      @change="(on) => (picture = { ...picture!, decorative: on ? true : undefined })"
    />
  </div>
</template>

<style scoped>
.picture-picker {
  display: grid;
  gap: 6px;
}
</style>
