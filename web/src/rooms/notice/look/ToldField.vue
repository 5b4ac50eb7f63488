<script setup lang="ts">
// Which of the things that the site tells of a visitor: a trait, or what was told with the last of an event.
import { computed } from 'vue'
import TextField from '../../../instruments/TextField.vue'
import { formOf, labelOf, nameIn, namesOf, useFacts } from '../audience/facts'

const name = defineModel<string>({ required: true })

const list = useFacts()
const forms = computed(() => (list.value?.facts ?? []).filter((f) => f.kind === 'trait' && namesOf(f).length))
const form = computed(() => formOf(forms.value, name.value))
const rename = (at: number, to: string) => {
  const { fact, own } = form.value
  if (fact && /^[\w-]{1,100}$/.test(to.trim())) name.value = nameIn(fact.name, own.with(at, to.trim()))
}
</script>

<template>
  <el-select
    :model-value="form.fact?.name"
    size="small"
    aria-label="What the site tells"
    @change="(f: string) => (name = nameIn(f, []))"
  >
    <el-option v-for="f in forms" :key="f.name" :value="f.name" :label="labelOf(f, [])" />
  </el-select>
  <TextField
    v-for="(what, at) in form.fact ? namesOf(form.fact) : []"
    :key="at"
    :model-value="form.own[at]"
    size="small"
    :aria-label="what"
    @change="(to) => rename(at, to)"
  />
</template>

<style scoped>
.el-select {
  width: 200px;
}
.el-input {
  width: 110px;
}
</style>
