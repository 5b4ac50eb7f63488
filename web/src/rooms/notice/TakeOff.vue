<script setup lang="ts">
// Three ways to take a notice away, each with the pages that it touches: off one
// page, off everywhere, deleted. Each has a way back.
import { computed, ref } from 'vue'
import type { NoticeDetail } from '../../api/client'
import { me } from '../../instruments/me'
import { knownPages } from './placing'

const props = defineProps<{ detail: NoticeDetail; page: string }>()
const emit = defineEmits<{ page: []; everywhere: []; delete: []; close: [] }>()

const out = computed(() => props.detail.outOn)
const isOut = computed(() => props.detail.card.flag !== 'draft')
/** The pages it is on: of what is out, or of the draft where nothing is. */
const pages = computed(() => (isOut.value ? out.value : props.detail.onPages))
const here = computed(() => pages.value.includes(props.page))
const staying = computed(() => {
  const n = pages.value.length - 1
  return n ? `It stays on ${n} other known page${n === 1 ? '' : 's'}.` : 'It is on no other known page.'
})
/** Code comes back only by those who may write it. */
const back = computed(() =>
  props.detail.notice.kind !== 'code' || me.value?.person.role === 'administrator'
    ? 'Each can be undone.'
    : 'Only an administrator can put it back.',
)
const whole = ref(false)
</script>

<template>
  <section class="take-off" aria-label="Take it off">
    <ul class="plainlist">
      <li>
        <el-button size="small" :disabled="!here" @click="emit('page')">Take it off this page</el-button>
        <span v-if="here"><b>1 page:</b> {{ page }}. {{ staying }}</span>
        <span v-else class="quiet">It is not on {{ page }}.</span>
      </li>
      <li>
        <el-button size="small" :disabled="!isOut" @click="emit('everywhere')">Take it off everywhere</el-button>
        <span v-if="isOut"
          ><b>{{ knownPages(out.length) }}</b
          >, and every page that would carry it later. It stays in the Library, as a draft.</span
        >
        <span v-else class="quiet">It is not published.</span>
      </li>
      <li>
        <el-button size="small" @click="emit('delete')">Delete it</el-button>
        <span
          ><b>{{ knownPages(pages.length) }}</b
          >, and it is gone from the Library too. Its copies stay.</span
        >
      </li>
    </ul>
    <p v-if="pages.length" class="small">
      <button type="button" class="word" :aria-expanded="whole" @click="whole = !whole">
        {{ whole ? 'Hide the pages' : 'Which pages' }}
      </button>
      <span v-if="whole" class="pages">{{ pages.join(', ') }}</span>
    </p>
    <p class="small quiet">
      {{ back }} <el-button size="small" text @click="emit('close')">Leave it as it is</el-button>
    </p>
  </section>
</template>

<style scoped>
.take-off {
  margin-top: 8px;
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--chart);
}
ul {
  display: grid;
  gap: 8px;
}
li {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
}
li .el-button {
  justify-content: start;
}
p {
  margin: 6px 0 0;
}
.pages {
  display: block;
  max-height: 120px;
  overflow: auto;
}
@media (max-width: 560px) {
  li {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
  }
}
</style>
