<script setup lang="ts">
// The site's blocks: each with its picture, where it is, who changed it last, and a
// way onto the viewpoint's page; and ready ones to begin with.
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type BlockCard, type StartingChoice } from '../../api/client'
import { attempt, reason } from '../../instruments/attempts'
import Halyard from '../../instruments/Halyard.vue'
import { latest } from '../../instruments/latest'
import { mayWrite, me } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'
import { place } from '../notice/placing'
import NoticePicture from './NoticePicture.vue'

const props = defineProps<{ find: string; ready: StartingChoice[] }>()
const route = useRoute()
const router = useRouter()
const { site, view, moment, refresh } = useViewpoint()

const blocks = ref<BlockCard[]>([])
const error = ref('')
const load = latest(
  () => api.blocks(site.value, moment.value),
  (list) => {
    error.value = ''
    blocks.value = list.blocks
  },
  (e) => (error.value = reason(e)),
)
watch([site, moment], load, { immediate: true })
const like = (...texts: string[]) => texts.join(' ').toLowerCase().includes(props.find.toLowerCase())
const shown = computed(() => blocks.value.filter((b) => like(b.title, b.kind, b.line)))
const here = computed(() => view.value?.page.path ?? '/')
const mayCode = computed(() => me.value?.person.role === 'administrator')
const pagesOf = (b: BlockCard) => {
  const some = b.onPages.slice(0, 3).join(', ')
  const more = b.onPages.length - 3
  if (!b.onPages.length) return 'on no known page'
  return (
    `on ${b.onPages.length === 1 ? '1 page' : `${b.onPages.length} pages`}: ${some}` +
    `${more > 0 ? ` and ${more} more` : ''}`
  )
}

function putHere(b: BlockCard) {
  const path = here.value
  return attempt(() =>
    place({
      site: site.value,
      id: b.id,
      revision: b.revision,
      to: { on: path },
      said: (d) =>
        `“${b.title}” is on ${path} ` +
        `now.${d.card.flag === 'draft' ? ' It is a draft: publish it for visitors to see it.' : ''}`,
      after: () => Promise.all([load(), refresh()]),
    }),
  )
}
</script>

<template>
  <section aria-labelledby="blocks">
    <h2 id="blocks">Blocks and code</h2>
    <p class="quiet">
      Made once, on many pages, changed everywhere at one stroke.
      <template v-if="mayWrite">
        <button type="button" class="word" @click="beginNotice(router, site, undefined, 'block')">
          Begin an empty block
        </button>
        <template v-if="mayCode"
          >, or
          <button type="button" class="word" @click="beginNotice(router, site, undefined, 'code')">
            code for pages
          </button></template
        >
      </template>
    </p>
    <p v-if="error" class="error" role="alert">{{ error }} <button class="word" @click="load">Try again</button></p>
    <ul v-if="shown.length" class="plainlist blocks">
      <li v-for="b in shown" :key="b.id" :data-block="b.id">
        <div class="about">
          <span class="title"
            ><Halyard :flag="b.flag" />
            <router-link :to="{ name: 'notice', params: { site, notice: b.id }, query: route.query }">{{
              b.title
            }}</router-link></span
          >
          <span class="small quiet"
            ><template v-if="b.copyOf">a copy of “{{ b.copyOf }}”, </template>{{ pagesOf(b) }}; {{ b.changedBy }},
            {{ view && say(b.changedAt, view.zone) }}</span
          >
        </div>
        <NoticePicture v-if="b.html" :html="b.html" :css="b.css" />
        <span v-else class="small quiet">{{ b.line }}</span>
        <div v-if="mayWrite" class="act">
          <el-button
            size="small"
            :disabled="!!b.why"
            :aria-describedby="b.why ? `why-${b.id}` : undefined"
            @click="putHere(b)"
            >Put it on this page</el-button
          >
          <span :id="`why-${b.id}`" class="small quiet">{{ b.why || `This page: ${here}` }}</span>
        </div>
      </li>
    </ul>
    <p v-else-if="blocks.length" class="quiet">No block matches “{{ find }}”.</p>
    <p v-else class="quiet">No blocks yet. Begin with one of these.</p>
    <template v-if="mayWrite">
      <h3>Ready ones</h3>
      <ul class="plainlist ready">
        <li v-for="p in ready.filter((r) => like(r.name, r.for))" :key="p.key" :data-point="p.key">
          <span
            ><b>{{ p.name }}</b> <span class="quiet small">{{ p.for }}</span></span
          >
          <NoticePicture :html="p.html" :css="p.css" />
          <el-button size="small" :aria-label="`Use it: ${p.name}`" @click="beginNotice(router, site, p.key)"
            >Use it</el-button
          >
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
section {
  margin-top: 12px;
}
section > p {
  margin: 2px 0 8px;
}
h3 {
  margin: 10px 0 4px;
  font-size: 14px;
}
.blocks li {
  display: grid;
  grid-template-columns: minmax(200px, 1fr) minmax(0, 2fr) 170px;
  gap: 16px;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.about,
.act {
  display: grid;
  gap: 2px;
  justify-items: start;
}
.title {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  font-weight: 600;
}
.blocks .picture,
.ready .picture {
  max-height: 150px;
  overflow: hidden;
}
.ready {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 340px), 1fr));
  gap: 0 32px;
}
.ready li {
  display: grid;
  gap: 4px;
  align-content: start;
  justify-items: start;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.ready .picture {
  width: 100%;
}
@media (max-width: 860px) {
  .blocks li {
    grid-template-columns: minmax(0, 1fr);
    gap: 6px;
  }
}
</style>
