<script setup lang="ts">
// The site's documents, and beginning one.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, type DocumentList } from '../../api/client'
import { attempt, useAttempts } from '../../instruments/attempts'
import { mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'

const props = defineProps<{ find: string }>()
const router = useRouter()
const { site, view } = useViewpoint()
const list = ref<DocumentList>()
const { error, attempt: attemptHere } = useAttempts()
const load = () => attemptHere('list', async () => (list.value = await api.documents(site.value)))
void load()
const shown = computed(() =>
  (list.value?.documents ?? []).filter((d) =>
    `${d.title} ${d.kindName}`.toLowerCase().includes(props.find.toLowerCase()),
  ),
)
type Kind = DocumentList['kinds'][number]['kind']
const begin = (kind: Kind) =>
  attempt(async () => {
    const d = await api.newDocument(site.value, { kind, title: '' })
    await router.push({ name: 'document', params: { site: site.value, document: d.id } })
  })
</script>

<template>
  <section aria-labelledby="documents">
    <div class="head">
      <h2 id="documents">Documents</h2>
      <el-dropdown v-if="mayWrite" trigger="click" @command="begin">
        <el-button size="small">New document ▾</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="k in list?.kinds ?? []" :key="k.kind" :command="k.kind">{{
              k.name
            }}</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <button
        v-if="mayWrite && list?.documents.length"
        class="word"
        @click="beginNotice(router, site, undefined, 'block', '*')"
      >
        List them in the footer
      </button>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }} <button class="word" @click="load">Try again</button></p>
    <p class="quiet">
      Privacy notice, terms and the like: answer a few questions, read the text that grows, publish it as a version.
    </p>
    <ul v-if="shown.length" class="plainlist">
      <li v-for="d in shown" :key="d.id">
        <router-link :to="{ name: 'document', params: { site, document: d.id } }">{{ d.title }}</router-link>
        <span class="quiet small">{{ d.title === d.kindName ? '' : d.kindName }}</span>
        <span v-if="d.version" class="live"
          >version {{ d.version }}, {{ view && d.since && say(d.since, view.zone) }}</span
        >
        <span v-else class="quiet">not published</span>
        <span class="small" :class="d.open || d.behind ? 'wait' : 'quiet'">{{
          [
            d.open ? `${d.open} of ${d.items} items open` : '',
            d.behind ? 'changed since it went out' : '',
            d.usedBy ? `${d.usedBy} ${d.usedBy === 1 ? 'leads' : 'lead'} to it` : 'nothing leads to it',
          ]
            .filter(Boolean)
            .join(' · ')
        }}</span>
      </li>
    </ul>
    <p v-else-if="list?.documents.length" class="quiet">No document matches “{{ find }}”.</p>
    <p v-else class="quiet">There is none yet. Most sites begin with the privacy notice.</p>
  </section>
</template>

<style scoped>
section {
  margin-top: 12px;
}
section > p {
  margin: 2px 0 8px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}
li {
  display: grid;
  grid-template-columns: minmax(160px, 2fr) minmax(0, 1.4fr) minmax(0, 2fr) minmax(0, 3fr);
  gap: 4px 16px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.live {
  color: var(--live);
}
.wait {
  color: var(--wait);
}
@media (max-width: 700px) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
