<script setup lang="ts">
// Library: what can be used again. Blocks, documents, starting points, page sets,
// audiences, wordings, images.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, type ImageDetail, type Saved, type Site, type StartingChoice, type StartingList } from '../../api/client'
import { reason, useAttempts } from '../../instruments/attempts'
import FileChoice from '../../instruments/FileChoice.vue'
import { base64 } from '../../instruments/file'
import { mayManage, mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { beginNotice } from '../notice/begin'
import BlocksPart from './BlocksPart.vue'
import DocumentsPart from './DocumentsPart.vue'
import NoticePicture from './NoticePicture.vue'
import ThemesPart from './ThemesPart.vue'

const router = useRouter()
const { view } = useViewpoint()
const { site, detail, open, change } = useSite()
const { error, busy, attempt } = useAttempts()
const points = ref<StartingChoice[]>([])
const purposes = ref<StartingList['purposes']>([])
const images = ref<ImageDetail[]>([])
const find = ref('')

const load = () =>
  attempt('open', async () => {
    const [p, i] = await Promise.all([api.starting(site.value), api.images(site.value), open()])
    points.value = p.points
    purposes.value = p.purposes
    images.value = i.images
  })
void load()

const like = (...texts: string[]) => texts.join(' ').toLowerCase().includes(find.value.toLowerCase())
/** A site’s own blocks are starting points as others are; those that ship stand with the blocks. */
const readyBlocks = computed(() => points.value.filter((p) => p.kind === 'block' && !p.own))
const shownPoints = computed(() =>
  points.value.filter((p) => !readyBlocks.value.includes(p) && like(p.name, p.for, p.line)),
)
/** Those shown, a site’s own first, then by what they are for. */
const shownGroups = computed(() =>
  [{ purpose: undefined, name: 'Your own' }, ...purposes.value]
    .map(({ purpose, name }) => ({ name, points: shownPoints.value.filter((p) => p.purpose === purpose) }))
    .filter((g) => g.points.length),
)
const shownSaved = computed(() => (detail.value?.saved ?? []).filter((s) => like(s.kind, s.name, s.words)))
const shownImages = computed(() => images.value.filter((i) => like(i.name)))

/** Changes the lists that the site keeps, with a way back. */
const keep = (part: (s: Site) => Partial<Site>, done: string, undo?: Partial<Site>): Promise<boolean> =>
  attempt('keep', async () => {
    await change(part)
    points.value = (await api.starting(site.value)).points
    tell(done, 'success', undo && (() => keep(() => undo, 'It is back.')))
  })
function forget(s: Saved) {
  const { audiences, pageSets, wordings, rules } = detail.value!.site
  const rest = {
    audience: () => ({ audiences: audiences?.filter((a) => a.name !== s.name) }),
    'page set': () => ({ pageSets: pageSets?.filter((p) => p.name !== s.name) }),
    wording: () => ({ wordings: wordings?.filter((w) => w.name !== s.name) }),
    rules: () => ({ rules: rules?.filter((r) => r.name !== s.name) }),
  }[s.kind]
  void keep(rest, `“${s.name}” is removed.`, { audiences, pageSets, wordings, rules })
}
function forgetPoint(p: StartingChoice) {
  const { startingPoints } = detail.value!.site
  void keep((s) => ({ startingPoints: s.startingPoints?.filter((x) => x.name !== p.key) }), `“${p.name}” is removed.`, {
    startingPoints,
  })
}
/** Lets the other sites of the installation begin notices with it, or no longer. */
const share = (p: StartingChoice, shared: boolean) =>
  keep(
    (s) => ({
      startingPoints: s.startingPoints?.map((x) => (x.name === p.key ? { ...x, shared: shared || undefined } : x)),
    }),
    shared ? `The other sites have “${p.name}” too now.` : `“${p.name}” is this site’s alone.`,
  )
/** Keeps those that can be kept, and says why the others cannot. */
const addImages = (files: File[]) =>
  attempt('images', async () => {
    const refused: string[] = []
    for (const file of files)
      try {
        images.value = (await api.addImage(site.value, { name: file.name, data: await base64(file) })).images
      } catch (e) {
        refused.push(reason(e))
      }
    if (refused.length) throw new Error(refused.join(' '))
  })
const dropImage = (i: ImageDetail) =>
  attempt(
    'images',
    async () => (images.value = (await api.removeImage(site.value, i.file ?? '')).images),
    `“${i.name}” is removed.`,
  )
const size = (bytes: number) => (bytes < 1024 ? `${bytes} bytes` : `${Math.round(bytes / 1024)} KB`)
</script>

<template>
  <div class="library">
    <div class="top">
      <h1>Library</h1>
      <el-input v-model="find" data-find placeholder="Find in the Library" aria-label="Find in the Library" clearable />
    </div>
    <p v-if="error" class="error" role="alert">{{ error }} <button class="word" @click="load">Try again</button></p>

    <BlocksPart :find="find" :ready="readyBlocks" />
    <DocumentsPart :find="find" />
    <ThemesPart v-if="detail" :find="find" />

    <section aria-labelledby="points">
      <h2 id="points">Starting points</h2>
      <p class="quiet">Each is right as it comes, in every language of the site. Use one, look at it, publish it.</p>
      <template v-for="g in shownGroups" :key="g.name">
        <h3>{{ g.name }}</h3>
        <ul class="plainlist points">
          <li v-for="p in g.points" :key="p.key" :data-point="p.key">
            <div class="about">
              <b>{{ p.name }}</b> <span v-if="p.inSeason" class="season small">in season</span>
              <p class="small quiet">{{ p.for || p.line }}</p>
              <p v-if="p.from" class="small quiet">Shared by {{ p.from }}</p>
              <el-checkbox
                v-if="p.own && mayManage"
                size="small"
                :model-value="!!p.shared"
                label="for the other sites too"
                :aria-label="`${p.name}: for the other sites too`"
                @change="(on) => share(p, !!on)"
              />
            </div>
            <NoticePicture :html="p.html" :css="p.css" />
            <div class="act">
              <el-button
                v-if="mayWrite"
                size="small"
                type="primary"
                :aria-label="`Use it: ${p.name}`"
                @click="beginNotice(router, site, p.key)"
                >Use it</el-button
              >
              <el-button
                v-if="p.own && mayWrite"
                size="small"
                text
                :aria-label="`Remove ${p.name}`"
                title="Remove"
                @click="forgetPoint(p)"
                >✕</el-button
              >
            </div>
          </li>
        </ul>
      </template>
      <p v-if="shownPoints.length === 0" class="quiet">No starting point matches “{{ find }}”.</p>
    </section>

    <div class="columns">
      <section aria-labelledby="kept">
        <h2 id="kept">Page sets, audiences, rules and wordings</h2>
        <ul v-if="shownSaved.length" class="plainlist kept">
          <li v-for="s in shownSaved" :key="s.kind + s.name">
            <span
              ><b>{{ s.name }}</b> <span class="quiet small">{{ s.kind }}</span><br /><span class="small">{{
                s.words
              }}</span
              ><template v-if="s.kind === 'audience' || s.kind === 'page set'"
                ><br /><span class="quiet small">{{
                  s.usedBy.length ? 'Used by ' + s.usedBy.join(', ') : 'Used by no notice'
                }}</span></template
              ></span
            >
            <el-button
              v-if="mayWrite"
              text
              size="small"
              :disabled="s.usedBy.length > 0"
              :aria-label="`Remove ${s.name}`"
              :title="s.usedBy.length ? 'Notices use it' : 'Remove'"
              @click="forget(s)"
              >✕</el-button
            >
          </li>
        </ul>
        <p v-else class="quiet">
          Nothing is kept yet. Save places as a page set, or conditions as an audience, where a notice says where and
          for whom; keep its words in its More.
        </p>
      </section>
      <section aria-labelledby="images">
        <h2 id="images">Images</h2>
        <FileChoice v-if="mayWrite" words="Add images" multiple :busy="busy === 'images'" @files="addImages" />
        <ul v-if="shownImages.length" class="plainlist images">
          <li v-for="i in shownImages" :key="i.file">
            <img :src="i.address" :alt="i.name" loading="lazy" />
            <span class="small"
              ><b>{{ i.name }}</b
              ><br />{{ i.width }} × {{ i.height }} px, {{ size(i.size) }}<br /><span class="quiet"
                >{{ i.usedBy.length ? 'Shown by ' + i.usedBy.join(', ') : 'Shown by no notice' }}; {{ i.addedBy }},
                {{ view && say(i.addedAt, view.zone) }}</span
              ></span
            >
            <el-button
              v-if="mayWrite"
              text
              size="small"
              :disabled="i.usedBy.length > 0"
              :aria-label="`Remove ${i.name}`"
              @click="dropImage(i)"
              >✕</el-button
            >
          </li>
        </ul>
        <p v-else class="quiet">No images yet. A notice can carry one, and another for phones.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
  justify-content: space-between;
}
.top .el-input {
  width: 220px;
}
section {
  margin-top: 12px;
}
section > p {
  margin: 2px 0 8px;
}
h3 {
  margin: 12px 0 4px;
  color: var(--ink-2);
  font-size: 14px;
}
.season {
  color: var(--live);
}
.points {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 560px), 1fr));
  gap: 0 32px;
}
.points li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.about p {
  margin: 0;
  line-height: 1.3;
}
.act {
  display: flex;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 8px 32px;
}
.kept li,
.images li {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.images li > span {
  flex: 1;
}
.images img {
  width: 96px;
  height: 56px;
  object-fit: contain;
  background: var(--chart);
}
@media (max-width: 860px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
  .points li {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .points .picture {
    grid-area: 2 / 1 / 3 / 3;
  }
}
</style>
