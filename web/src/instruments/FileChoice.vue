<script setup lang="ts">
// Files from this machine: a word to press, and what is taken; images if
// nothing is said.
const images = 'image/jpeg,image/png,image/webp,image/gif'
defineProps<{ words: string; busy: boolean; multiple?: boolean; accept?: string }>()
const emit = defineEmits<{ files: [files: File[]] }>()

function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  emit('files', [...(input.files ?? [])])
  input.value = ''
}
</script>

<template>
  <label class="file-choice">
    <input type="file" :multiple="multiple" :accept="accept ?? images" :disabled="busy" @change="chosen" />
    <span class="words">{{ busy ? 'Reading…' : words }}</span>
    <span v-if="!accept" class="quiet small">jpeg, png, webp or gif, up to 1 MB</span>
  </label>
</template>

<style scoped>
.file-choice {
  position: relative;
}
input {
  position: absolute;
  width: 1px;
  opacity: 0;
  pointer-events: none;
}
.words {
  color: var(--sea);
  text-decoration: underline;
  cursor: pointer;
}
input:focus-visible + .words {
  outline: 2px solid var(--sea);
  outline-offset: 2px;
}
</style>
