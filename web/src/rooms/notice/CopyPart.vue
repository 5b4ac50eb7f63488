<script setup lang="ts">
// What a notice is a copy of, and both texts side by side where they differ.
import type { Notice, NoticeDetail } from '../../api/client'
import { nameOf } from '../../instruments/languages'
import { mayWrite } from '../../instruments/me'
import { clone } from '../../instruments/clone'

const props = defineProps<{ original: NonNullable<NoticeDetail['original']>; site: string }>()
const notice = defineModel<Notice>({ required: true })

/** Notes that the two were compared; what the copy says stays. */
function keep() {
  notice.value.copyOf = { id: props.original.id, mark: props.original.mark }
}
function take() {
  const { wordings, rows } = clone(props.original) as NonNullable<Notice['content']>
  notice.value.content = { ...notice.value.content, wordings, rows }
  keep()
}
</script>

<template>
  <section class="copy" aria-label="The original of this copy">
    <p class="small">
      A copy of
      <router-link :to="{ name: 'notice', params: { site, notice: original.id } }">“{{ original.title }}”</router-link>.
      Changing one does not change the other.
      <b v-if="original.changed" class="wait">The original’s text has changed since they were last compared.</b>
    </p>
    <details v-if="original.differs.length" :open="original.changed">
      <summary>Both texts, side by side</summary>
      <table>
        <thead>
          <tr>
            <th scope="col">Language</th>
            <th scope="col">This copy</th>
            <th scope="col">The original</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in original.differs" :key="d.language">
            <th scope="row">{{ nameOf(d.language) }}</th>
            <td :lang="d.language" dir="auto">{{ d.here || 'nothing' }}</td>
            <td :lang="d.language" dir="auto">{{ d.there || 'nothing' }}</td>
          </tr>
        </tbody>
      </table>
      <template v-if="mayWrite">
        <el-button size="small" @click="take">Take the original’s text</el-button>
        <el-button v-if="original.changed" size="small" @click="keep">Keep this one’s</el-button>
      </template>
    </details>
  </section>
</template>

<style scoped>
.copy {
  margin: 8px 0 16px;
}
p {
  margin: 0 0 4px;
}
.wait {
  color: var(--wait);
  font-weight: 600;
}
table {
  width: 100%;
  margin: 6px 0;
  border-collapse: collapse;
  font-size: 14px;
}
th,
td {
  padding: 4px 10px 4px 0;
  border-top: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}
</style>
