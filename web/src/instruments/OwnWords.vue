<script setup lang="ts">
// Words in place of those that the program says to visitors, in one language. What a
// visitor gets where a field is left empty stands in it.
import { computed, ref } from 'vue'
import type { PhraseUse } from '../api/client'
import { phrasesIn, usual } from '../state/phrases'

/**
 * `beneath` are the site's words, which hold where these say nothing. Under a `title` the rows are found from outside,
 * by `wanted`.
 */
const props = defineProps<{
  site: string
  lang: string
  name: string
  uses: PhraseUse[]
  beneath?: Record<string, string>
  title?: string
  wanted?: string
}>()
const own = defineModel<Record<string, string> | undefined>({ required: true })

const list = computed(() => phrasesIn(props.site, props.lang))
const find = ref('')
const rows = computed(() => {
  const wanted = (props.title ? (props.wanted ?? '') : find.value).toLowerCase()
  const found = (list.value?.rows ?? []).filter(
    (r) =>
      props.uses.includes(r.use) &&
      [r.means, r.english, r.text, own.value?.[r.key] ?? ''].some((s) => s.toLowerCase().includes(wanted)),
  )
  // What is the notice's kind alone comes first.
  return found.sort((a, b) => props.uses.indexOf(a.use) - props.uses.indexOf(b.use))
})
const many = computed(() => (list.value?.rows.filter((r) => props.uses.includes(r.use)).length ?? 0) > 8)

function say(key: string, words: string) {
  const next = { ...own.value }
  if (words.trim()) next[key] = words
  else delete next[key]
  own.value = Object.keys(next).length ? next : undefined
}
</script>

<template>
  <div v-if="rows.length || !title" class="own-words">
    <h3 v-if="title">{{ title }}</h3>
    <el-input
      v-else-if="many"
      v-model="find"
      size="small"
      clearable
      placeholder="Find"
      :aria-label="`Find words, ${name}`"
    />
    <div class="rows">
      <label v-for="r in rows" :key="r.key">
        <span class="means small">{{ r.means }}</span>
        <el-input
          :model-value="own?.[r.key] ?? ''"
          size="small"
          :type="r.limit > 100 ? 'textarea' : 'text'"
          :autosize="{ minRows: 1, maxRows: 4 }"
          :maxlength="r.limit"
          :placeholder="usual(list!, r.key, beneath)"
          :lang="lang"
          dir="auto"
          :aria-label="`${r.means}, ${name}`"
          @update:model-value="(v: string) => say(r.key, v)"
        />
      </label>
    </div>
    <p v-if="!rows.length && list && !title" class="quiet small">None fits “{{ find }}”.</p>
  </div>
</template>

<style scoped>
.own-words {
  display: grid;
  gap: 8px;
  container-type: inline-size;
}
.rows {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px 16px;
}
h3 {
  margin: 6px 0 0;
  font-size: 14px;
}
label {
  display: grid;
  gap: 2px;
  align-content: start;
}
.means {
  color: var(--ink-2);
}
p {
  margin: 0;
}
@container (min-width: 34em) {
  .rows {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
