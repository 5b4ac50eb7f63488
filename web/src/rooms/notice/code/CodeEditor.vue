<script setup lang="ts">
// What a notice of kind code puts into pages: three places under one set of rules,
// read as they are written; for which purposes; what a site's policy has to allow.
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, type CodeCheck, type Notice, type SiteDetail } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import { me } from '../../../instruments/me'
import CodePlace from './CodePlace.vue'

type Content = NonNullable<Notice['content']>
type Code = NonNullable<Content['code']>
const props = defineProps<{ site?: SiteDetail }>()
const content = defineModel<Content>({ required: true })

const mayWriteCode = computed(() => me.value?.person.role === 'administrator')
const code = computed<Code>(() => content.value.code ?? {})
function set(part: Partial<Code>) {
  content.value = { ...content.value, code: changed<Code>(code.value, part) }
}
const places = [
  { key: 'head', label: 'At the end of the head' },
  { key: 'start', label: 'At the start of the body' },
  { key: 'end', label: 'At the end of the body' },
] as const

const check = ref<CodeCheck>({ faults: [], policy: [] })
let asked = 0
const look = useDebounceFn(async () => {
  if (!mayWriteCode.value) return
  const mine = ++asked
  const { head, start, end } = code.value
  const found = await api.checkCode({ head, start, end }).catch(() => undefined)
  if (found && mine === asked) check.value = found
}, 250)
watch(code, look, { immediate: true })
const faultOf = (place: string) => check.value.faults.find((f) => f.place === place)

/** What a policy has to allow, a line for each directive. */
const policy = computed(() => {
  const by = new Map<string, string[]>()
  for (const { directive, source } of check.value.policy) by.set(directive, [...(by.get(directive) ?? []), source])
  return [...by].map(([directive, sources]) => `${directive} ${sources.join(' ')};`)
})
const purposes = computed(() => props.site?.site.consent?.purposes ?? [])
const purposeName = (p: (typeof purposes.value)[number]) =>
  p.words?.[props.site?.site.language ?? '']?.name ??
  (p.id.charAt(0).toUpperCase() + p.id.slice(1)).replaceAll('-', ' ')
function toggle(id: string, on: boolean) {
  const have = code.value.purposes ?? []
  set({ purposes: on ? [...have, id] : have.filter((p) => p !== id) })
}
</script>

<template>
  <section class="code-editor" aria-label="Code">
    <p v-if="!mayWriteCode" class="note small" role="status">
      Administrators write code, and publish it. You can read it here, pause it, unpublish it, and take it off pages.
    </p>
    <CodePlace
      v-for="p in places"
      :key="p.key"
      :model-value="code[p.key] ?? ''"
      :label="p.label"
      :fault="faultOf(p.key)"
      :read-only="!mayWriteCode"
      @update:model-value="(t: string) => set({ [p.key]: t })"
    />
    <fieldset v-if="purposes.length">
      <legend>It runs once these are agreed to</legend>
      <el-checkbox
        v-for="p in purposes"
        :key="p.id"
        :model-value="code.purposes?.includes(p.id) ?? false"
        :label="purposeName(p)"
        :disabled="!mayWriteCode"
        @change="(on) => toggle(p.id, !!on)"
      />
      <p class="quiet small">With none of them it runs without asking: right only for what is strictly necessary.</p>
    </fieldset>
    <p class="quiet small">
      It runs once a page view. Unpublishing takes out what it put in; what has run has run, until the page is loaded
      again.
    </p>
    <div v-if="policy.length" class="policy small">
      <b>If the site has a Content-Security-Policy, it has to allow</b>
      <code v-for="line in policy" :key="line">{{ line }}</code>
      <span class="quiet">What scripts load by themselves cannot be known here.</span>
    </div>
  </section>
</template>

<style scoped>
.code-editor {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.code-editor > p {
  margin: 0;
}
.note {
  padding: 4px 8px;
  background: var(--wait-bg);
  color: var(--wait);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  font-weight: 600;
}
fieldset p {
  flex: 1 0 100%;
  margin: 0;
}
.policy {
  display: grid;
  gap: 4px;
  padding: 8px 10px;
  background: var(--chart);
}
.policy code {
  overflow-wrap: anywhere;
}
</style>
