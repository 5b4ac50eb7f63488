<script setup lang="ts">
// One section of the text: as it is computed, or as it was written by hand, beside
// what it is written after in another language.
import { computed, defineAsyncComponent, ref } from 'vue'
import type { DocumentSection } from '../../api/client'

const RichText = defineAsyncComponent(() => import('../notice/RichText.vue'))

const props = defineProps<{
  section: DocumentSection
  language: string
  languageName: string
  /** It is written after a text in another language. */
  beside: boolean
  /** The sources of the items that it says. */
  says: string
  marked: boolean
  disabled?: boolean
}>()
/** What is written by hand; "" for nothing. */
const own = defineModel<string>({ required: true })
const emit = defineEmits<{ choose: []; again: []; drop: [] }>()

const writing = ref(false)
const name = computed(() => props.section.title || (props.section.id === 'more' ? 'More to say' : 'Text'))
function write() {
  if (!own.value) own.value = props.section.from === 'missing' ? '' : props.section.html
  writing.value = true
}
/** The computed text comes back. */
function drop() {
  emit('drop')
  writing.value = false
}
const sides = computed(() => props.beside && (writing.value || props.section.from === 'again'))
</script>

<template>
  <section class="section" :class="[section.from, { marked }]" :data-section="section.id" :aria-label="name">
    <div class="bar">
      <button
        v-if="says"
        type="button"
        class="word small"
        :aria-label="`What ${name} says: ${says}`"
        @click="emit('choose')"
      >
        {{ says }}
      </button>
      <span v-if="section.from === 'own'" class="quiet small">written by hand</span>
      <span v-if="section.from === 'again'" class="wait small" role="status"
        >{{ own ? 'what it was written beside has changed' : 'the original was written by hand' }}
        <el-button v-if="own && !disabled" size="small" @click="emit('again')">It still holds</el-button></span
      >
      <span v-if="section.from === 'missing'" class="wait small">no words in {{ languageName }} yet</span>
      <span class="grow"></span>
      <template v-if="!disabled">
        <button v-if="!writing" type="button" class="word small" :aria-label="`Write by hand: ${name}`" @click="write">
          {{ own ? 'change' : 'write by hand' }}
        </button>
        <button v-else type="button" class="word small" @click="writing = false">done</button>
        <button
          v-if="own"
          type="button"
          class="word small"
          :aria-label="`${section.source && !beside ? 'As computed' : 'Take out'}: ${name}`"
          @click="drop"
        >
          {{ section.source && !beside ? 'as computed' : 'take out' }}
        </button>
      </template>
    </div>
    <div :class="{ sides }">
      <!-- eslint-disable-next-line vue/no-v-html -- the server sanitises it -->
      <div v-if="sides || (!writing && section.from === 'missing')" class="prose source" v-html="section.source"></div>
      <RichText
        v-if="writing"
        :model-value="own"
        document
        :label="`${name}, in ${languageName}`"
        :lang="language"
        @update:model-value="(t) => (own = t)"
      />
      <!-- eslint-disable-next-line vue/no-v-html -- the server sanitises it -->
      <div v-else class="prose" :lang="language" v-html="section.html"></div>
    </div>
  </section>
</template>

<style scoped>
.section {
  padding: 2px 10px 8px;
  border-inline-start: 3px solid transparent;
}
.section.marked {
  border-color: var(--sea);
  background: var(--chart);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
  min-height: 22px;
}
.grow {
  flex: 1;
}
.wait {
  color: var(--wait);
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 16px;
}
.source {
  color: var(--ink-2);
}
.prose {
  overflow-wrap: anywhere;
}
.prose :deep(h2) {
  margin: 0 0 4px;
  font-size: 16px;
}
.prose :deep(h3) {
  margin: 8px 0 2px;
  font-size: 14px;
}
.prose :deep(:is(p, ul, ol)) {
  margin: 0 0 6px;
}
.prose :deep(:is(ul, ol)) {
  padding-inline-start: 20px;
}
.prose :deep(table) {
  border-collapse: collapse;
  font-size: 12px;
}
.prose :deep(:is(td, th)) {
  padding: 3px 10px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}
@media (max-width: 700px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
