<script setup lang="ts">
// The next version of a document: what changed as words in and out, what is
// proposed and why, and the decision; and the versions there were.
import { computed, ref, watch } from 'vue'
import { api, type DocumentDetail } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { nameOf } from '../../instruments/languages'
import { mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const props = defineProps<{
  detail: DocumentDetail
  language: string
  site: string
  save: () => Promise<boolean>
  mark: () => string
}>()
const emit = defineEmits<{ published: [detail: DocumentDetail] }>()
const { view } = useViewpoint()

const proposal = computed(() => props.detail.proposal)
const change = ref<'editorial' | 'material'>(proposal.value.change)
const why = ref('')
watch(
  () => proposal.value.change,
  (c) => (change.value = c),
)
const { error, busy, attempt } = useAttempts()
const main = computed(() => props.detail.languages[0]?.tag ?? 'en')
const ready = computed(() => proposal.value.languages.includes(main.value))
/** Languages that the version which is out has, and the next would not. */
const lost = computed(() =>
  props.detail.languages.filter((l) => l.out && !proposal.value.languages.includes(l.tag)).map((l) => l.tag),
)
const open = computed(() => props.detail.points.filter((p) => p.state === 'open').length)
/** Stretches that did not change are shortened to what stands beside a change. */
const pieces = computed(() =>
  props.detail.changed.map((p) => {
    const words = p.text.split(/(?<=\s)/)
    return p.op === 'same' && words.length > 24
      ? { ...p, text: `${words.slice(0, 8).join('')}… ${words.slice(-8).join('')}` }
      : p
  }),
)

const publish = () =>
  attempt('publish', async () => {
    if (!(await props.save())) return
    const body = { mark: props.mark(), change: change.value, why: why.value, language: props.language }
    const d = await api.publishDocument(props.site, props.detail.id, body)
    why.value = ''
    tell(`Version ${d.version} is published.`)
    emit('published', d)
  })
</script>

<template>
  <section aria-labelledby="version">
    <h2 id="version">The next version</h2>
    <template v-if="proposal.nothing">
      <p class="quiet">Nothing has changed since version {{ detail.version }}.</p>
    </template>
    <template v-else>
      <details v-if="pieces.length" open>
        <summary>What changes in {{ nameOf(language) }}</summary>
        <p class="pieces">
          <template v-for="(p, i) in pieces" :key="i"
            ><ins v-if="p.op === 'in'">{{ p.text }}</ins
            ><del v-else-if="p.op === 'out'">{{ p.text }}</del
            ><span v-else>{{ p.text }}</span></template
          >
        </p>
      </details>
      <p>
        Proposed: <b>{{ proposal.change }}</b>. {{ proposal.why }}
      </p>
      <template v-if="mayWrite">
        <el-radio-group v-if="detail.version" v-model="change" aria-label="What kind of change">
          <el-radio value="editorial">Editorial: only words. What was acknowledged holds.</el-radio>
          <el-radio value="material">Material: it says something else. It is acknowledged anew.</el-radio>
        </el-radio-group>
        <label v-if="detail.version"
          >Why, for the list of versions
          <el-input v-model="why" aria-label="Why this version" :placeholder="proposal.why" maxlength="300" />
        </label>
        <p v-if="!ready" class="wait">
          The text in {{ nameOf(main) }} has parts without words. Answer the open questions, or write them by hand.
        </p>
        <p v-if="lost.length" class="wait">
          Version {{ detail.version }} is there in {{ lost.map(nameOf).join(' and ') }} too, and this one would not be:
          parts have no words there yet.
        </p>
        <p v-if="ready" class="quiet small">
          In {{ proposal.languages.map(nameOf).join(', ') }}.
          <span v-if="open" class="wait">{{ open }} {{ open === 1 ? 'item is' : 'items are' }} still open.</span>
        </p>
        <el-button type="primary" :loading="!!busy" :disabled="!ready" @click="publish"
          >Publish version {{ proposal.number }}</el-button
        >
      </template>
      <p v-if="error" class="error" role="alert">{{ error }}</p>
    </template>
    <template v-if="detail.versions.length">
      <h3>Versions</h3>
      <ol class="plainlist versions">
        <li v-for="v in detail.versions" :key="v.number">
          <a :href="v.address" target="_blank" rel="noopener">Version {{ v.number }}</a>
          <span class="figures"> {{ view && say(v.at, view.zone) }}</span>, {{ v.change
          }}<template v-if="v.by">, {{ v.by }}</template
          ><template v-if="v.change !== v.proposed"> ({{ v.proposed }} was proposed)</template> <br /><span
            v-if="v.why"
            class="small quiet"
            >{{ v.why }}</span
          >
        </li>
      </ol>
    </template>
  </section>
</template>

<style scoped>
p,
.el-radio-group {
  margin: 6px 0;
}
.el-radio-group {
  display: grid;
  justify-items: start;
}
.el-radio {
  height: auto;
  min-height: 26px;
  white-space: normal;
}
label:not(.el-radio) {
  display: grid;
  gap: 2px;
}
h3 {
  margin-top: 16px;
  font-size: 14px;
}
.pieces {
  max-height: 220px;
  overflow-y: auto;
  padding: 8px 10px;
  border: 1px solid var(--line);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
ins {
  background: color-mix(in srgb, var(--live) 18%, var(--sail));
}
del {
  background: color-mix(in srgb, var(--alarm) 14%, var(--sail));
}
.wait {
  color: var(--wait);
}
.versions li {
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
summary {
  cursor: pointer;
}
</style>
