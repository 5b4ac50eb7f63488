<script setup lang="ts">
// One notice in the list: its flag, its order line, its time, why it shows or
// not at the viewpoint, and what can be done about it at once. A row far from
// sight keeps its room and its name, and draws the rest when it comes near.
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import { blocking, type Act, type Card, type Tally, type View } from '../../api/client'
import DateTime from '../../instruments/DateTime.vue'
import Emblem from '../../instruments/Emblem.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import { nameOf } from '../../instruments/languages'
import { mayWrite } from '../../instruments/me'
import { useNear } from '../../instruments/near'
import OrderLine from '../../instruments/OrderLine.vue'
import TimeRow from '../../instruments/TimeRow.vue'
import { away, local } from '../../instruments/time'
import { headline } from '../results/figures'

const props = defineProps<{
  n: Card
  view: View
  to: RouteLocationRaw
  /** What was counted of it in the last 30 days, if anything. */
  counted?: Tally
}>()
defineEmits<{ act: [what: Act, done: string, back?: Act]; end: [until: string] }>()

const row = useTemplateRef<HTMLElement>('row')
const near = useNear(row)
/** The room it takes once drawn, px. */
const height = ref(92)
watch(near, (is) => is && nextTick(() => (height.value = row.value?.offsetHeight ?? height.value)))

const list = new Intl.ListFormat('en', { type: 'conjunction' })
/** Languages whose words want something: "German unread, Polish and French missing". */
const wanting = computed(() => {
  const all = props.n.languages.filter((l) => l.state !== 'current')
  return [...new Set(all.map((l) => l.state))]
    .map((state) => `${list.format(all.filter((l) => l.state === state).map((l) => nameOf(l.tag)))} ${state}`)
    .join(', ')
})

const open = ref(false)
const ending = ref(false)
const endsAt = ref('')
function beginEnding() {
  ending.value = !ending.value
  const { until } = props.n
  const day = local(until ?? new Date(new Date(props.view.now).getTime() + 86_400_000), props.view.zone)
  endsAt.value = until ? day : day.slice(0, 11) + '12:00'
}
watch(
  () => props.n.revision,
  () => (ending.value = false),
)
</script>

<template>
  <li ref="row" class="notice" :data-notice="n.id" :style="near ? undefined : { minHeight: height + 'px' }">
    <span v-if="!near">{{ n.title }}</span>
    <div v-else class="what">
      <div class="name">
        <Halyard :flag="n.flag" :draft="n.hasDraft" />
        <Emblem :edge="n.slot" :colour="n.background" :kind="n.kind" />
        <router-link :to="to">{{ n.title }}</router-link>
        <span class="quiet small">{{ n.kind }}</span>
        <span v-if="wanting" class="wanting small">{{ wanting }}</span>
      </div>
      <OrderLine :line="n.line" />
    </div>
    <div v-if="near" class="when">
      <TimeRow
        :view="view"
        :intervals="n.intervals"
        :out="n.flag !== 'draft' && n.flag !== 'paused'"
        :name="n.title"
        :held="n.held"
      />
      <div class="here">
        <span v-if="n.account.shows" class="shows"
          >Shows here<template v-if="n.onPages > 1">, and on {{ n.onPages - 1 }} more pages</template></span
        >
        <span v-else class="held">{{ n.leftOut || blocking(n.account)?.why }}</span>
        <span v-if="n.flag === 'live'" class="quiet still">{{
          n.until ? `${away(view.at, n.until)} more` : 'no end set'
        }}</span>
        <router-link
          v-if="counted"
          class="quiet still"
          :to="{ name: 'results', query: { notice: n.id } }"
          title="In the last 30 days"
          >{{ headline(counted) }}</router-link
        >
        <span class="acts">
          <button class="word why" :aria-label="`Why? ${n.title}`" :aria-expanded="open" @click="open = !open">
            Why?
          </button>
          <template v-if="mayWrite && (n.flag === 'live' || n.flag === 'scheduled')">
            <button class="word" :aria-label="`End at… ${n.title}`" :aria-expanded="ending" @click="beginEnding">
              End at…
            </button>
            <button
              class="word"
              :aria-label="`Pause ${n.title}`"
              @click="$emit('act', 'pause', `“${n.title}” is paused.`, 'resume')"
            >
              Pause
            </button>
          </template>
          <button
            v-if="mayWrite && n.flag === 'paused'"
            class="word"
            :aria-label="`Resume ${n.title}`"
            @click="$emit('act', 'resume', `“${n.title}” is up again.`, 'pause')"
          >
            Resume
          </button>
          <button
            v-if="mayWrite && n.flag !== 'draft'"
            class="word"
            :aria-label="`Unpublish ${n.title} now`"
            @click="$emit('act', 'unpublish', `“${n.title}” is unpublished: a draft again.`, 'publish')"
          >
            Unpublish
          </button>
        </span>
      </div>
      <form v-if="ending" class="ending" @submit.prevent="$emit('end', endsAt)">
        <DateTime v-model="endsAt" :label="`End of ${n.title}`" size="small" />
        <span class="quiet small">{{ view.zone }}</span>
        <el-button size="small" type="primary" native-type="submit">End it then</el-button>
      </form>
      <Gates v-if="open" :account="n.account" class="account" />
    </div>
  </li>
</template>

<style scoped>
.notice {
  display: grid;
  grid-template-columns: minmax(0, 46fr) minmax(0, 54fr);
  gap: 0 32px;
  align-items: start;
  padding: 8px 0 7px;
  border-bottom: 1px solid var(--line);
}
.name {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
}
.name a {
  color: var(--ink);
  font: 650 16px/1.3 var(--head);
  font-stretch: 90%;
  text-decoration-color: var(--line);
  text-underline-offset: 3px;
}
.what .line {
  color: var(--ink-2);
  font-size: 12px;
}
.wanting {
  color: var(--wait);
}
.when {
  min-width: 0;
  margin-block: -8px -7px;
  padding-bottom: 7px;
}
.when .row {
  height: 34px;
}
.here {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
  font-size: 12px;
}
.shows {
  color: var(--live);
  font-weight: 600;
}
.held {
  color: var(--ink-2);
}
.acts {
  display: flex;
  flex: none;
  gap: 10px;
  margin-inline-start: auto;
}
.acts .word:not(.why, :hover) {
  color: var(--ink-2);
  text-decoration-color: var(--line);
}
.still {
  flex: none;
  font-variant-numeric: tabular-nums;
}
.ending {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin-top: 4px;
}
.account {
  margin-top: 8px;
  padding: 8px 12px;
  background: var(--chart);
}
@media (max-width: 860px) {
  .notice {
    grid-template-columns: minmax(0, 1fr);
  }
  .when {
    margin-block: 0;
    padding: 0;
  }
}
</style>
