<script setup lang="ts">
// What becomes of what visitors have not agreed to: whether the snippet holds it back by itself, and what it holds.
import { computed } from 'vue'
import { mayManage } from '../../instruments/me'
import { useConsent } from './consent'

const { setup, site, busy, save } = useConsent()

/** How the site's pages are kept from what is not agreed to. */
const ways = {
  marked: 'only what is marked in the page’s HTML',
  'let-go': 'what the inventory lists',
  keep: 'what the inventory lists, even while this program does not answer',
} as const
const unsorted = {
  'let-through': 'goes ahead',
  held: 'is held back too, where people are asked first',
} as const
const guard = computed(() => setup.value.guard ?? 'marked')

async function hold(way: keyof typeof ways) {
  const isByItself = way !== 'marked'
  const said = isByItself
    ? 'Kept. Now copy the two lines anew from Site into the head of every page.'
    : 'Kept. The two lines in Site are the short ones again.'
  await save({ ...setup.value, guard: isByItself ? way : undefined }, said)
}
</script>

<template>
  <section aria-labelledby="holding" class="holding">
    <h2 id="holding">Held back until it is agreed to</h2>
    <p>
      <label for="guard">Hold back</label>
      <el-select
        id="guard"
        :model-value="guard"
        size="small"
        class="way"
        aria-label="Hold back"
        :disabled="!mayManage || busy === 'save'"
        @change="hold"
      >
        <el-option v-for="(label, way) in ways" :key="way" :value="way" :label="label" />
      </el-select>
    </p>
    <template v-if="guard !== 'marked'">
      <p>
        <label for="unsorted">What comes from elsewhere and has no purpose yet</label>
        <el-select
          id="unsorted"
          :model-value="setup.unsorted ?? 'let-through'"
          size="small"
          class="way"
          aria-label="What comes from elsewhere and has no purpose yet"
          :disabled="!mayManage || busy === 'save'"
          @change="(v: 'let-through' | 'held') => save({ ...setup, unsorted: v })"
        >
          <el-option v-for="(label, v) in unsorted" :key="v" :value="v" :label="label" />
        </el-select>
      </p>
      <p class="quiet small">
        Scripts, frames and pictures of the hosts that it lists wait for their purpose, and so do cookies and storage
        keys. Nothing else on the pages changes, but the two lines in
        <RouterLink :to="{ name: 'site', params: { site } }">Site</RouterLink> have to be the ones that hold back. When
        the pages are read again there, it says which still have others.
      </p>
    </template>
  </section>
</template>

<style scoped>
.holding p {
  margin: 4px 0;
  max-width: 70ch;
}
label {
  display: block;
}
.way {
  width: 100%;
}
</style>
