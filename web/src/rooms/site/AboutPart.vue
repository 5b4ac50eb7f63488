<script setup lang="ts">
// About the site: its name, addresses, languages, and the colours and fonts
// offered for notices, which can be taken from the site's own styles.
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, type Site, type Styles } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import LanguageChoice from '../../instruments/LanguageChoice.vue'
import { nameOf } from '../../instruments/languages'
import { mayManage } from '../../instruments/me'
import PageChoice from '../../instruments/PageChoice.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { clone } from '../../instruments/clone'

const { refresh } = useViewpoint()
const { site, loaded: detail, change } = useSite()
const { error, busy, attempt } = useAttempts()
const draft = ref<Site>({ key: '', name: '', timeZone: '', language: '' })
const origins = ref('')
const languages = ref<string[]>([])
const homes = ref<string[]>([])
const zones = Intl.supportedValuesOf('timeZone')
type FillIns = NonNullable<Site['fillIns']>
const fillIns = ref<FillIns>({})

watch(
  detail,
  (d) => {
    draft.value = clone(d.site)
    origins.value = (d.site.origins ?? []).join('\n')
    languages.value = [...(d.site.languages ?? [])]
    homes.value = [...(d.site.homePaths ?? [])]
    fillIns.value = clone(d.site.fillIns ?? {})
  },
  { immediate: true },
)
// Languages that pages are in and the site is not, and sections whose pages do not say theirs.
const offered = computed(() => detail.value.otherLanguages.filter((l) => !languages.value.includes(l.language)))
const silent = computed(() =>
  detail.value.silent.filter((s) => !draft.value.sectionLanguages?.some((x) => x.path === s.path)),
)
const ofSite = computed(() => [...new Set([draft.value.language, ...languages.value])].filter(Boolean))
const pages = (n: number) => (n === 1 ? 'one page' : `${n.toLocaleString('en-GB')} pages`)
const addSection = (path: string) =>
  (draft.value.sectionLanguages = [
    ...(draft.value.sectionLanguages ?? []),
    { path, language: ofSite.value.find((l) => l !== draft.value.language) ?? draft.value.language },
  ])
/** What is said of them; nothing where all are empty. */
function saidFillIns(): FillIns | undefined {
  const { hours = {}, ...rest } = fillIns.value
  const said: FillIns = Object.fromEntries(Object.entries(rest).filter(([, v]) => v?.trim()))
  const open = Object.entries(hours).filter(([, v]) => v.trim())
  if (open.length) said.hours = Object.fromEntries(open)
  return Object.keys(said).length ? said : undefined
}
// Whoever comes for one setting finds it in sight.
const { hash } = useRoute()
onMounted(() => hash && document.getElementById(hash.slice(1))?.scrollIntoView({ block: 'center' }))
/** Pages behind a # that reading found links to. */
const routes = computed(() => (detail.value.site.routes ? [] : (detail.value.survey?.routes ?? [])))
const noStorage = computed({
  get: () => draft.value.noStorage ?? 'all',
  set: (v) => (draft.value.noStorage = v === 'all' ? undefined : v),
})
const words = (s: string) => s.split(/[\s,]+/).filter(Boolean)
async function save() {
  const written = {
    ...draft.value,
    origins: words(origins.value),
    languages: languages.value,
    homePaths: homes.value,
    fillIns: saidFillIns(),
  }
  if (await attempt('save', () => change(() => written), 'Saved.')) await refresh()
}

// Colours and fonts from the site's own styles.
const styles = ref<Styles>()
const readStyles = () =>
  attempt('styles', async () => {
    styles.value = await api.styles(site.value)
    if (!styles.value.colours.length && !styles.value.fonts.length)
      throw new Error('The site’s styles name no colours or fonts of their own.')
  })
const found = computed(() =>
  (styles.value?.colours ?? []).filter((c) => !draft.value.palette?.some((p) => p.value === c.value)),
)
const fonts = computed(() => (styles.value?.fonts ?? []).filter((f) => !draft.value.fonts?.includes(f)))
const add = (c: Styles['colours'][number]) =>
  (draft.value.palette = [
    ...(draft.value.palette ?? []),
    { name: c.name.replaceAll('-', ' ') || c.value, value: c.value },
  ])
</script>

<template>
  <form @submit.prevent="save">
    <h2>About the site</h2>
    <label>Name <el-input v-model="draft.name" /></label>
    <label>
      Addresses, one a line
      <el-input v-model="origins" type="textarea" :autosize="{ minRows: 2 }" placeholder="https://www.example.org" />
      <span class="quiet small">Only pages of these may show notices. With and without www. count as one.</span>
    </label>
    <label>
      Time zone
      <el-select v-model="draft.timeZone" filterable persistent aria-label="Time zone"
        ><el-option v-for="z in zones" :key="z" :value="z" :label="z"
      /></el-select>
    </label>
    <div class="pair">
      <label>Main language <LanguageChoice v-model="draft.language" label="Main language" /></label>
      <label>All languages <LanguageChoice v-model="languages" label="All languages" multiple /></label>
    </div>
    <div v-if="offered.length" class="found">
      <span class="small">Pages are also in</span>
      <button v-for="l in offered" :key="l.language" type="button" @click="languages = [...languages, l.language]">
        Add {{ nameOf(l.language) }} <span class="quiet">{{ pages(l.pages) }}</span>
      </button>
    </div>
    <fieldset v-if="silent.length || draft.sectionLanguages?.length">
      <legend>Pages that do not say their language</legend>
      <p class="quiet small">They count as {{ nameOf(draft.language) }}, unless their section has a language here.</p>
      <div v-for="(s, i) in draft.sectionLanguages" :key="i" class="colour">
        <el-input v-model="s.path" :aria-label="`Section ${i + 1}`" />
        <el-select v-model="s.language" filterable persistent :aria-label="`Language of ${s.path}`"
          ><el-option v-for="l in ofSite" :key="l" :value="l" :label="nameOf(l)"
        /></el-select>
        <el-button text :aria-label="`Remove section ${s.path}`" @click="draft.sectionLanguages!.splice(i, 1)"
          >✕</el-button
        >
      </div>
      <div v-if="silent.length" class="found">
        <button v-for="s in silent" :key="s.path" type="button" @click="addSection(s.path)">
          {{ s.path === '/' ? 'the whole site' : s.path }} <span class="quiet">{{ pages(s.pages) }}</span>
        </button>
      </div>
    </fieldset>
    <label
      >Home pages <PageChoice v-model="homes" label="Home pages" :known="detail.pages" placeholder="/" />
      <span class="quiet small">One for each language, where they are apart.</span></label
    >
    <fieldset>
      <legend>Said in notices</legend>
      <p class="quiet small">
        Written once here, and put where a text leaves a place for it: {name}, {telephone}, {email}, {address}, {hours}.
      </p>
      <label
        >Name <el-input v-model="fillIns.name" :placeholder="draft.name" maxlength="200" aria-label="Name said"
      /></label>
      <div class="pair">
        <label>Telephone <el-input v-model="fillIns.telephone" type="tel" maxlength="40" /></label>
        <label>E-mail <el-input v-model="fillIns.email" type="email" maxlength="320" /></label>
      </div>
      <label
        >Address <el-input v-model="fillIns.address" type="textarea" :autosize="{ minRows: 1 }" maxlength="500"
      /></label>
      <label v-for="l in ofSite" :key="l"
        >Opening hours, {{ nameOf(l) }}
        <el-input
          :model-value="fillIns.hours?.[l] ?? ''"
          :lang="l"
          dir="auto"
          maxlength="500"
          @update:model-value="(v: string) => (fillIns.hours = { ...fillIns.hours, [l]: v })"
        />
      </label>
    </fieldset>
    <fieldset>
      <legend>Colours offered for notices</legend>
      <div v-for="(c, i) in draft.palette" :key="i" class="colour">
        <input v-model="c.value" type="color" :aria-label="`Colour ${i + 1}`" />
        <el-input v-model="c.name" :aria-label="`Name of colour ${i + 1}`" />
        <el-button text :aria-label="`Remove colour ${i + 1}`" @click="draft.palette!.splice(i, 1)">✕</el-button>
      </div>
      <div class="ways">
        <el-button
          size="small"
          @click="draft.palette = [...(draft.palette ?? []), { name: 'Colour', value: '#0b5a66' }]"
          >Add a colour</el-button
        >
        <el-button size="small" :loading="!!busy" @click="readStyles">Find the site’s own</el-button>
      </div>
      <div v-if="found.length" class="found">
        <button v-for="c in found" :key="c.value" type="button" :title="`Used ${c.times} times`" @click="add(c)">
          <span class="chip" :style="{ background: c.value }"></span> {{ c.name || c.value }}
        </button>
      </div>
    </fieldset>
    <fieldset>
      <legend>Fonts offered for notices</legend>
      <div v-for="(_, i) in draft.fonts" :key="i" class="colour">
        <el-input v-model="draft.fonts![i]" :aria-label="`Font ${i + 1}`" />
        <el-button text :aria-label="`Remove font ${i + 1}`" @click="draft.fonts!.splice(i, 1)">✕</el-button>
      </div>
      <div v-if="fonts.length" class="found">
        <button v-for="f in fonts" :key="f" type="button" @click="draft.fonts = [...(draft.fonts ?? []), f]">
          {{ f }}
        </button>
      </div>
      <p v-if="!draft.fonts?.length && !fonts.length" class="quiet small">
        None: notices use each visitor’s system font.
      </p>
    </fieldset>
    <label>
      Where a visitor’s browser keeps nothing
      <el-select v-model="noStorage" aria-label="Where a visitor’s browser keeps nothing">
        <el-option value="all" label="Everything shows again on each page" />
        <el-option value="warnings" label="Only warnings and emergencies" />
        <el-option value="none" label="Only emergencies" />
      </el-select>
      <span class="quiet small"
        >Such visitors cannot close anything for longer than a page view. What is part of the page always shows.</span
      >
    </label>
    <div id="routes">
      <el-switch
        v-model="draft.routes"
        active-text="Pages are told apart behind a #, as in /#/ports"
        aria-label="Pages are told apart behind a #"
      />
      <p class="quiet small">
        For sites where only the part behind the # changes from page to page. Conditions can name each of these pages
        then. Browsers that were on the site know of it within five minutes.
        <template v-if="routes.length">Pages of this site link to {{ routes.join(', ') }}.</template>
      </p>
    </div>
    <div v-if="detail.domains.length">
      <el-switch
        v-model="draft.sharedMemory"
        :active-text="`One memory for all addresses of ${detail.domains.join(', and one for all of ')}`"
        aria-label="One memory for all addresses"
      />
      <p class="quiet small">
        What visitors closed and answered on one holds on all. It is kept in a cookie of the whole domain, which the
        inventory lists, and a session lasts as long as the browser is open. Otherwise each address remembers for
        itself.
      </p>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <el-button v-if="mayManage" type="primary" native-type="submit" :loading="!!busy">Save</el-button>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  align-content: start;
  max-width: 640px;
}
label {
  display: grid;
  gap: 2px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 2fr;
  gap: 8px;
}
fieldset {
  display: grid;
  gap: 4px;
  justify-items: start;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  padding: 0;
  margin-bottom: 4px;
}
.colour {
  display: flex;
  gap: 6px;
  width: 100%;
}
input[type='color'] {
  flex: none;
  width: 44px;
  height: 32px;
  padding: 2px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
}
fieldset > :is(label, .pair) {
  width: 100%;
}
form > .el-button {
  justify-self: start;
}
.ways,
.found {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 4px;
}
.ways .el-button {
  margin: 0;
}
.found button {
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
  font: 12px/1.6 var(--text);
  cursor: pointer;
}
.chip {
  display: inline-block;
  width: 14px;
  height: 14px;
  margin-bottom: -3px;
  border: 1px solid var(--ink-2);
}
form p {
  margin: 0;
}
</style>
