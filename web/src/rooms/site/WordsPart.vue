<script setup lang="ts">
// What the program says to visitors on every notice, in the site's own words, by language;
// and the drafts of languages that it is not ready in, which someone reads first.
import { computed, ref, watch } from 'vue'
import type { PhraseUse, Site } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { nameOf } from '../../instruments/languages'
import { mayManage } from '../../instruments/me'
import OwnWords from '../../instruments/OwnWords.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { phrasesIn } from '../../state/phrases'
import { useSite } from '../../state/sites'
import { clone } from '../../instruments/clone'

type Words = NonNullable<Site['words']>
const { refresh } = useViewpoint()
const { site, loaded: detail, change } = useSite()
const { error, busy, attempt } = useAttempts()

const languages = computed(() => {
  const s = detail.value.site
  return [...new Set([s.language, ...(s.languages ?? []), ...Object.keys(s.words ?? {})])]
})
const find = ref('')
const language = ref(detail.value.site.language)
const words = ref<Words>({})
watch(detail, (d) => (words.value = clone(d.site.words ?? {})), { immediate: true })

const list = computed(() => phrasesIn(site.value, language.value))
const mine = computed(() => words.value[language.value])
const stateOf = (tag: string) => {
  if (words.value[tag]?.unread) return 'a draft, unread'
  const state = phrasesIn(site.value, tag)?.state
  if (!state || state === 'ready' || words.value[tag]) return ''
  return state === 'draft' ? 'a draft is ready' : 'English'
}
const uses: { use: PhraseUse; title: string }[] = [
  { use: 'everywhere', title: 'On every notice' },
  { use: 'levels', title: 'On alerts' },
  { use: 'consent', title: 'On consent notices' },
  { use: 'purposes', title: 'Purposes, where they have no words of their own in Consent' },
  { use: 'buttons', title: 'On the buttons of disclaimers' },
  { use: 'answers', title: 'Around answers to disclaimers' },
]
const own = computed({
  get: () => mine.value?.words,
  set: (said) => {
    const next = { ...words.value }
    if (said) next[language.value] = { ...mine.value, words: said }
    else delete next[language.value]
    words.value = next
  },
})
function takeDraft() {
  const draft = Object.fromEntries((list.value?.rows ?? []).map((r) => [r.key, r.text]))
  words.value = { ...words.value, [language.value]: { words: { ...draft, ...mine.value?.words }, unread: true } }
}
const save = async (done: string, next = words.value) =>
  (await attempt('save', () => change(() => ({ words: next })), done)) && refresh()
const read = () =>
  save(`Visitors who read ${nameOf(language.value)} get these words now.`, {
    ...words.value,
    [language.value]: { words: mine.value?.words ?? {} },
  })
</script>

<template>
  <form @submit.prevent="save('Saved.')">
    <h2>Words on buttons</h2>
    <p>
      What the program says to visitors beside what you write. Leave a field empty, and visitors get what stands in it.
      A notice can say it differently.
    </p>
    <div class="tabs" role="group" aria-label="Language of the words">
      <button
        v-for="tag in languages"
        :key="tag"
        type="button"
        :aria-pressed="tag === language"
        @click="language = tag"
      >
        {{ nameOf(tag) }} <span v-if="stateOf(tag)" class="lacks small">{{ stateOf(tag) }}</span>
      </button>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <p v-if="mine?.unread" class="state" role="status">
      Nobody has read this draft yet. Visitors do not get it until someone has.
      <el-button v-if="mayManage" size="small" type="primary" :loading="!!busy" @click="read">I have read it</el-button>
    </p>
    <p v-else-if="list && list.state !== 'ready' && !mine" class="state" role="status">
      The program does not speak {{ nameOf(language) }}. Visitors get English words.
      <el-button v-if="list.state === 'draft' && mayManage" size="small" type="primary" @click="takeDraft"
        >Show me the draft</el-button
      >
    </p>
    <el-input v-model="find" data-find clearable placeholder="Find words" aria-label="Find words" />
    <OwnWords
      v-for="u in uses"
      :key="u.use + language"
      v-model="own"
      :site="site"
      :lang="language"
      :name="nameOf(language)"
      :uses="[u.use]"
      :title="u.title"
      :wanted="find"
    />
    <el-button v-if="mayManage" type="primary" native-type="submit" :loading="!!busy">Save</el-button>
  </form>
</template>

<style scoped>
form {
  max-width: 920px;
}
form > .own-words {
  margin-block: 10px;
}
.lacks {
  color: var(--wait);
}
.state {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
  padding: 6px 10px;
  background: var(--wait-bg);
  color: var(--wait);
}
</style>
