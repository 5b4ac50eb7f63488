<script setup lang="ts">
// The site as a tree, each page with what it carries. Pressing one looks from it; while a notice is being placed, it
// is taken in or left out instead.
import { computed } from 'vue'
import { useWindowSize } from '@vueuse/core'
import type { Carried } from '../../api/client'
import Emblem from '../../instruments/Emblem.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { figure, usePages } from './pages'
import { below, branch, count, folders, type Twig } from './tree'

const props = defineProps<{ shown: Set<string> }>()
const { look } = useViewpoint()
const { pages, here, card, placed, taken, take } = usePages()

const twigs = computed(() => branch(pages.value.filter((p) => props.shown.has(p.path))))
/** A tree of more than so many rows scrolls by itself, and begins folded: it draws what is in sight. */
const most = 400
/** The height of a row, px. */
const row = 28
const rows = computed(() => count(twigs.value))
const unfolded = computed(() => (rows.value > most ? [] : folders(twigs.value)))
const { height: window } = useWindowSize()
const height = computed(() => (rows.value > most ? Math.max(300, window.value - 250) : rows.value * row))

function press(t: Twig) {
  if (!t.page) return
  if (placed.value) void take(t.page.path, 'page')
  else void look({ page: t.page.path })
}
const markOf = (path: string) =>
  taken.value.has(path) ? { sign: '●', words: 'taken in' } : { sign: '○', words: 'left out' }
/** What a page carries within 30 days and not yet. */
const later = (p: Carried['pages'][number]) => p.soon.filter((id) => !p.shows.includes(id))
const titles = (ids: string[]) => ids.map((id) => card(id)?.title).join(', ')
</script>

<template>
  <el-tree-v2
    :data="twigs"
    :props="{ value: 'path', label: 'label', children: 'children' }"
    :height="height"
    :item-size="row"
    :default-expanded-keys="unfolded"
    :expand-on-click-node="false"
    highlight-current
    :current-node-key="here"
    @node-click="(d) => press(d as Twig)"
  >
    <template #default="{ data, node }">
      <span class="twig" :class="{ ghost: !data.page }">
        <span v-if="placed && data.page" class="mark" :class="{ in: taken.has(data.page.path) }"
          >{{ markOf(data.page.path).sign }}<span class="unseen">{{ markOf(data.page.path).words }}</span></span
        >
        <span class="label">{{ data.label }}</span>
        <span v-if="data.children.length && !node.expanded" class="quiet small"
          >{{ figure(below(data as Twig)) }} below</span
        >
        <span v-if="data.page && placed?.unplaced.includes(data.page.path)" class="small wait">no spot there</span>
        <span v-if="data.page && placed?.newPages.includes(data.page.path)" class="small quiet"
          >new, took it by itself</span
        >
        <span v-if="data.page" class="page-title quiet small">{{ data.page.title }}</span>
        <button
          v-if="placed && data.page && data.children.length"
          type="button"
          class="word small"
          :aria-label="`${data.path} and all below it`"
          @click.stop="take(data.path, 'section')"
        >
          and all below
        </button>
        <span v-if="data.page" class="carries">
          <span v-if="data.page.soon.length > data.page.shows.length" class="quiet small"
            >+{{ later(data.page).length + data.page.soonMore }} in 30 days</span
          >
          <Emblem
            v-for="id in data.page.shows"
            :key="id"
            :edge="card(id)?.slot"
            :colour="card(id)?.background ?? '#888888'"
            :kind="card(id)?.kind"
          />
          <span v-if="data.page.shows.length" class="unseen">carries {{ titles(data.page.shows) }}</span>
        </span>
      </span>
    </template>
  </el-tree-v2>
</template>

<style scoped>
.wait {
  color: var(--wait);
}
.mark {
  width: 14px;
  color: var(--ink-2);
}
.mark.in {
  color: var(--live);
}
.twig {
  display: flex;
  flex: 1;
  gap: 10px;
  align-items: center;
  min-width: 0;
  padding-inline-end: 8px;
}
.label {
  flex: none;
  font-weight: 600;
}
.ghost .label {
  color: var(--ink-2);
  font-weight: 400;
}
.page-title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.carries {
  display: inline-flex;
  gap: 4px;
  align-items: center;
  margin-inline-start: auto;
}
</style>
