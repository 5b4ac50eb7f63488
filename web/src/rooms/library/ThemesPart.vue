<script setup lang="ts">
// Themes: looks under names, for notices that have them. Changed once, they change on all of
// these; made from the site's own colours at a press.
import { computed, ref } from 'vue'
import { api, type Site, type ThemeCard, type ThemeList } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import ColourEditor from '../notice/look/ColourEditor.vue'
import LookEditor from '../notice/look/LookEditor.vue'
import { clone } from '../../instruments/clone'

type Theme = NonNullable<Site['themes']>[number]
const props = defineProps<{ find: string }>()
const { refresh } = useViewpoint()
const { site, loaded: detail, change } = useSite()
const { error, busy, attempt } = useAttempts()
const list = ref<ThemeList>({ themes: [], proposed: [] })
const load = async () => void (list.value = await api.themes(site.value))
void attempt('open', load)

const shown = computed(() => list.value.themes.filter((t) => t.name.toLowerCase().includes(props.find.toLowerCase())))
const editing = ref<Theme & { was: string }>()
const keep = (themes: Theme[], done: string, undo?: Theme[]) =>
  attempt('keep', async () => {
    await change(() => ({ themes }))
    await load()
    void refresh()
    tell(done, 'success', undo && (() => void keep(undo, 'It is back.')))
  })
const themes = () => detail.value.site.themes ?? []
const add = (t: ThemeCard) => keep([...themes(), { name: t.name, look: t.look }], `“${t.name}” is a theme now.`)
const drop = (t: ThemeCard) =>
  keep(
    themes().filter((x) => x.name !== t.name),
    `“${t.name}” is removed.`,
    themes(),
  )
function edit(t: ThemeCard) {
  editing.value = clone({ name: t.name, look: t.look, was: t.name })
}
async function save() {
  const { name, look, was } = editing.value!
  const users = list.value.themes.find((t) => t.name === was)?.usedBy ?? []
  const done = users.length
    ? `Changed on ${users.length === 1 ? `“${users[0]}”` : `${users.length} notices`}, for visitors too.`
    : 'Saved.'
  if (
    await keep(
      themes().map((t) => (t.name === was ? { name, look } : t)),
      done,
    )
  )
    editing.value = undefined
}
const uses = (t: ThemeCard) => (t.usedBy.length ? `on ${t.usedBy.map((u) => `“${u}”`).join(', ')}` : 'on no notice yet')
const sample = (t: ThemeCard) => ({ background: t.background, color: t.text })
const button = (t: ThemeCard) =>
  t.button ? { background: t.button, color: t.buttonText, borderColor: t.button } : { borderColor: t.text }
</script>

<template>
  <section v-if="list.themes.length || (mayWrite && list.proposed.length && !find)" aria-labelledby="themes">
    <h2 id="themes">Themes</h2>
    <p class="quiet">
      Field, words, icon and buttons together. Notices have a theme by its name: change it here, and all of them change.
    </p>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <ul class="plainlist themes">
      <li v-for="t in shown" :key="t.name" :data-theme="t.name">
        <div class="sample" :style="sample(t)" aria-hidden="true">
          <span>Aa</span><span class="button" :style="button(t)">Aa</span>
        </div>
        <div>
          <b>{{ t.name }}</b>
          <p class="small quiet">{{ uses(t) }}</p>
        </div>
        <div v-if="mayWrite" class="act">
          <el-button size="small" :aria-label="`Change ${t.name}`" @click="edit(t)">Change</el-button>
          <el-button v-if="!t.usedBy.length" size="small" text :aria-label="`Remove ${t.name}`" @click="drop(t)"
            >✕</el-button
          >
        </div>
        <form v-if="editing?.was === t.name" class="editor" @submit.prevent="save">
          <label
            >Name <el-input v-model="editing.name" size="small" maxlength="100" :disabled="!!t.usedBy.length"
          /></label>
          <ColourEditor v-model="editing.look" :palette="detail.site.palette" legend="Colours" />
          <LookEditor v-model="editing.look" :site="site" :detail="detail.site" :card="false" theme />
          <div>
            <el-button type="primary" size="small" native-type="submit" :loading="!!busy">Save</el-button>
            <el-button size="small" @click="editing = undefined">Cancel</el-button>
          </div>
        </form>
      </li>
    </ul>
    <div v-if="mayWrite && list.proposed.length && !find" class="proposed">
      <span class="small">From the site’s colours, easy to read:</span>
      <button
        v-for="t in list.proposed"
        :key="t.name"
        type="button"
        :style="sample(t)"
        :aria-label="`Keep the theme ${t.name}`"
        @click="add(t)"
      >
        {{ t.name }} <span class="patch" :style="button(t)"></span>
      </button>
    </div>
  </section>
</template>

<style scoped>
.themes li {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.sample,
.proposed > button {
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.button {
  padding: 1px 8px;
  border: 2px solid;
  border-radius: 3px;
  font-size: 13px;
}
.patch {
  width: 28px;
  height: 16px;
  border: 2px solid;
  border-radius: 3px;
}
p {
  margin: 0;
}
.editor {
  display: grid;
  grid-column: 1 / -1;
  gap: 10px;
  max-width: 620px;
  padding: 10px 0;
}
.proposed {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-top: 10px;
}
.proposed > button {
  font: inherit;
  cursor: pointer;
}
.act .el-button + .el-button {
  margin: 0;
}
</style>
