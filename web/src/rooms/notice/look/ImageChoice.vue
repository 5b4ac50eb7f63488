<script setup lang="ts">
// One of the site's images, or a file from this machine, which is kept with them.
import { ref } from 'vue'
import { api, type ImageDetail } from '../../../api/client'
import { useAttempts } from '../../../instruments/attempts'
import FileChoice from '../../../instruments/FileChoice.vue'
import { base64 } from '../../../instruments/file'

const props = defineProps<{ site: string }>()
const emit = defineEmits<{ take: [image: ImageDetail & { file: string }] }>()

const images = ref<ImageDetail[]>([])
const { error, busy, attempt } = useAttempts()
void attempt('open', async () => (images.value = (await api.images(props.site)).images))
const take = (i: ImageDetail) => i.file && emit('take', { ...i, file: i.file })
async function upload([file]: File[]) {
  if (!file) return
  await attempt('upload', async () => {
    const data = await base64(file)
    images.value = (await api.addImage(props.site, { name: file.name, data })).images
    take(images.value[0]!)
  })
}
</script>

<template>
  <div class="choice">
    <FileChoice words="From this machine" :busy="busy === 'upload'" @files="upload" />
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
    <p v-if="error" class="error small" role="alert">{{ error }}</p>
  </div>
</template>

<style scoped>
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
