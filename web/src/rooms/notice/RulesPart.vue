<script setup lang="ts">
// Rules taken whole, from another notice or from a set that the site keeps: pages, audience,
// time and memory, each if it is wanted. And the notice's own, kept as a set.
import { computed, ref, watch } from 'vue'
import { api, type Notice, type Site } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { mayWrite } from '../../instruments/me'
import { useNames } from '../../instruments/names'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { useNotice } from './room'
import { clone } from '../../instruments/clone'

type Rules = Pick<NonNullable<Site['rules']>[number], 'pages' | 'audience' | 'schedule' | 'memory'>
type Part = keyof Rules
const { site } = useViewpoint()
const { detail, change } = useSite()
const { id, notice, undo } = useNotice()
const { names, find } = useNames(site)

const open = ref(false)
const parts: { part: Part; label: string }[] = [
  { part: 'pages', label: 'where' },
  { part: 'audience', label: 'for whom' },
  { part: 'schedule', label: 'when' },
  { part: 'memory', label: 'closing and limits' },
]
const rulesOf = (n: Rules): Rules =>
  clone(Object.fromEntries(parts.filter(({ part }) => n[part]).map(({ part }) => [part, n[part]])) as Rules)

const sets = computed(() => detail.value?.site.rules ?? [])
const others = computed(() => names.value.filter((n) => n.id !== id && n.kind !== 'code'))
/** A set by its name, or a notice by its id. */
const from = ref<string>()
const rules = ref<Rules>()
const wanted = ref<Part[]>([])
watch(from, (choice = '') =>
  attempt(async () => {
    rules.value = undefined
    const [kind, name] = [choice.slice(0, 4), choice.slice(4)] // set: or not:
    const found =
      kind === 'set:'
        ? sets.value.find((s) => s.name === name)
        : choice && (await api.notice(site.value, name, {})).notice
    if (from.value !== choice || !found) return
    rules.value = rulesOf(found)
    // What a notice does not say it has as it comes; what a set does not say is left as it is.
    wanted.value = kind === 'set:' ? parts.map((p) => p.part).filter((p) => rules.value![p]) : parts.map((p) => p.part)
  }),
)
function take() {
  if (!notice.value || !rules.value) return
  const next: Notice = { ...notice.value }
  for (const part of wanted.value)
    if (rules.value[part]) Object.assign(next, { [part]: clone(rules.value[part]) })
    else delete next[part]
  notice.value = next
  open.value = false
  from.value = undefined
  tell('Its rules are those now, in the draft.', 'success', () => undo())
}
const name = ref('')
const keep = () =>
  attempt(async () => {
    const called = name.value.trim()
    await change((s) => ({ rules: [...(s.rules ?? []), { name: called, ...rulesOf(notice.value ?? {}) }] }))
    name.value = ''
  }, 'These rules can be given to every notice now.')
</script>

<template>
  <div v-if="mayWrite" class="rules">
    <button type="button" class="word small" :aria-expanded="open" @click="open = !open">Take the rules of…</button>
    <div v-if="open" class="panel" role="group" aria-label="Take rules" @keydown.esc.stop="open = false">
      <label
        >The rules of
        <el-select
          v-model="from"
          filterable
          persistent
          remote
          :remote-method="find"
          size="small"
          aria-label="The rules of"
          placeholder="A notice, or a set of rules"
        >
          <el-option-group v-if="sets.length" label="Sets of rules">
            <el-option v-for="s in sets" :key="s.name" :value="`set:${s.name}`" :label="s.name" />
          </el-option-group>
          <el-option-group label="Notices">
            <el-option v-for="n in others" :key="n.id" :value="`not:${n.id}`" :label="n.title" />
          </el-option-group>
        </el-select>
      </label>
      <el-checkbox-group v-if="rules" v-model="wanted" size="small">
        <el-checkbox
          v-for="p in parts"
          :key="p.part"
          :value="p.part"
          :label="p.label"
          :disabled="from?.startsWith('set:') && !rules[p.part]"
        />
      </el-checkbox-group>
      <el-button size="small" type="primary" :disabled="!rules || !wanted.length" @click="take">Take them</el-button>
      <form @submit.prevent="keep">
        <el-input
          v-model="name"
          size="small"
          maxlength="100"
          placeholder="Keep these rules as…"
          aria-label="Name for these rules"
        />
        <el-button size="small" native-type="submit" :disabled="!name.trim()">Keep</el-button>
      </form>
    </div>
  </div>
</template>

<style scoped>
.rules {
  margin: -8px 0 12px;
}
/* Beside the sentence, where there is room. */
@media (min-width: 1100px) {
  .rules {
    display: flow-root;
    margin: 0;
  }
  .rules > .word {
    position: relative; /* the sentence, which is placed too, lies below it */
    float: inline-end;
    margin-top: -36px;
  }
}
.panel {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
  clear: both;
  margin: 6px 0 12px;
  padding: 10px;
  background: var(--chart);
}
label {
  display: grid;
  gap: 2px;
}
label .el-select {
  width: 260px;
}
form {
  display: flex;
  gap: 6px;
  margin-inline-start: auto;
}
</style>
