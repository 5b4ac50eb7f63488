<script setup lang="ts">
// The theme of a notice: one that the site keeps, chosen whole; or its own look, kept as a
// theme for others.
import { computed, ref } from 'vue'
import type { Notice, Site } from '../../../api/client'
import { attempt } from '../../../instruments/attempts'
import { mayWrite } from '../../../instruments/me'
import { tell } from '../../../instruments/tell'
import { useSite } from '../../../state/sites'

type Look = NonNullable<Notice['look']>
const props = defineProps<{ site: Site }>()
const look = defineModel<Look>({ required: true })
const { change } = useSite()

const themes = computed(() => props.site.themes ?? [])
/** What it says of its look itself; its icon is no part of a theme. */
const own = computed(() => Object.keys(look.value).filter((k) => k !== 'theme' && k !== 'icon'))
/** What a theme says is no longer said by the notice; its icon stays. */
function choose(name: string) {
  const before = look.value
  const loses = own.value.length > 0
  const { icon } = before
  look.value = { ...(icon && { icon }), ...(name && { theme: name }) }
  if (loses)
    tell(name ? `It has the theme “${name}” now.` : 'It has no theme now.', 'success', () => (look.value = before))
}
const name = ref('')
const keeping = ref(false)
const keep = () =>
  attempt(async () => {
    const called = name.value.trim()
    const rest = { ...look.value }
    delete rest.theme
    const { icon } = rest
    delete rest.icon
    await change((s) => ({ themes: [...(s.themes ?? []), { name: called, look: rest }] }))
    look.value = { ...(icon && { icon }), theme: called }
    keeping.value = false
    name.value = ''
  }, 'The theme is kept. It is in the Library, and other notices can have it.')
</script>

<template>
  <div v-if="themes.length || own.length" class="theme">
    <span class="label">Theme</span>
    <el-select
      v-if="themes.length"
      :empty-values="[null, undefined]"
      :model-value="look.theme ?? ''"
      size="small"
      aria-label="Theme"
      @change="(v: string) => choose(v)"
    >
      <el-option value="" label="none, colours of its own" />
      <el-option v-for="t in themes" :key="t.name" :value="t.name" :label="t.name">
        <span class="chip" :style="{ background: t.look.background }"></span> {{ t.name }}
      </el-option>
    </el-select>
    <span v-if="look.theme && own.length" class="quiet small">and looks of its own besides</span>
    <template v-if="mayWrite && own.length">
      <el-button v-if="!keeping" size="small" text @click="keeping = true">Keep this look as a theme</el-button>
      <form v-else @submit.prevent="keep">
        <el-input v-model="name" size="small" maxlength="100" aria-label="Name of the theme" placeholder="Its name" />
        <el-button size="small" native-type="submit" :disabled="!name.trim()">Keep</el-button>
      </form>
    </template>
  </div>
</template>

<style scoped>
.theme,
form {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.el-select {
  width: 200px;
}
.label {
  font-weight: 600;
}
.chip {
  display: inline-block;
  width: 14px;
  height: 14px;
  margin-inline-end: 4px;
  border: 1px solid var(--ink-2);
  vertical-align: -2px;
}
</style>
