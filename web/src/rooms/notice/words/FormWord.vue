<script setup lang="ts">
// What becomes of what visitors fill in: how long it is kept, whether its address is confirmed,
// what follows, and where it is passed on to.
import { computed, ref } from 'vue'
import type { Notice, NoticeName, Part } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import OptionField from '../../../instruments/OptionField.vue'
import PeriodChoice from '../../../instruments/PeriodChoice.vue'
import { withOwn } from '../../../instruments/options'
import { partsOf } from '../block/rows'

type Content = NonNullable<Notice['content']>
type Form = NonNullable<Content['form']>
type Then = NonNullable<NonNullable<Form['after']>['then']>

const props = defineProps<{ language: string; notices: NoticeName[] }>()
const notice = defineModel<Notice>({ required: true })
const content = computed(() => notice.value.content ?? {})
const form = computed<Form>(() => content.value.form ?? {})
function set(change: { [K in keyof Form]?: Form[K] | undefined }) {
  notice.value = { ...notice.value, content: { ...content.value, form: changed(form.value, change) } }
}
const called = (p: Part) => content.value.wordings?.[props.language]?.parts?.[p.id]?.heading || p.id
const addresses = computed(() =>
  partsOf(content.value.rows ?? [])
    .filter((p) => p.field?.kind === 'email')
    .map((p) => ({ value: p.id, label: called(p) })),
)
const periods = [
  { value: 'P30D', label: '30 days' },
  { value: 'P6M', label: '6 months' },
  { value: 'P1Y', label: 'a year' },
  { value: 'P3Y', label: '3 years' },
]
const keep = computed({ get: () => form.value.keep ?? 'P1Y', set: (v) => set({ keep: v === 'P1Y' ? undefined : v }) })
const followUps: { value: Then; label: string }[] = [
  { value: 'message', label: 'its words alone' },
  { value: 'page', label: 'a page' },
  { value: 'file', label: 'a file' },
  { value: 'notice', label: 'another notice' },
]
const follows = computed<Then>({
  get: () => form.value.after?.then ?? 'message',
  set: (v) => set({ after: v === 'message' ? undefined : { then: v } }),
})
const to = computed({
  get: () => form.value.after?.to ?? '',
  set: (v) => set({ after: { then: follows.value, to: v.trim() } }),
})
const titles = computed(() =>
  withOwn(
    props.notices.map((n) => ({ value: n.id, label: n.title })),
    to.value || undefined,
  ),
)
/** As they are typed; what is empty is not kept. */
const receivers = ref((form.value.passOn ?? []).map((r) => r.mail ?? r.address ?? ''))
function keepReceivers() {
  const list = receivers.value
    .map((v) => v.trim())
    .filter(Boolean)
    .map((v) => (/^https?:/.test(v) ? { address: v } : { mail: v }))
  set({ passOn: list.length ? list : undefined })
}
function removeReceiver(at: number) {
  receivers.value.splice(at, 1)
  keepReceivers()
}
const away = computed({
  get: () => notice.value.memory?.answered ?? '',
  set: (v) => {
    const memory = { ...notice.value.memory, answered: v }
    if (!v) delete (memory as { answered?: string }).answered
    notice.value = { ...notice.value, memory }
  },
})
const aways = [
  { value: '', label: 'it comes back all the same' },
  { value: 'session', label: 'it stays away for the rest of the visit' },
  { value: 'P30D', label: 'it stays away for 30 days' },
  { value: 'P1Y', label: 'it stays away for a year' },
  { value: 'ever', label: 'it stays away for good' },
]
</script>

<template>
  <div class="form-word">
    <label
      >What was sent is kept for
      <PeriodChoice v-model="keep" label="How long it is kept" :usual="periods" />
    </label>
    <label v-if="addresses.length"
      >It counts
      <el-select
        :empty-values="[null, undefined]"
        :model-value="form.confirm ?? ''"
        aria-label="Whether an address is confirmed"
        @change="(v: string) => set({ confirm: v || undefined })"
      >
        <el-option value="" label="at once" />
        <el-option
          v-for="a in addresses"
          :key="a.value"
          :value="a.value"
          :label="`once a letter to “${a.label}” was answered`"
        />
      </el-select>
    </label>
    <label
      >Afterwards they get
      <OptionField v-model="follows" label="What follows" :options="followUps" />
    </label>
    <label v-if="follows === 'page' || follows === 'file'"
      >It lies at
      <el-input v-model="to" aria-label="Where it lies" placeholder="/thanks or https://…" />
    </label>
    <label v-if="follows === 'notice'"
      >It is
      <el-select v-model="to" filterable persistent aria-label="The notice that follows">
        <el-option v-for="n in titles" :key="n.value" :value="n.value" :label="n.label" />
      </el-select>
      <span class="quiet small">It then shows to nobody else.</span>
    </label>
    <label
      >Once they have sent it
      <OptionField v-model="away" label="What becomes of the notice" :options="aways" />
    </label>
    <fieldset>
      <legend>Passed on to</legend>
      <div v-for="(_, at) in receivers" :key="at" class="receiver">
        <el-input
          v-model="receivers[at]"
          :aria-label="`Receiver ${at + 1}`"
          placeholder="E-mail or web address"
          @change="keepReceivers"
        />
        <el-button size="small" text :aria-label="`Remove receiver ${at + 1}`" @click="removeReceiver(at)">✕</el-button>
      </div>
      <el-button v-if="receivers.length < 10" size="small" @click="receivers.push('')"
        >Add an e-mail or web address</el-button
      >
      <p class="quiet small">
        Web addresses get it as JSON, signed. How each went, and the secret of the signatures, stands in Results.
      </p>
    </fieldset>
    <p class="quiet small">What is asked stands below the words: choose a field there to change it.</p>
  </div>
</template>

<style scoped>
.form-word,
fieldset {
  display: grid;
  gap: 10px;
}
.form-word > label {
  display: grid;
  gap: 2px;
}
fieldset {
  margin: 0;
  padding: 0;
  border: 0;
  gap: 6px;
  justify-items: start;
}
.receiver {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px;
  width: 100%;
}
p {
  margin: 0;
}
</style>
