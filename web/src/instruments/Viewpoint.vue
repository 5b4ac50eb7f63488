<script setup lang="ts">
// The viewpoint in the shell: what page, what moment, what visitor everything
// on screen is seen from.
import { computed, ref, watch, useTemplateRef } from 'vue'
import { api, type CarryingPage } from '../api/client'
import DateTime from './DateTime.vue'
import { local } from './time'
import VisitorPicker from './VisitorPicker.vue'
import { nameOf } from './languages'
import { spans, useViewpoint, widths } from './viewpoint'

const props = defineProps<{ languages: string[] }>()
const { site, page, at, language, width, look, view, span } = useViewpoint()

const screens = [
  { value: '', label: 'any screen' },
  ...widths.map((w) => ({ value: String(w.px), label: w.label.toLowerCase() })),
]
const tongues = computed(() => props.languages.map((tag) => ({ value: tag, label: nameOf(tag) })))

const known = ref<CarryingPage[]>([])
const found = ref('')
watch(
  [site, () => view.value?.pages],
  async ([key]) => {
    known.value = key ? ((await api.carried(key, {}).catch(() => undefined))?.pages ?? []) : []
  },
  { immediate: true },
)
const options = computed(() => {
  const wanted = found.value.toLowerCase()
  const hits = known.value.filter((p) => `${p.path} ${p.title}`.toLowerCase().includes(wanted))
  return hits.slice(0, 60)
})

const moment = computed({
  get: () => (view.value ? local(view.value.at, view.value.zone) : ''),
  set: (v: string) => look({ at: v ?? '' }),
})

/** To the next change ahead of the viewpoint, or the last one behind it on the strip. */
function step(forward: boolean) {
  const to = forward ? view.value?.next[0]?.at : view.value?.last
  if (to) look({ at: local(to, view.value!.zone) })
}
const picker = useTemplateRef<InstanceType<typeof VisitorPicker>>('picker')
defineExpose({ step, pickVisitor: () => picker.value?.toggle() })
</script>

<template>
  <section class="viewpoint" aria-label="Viewpoint">
    <span class="lead">Seen from</span>
    <el-select
      :model-value="view?.page.path ?? page"
      class="page"
      filterable
      persistent
      allow-create
      default-first-option
      aria-label="Page"
      :filter-method="(q: string) => (found = q)"
      @visible-change="found = ''"
      @change="(v: string) => look({ page: v.startsWith('/') ? v : '/' + v })"
    >
      <el-option v-for="p in options" :key="p.path" :value="p.path" :label="p.path">
        <span>{{ p.path }}</span> <span class="quiet small">{{ p.title }}</span>
      </el-option>
    </el-select>
    <span class="lead">at</span>
    <span class="moment">
      <el-button text aria-label="Previous change" title="Previous change  [" @click="step(false)">◂</el-button>
      <DateTime v-model="moment" label="Moment" />
      <el-button text aria-label="Next change" title="Next change  ]" @click="step(true)">▸</el-button>
      <el-button v-if="at" text @click="look({ at: '' })">Now</el-button>
      <span class="quiet small">{{ at ? '' : 'now, ' }}{{ view?.zone }}</span>
    </span>
    <span class="lead">by</span>
    <VisitorPicker ref="picker" />
    <el-select
      v-if="tongues.length > 1"
      :model-value="language || view?.page.language"
      class="tongue"
      aria-label="Language"
      @change="(v: string) => look({ language: v === view?.page.language && !language ? '' : v })"
    >
      <el-option v-for="t in tongues" :key="t.value" :value="t.value" :label="t.label" />
    </el-select>
    <el-select
      :model-value="width || undefined"
      class="screen"
      placeholder="any screen"
      aria-label="Screen"
      @change="(v: string) => look({ width: v })"
    >
      <el-option v-for="s in screens" :key="s.value" :value="s.value" :label="s.label" />
    </el-select>
    <el-button
      v-if="language && view"
      text
      size="small"
      title="Back to the page’s own language"
      aria-label="The page’s own language"
      @click="look({ language: '' })"
      >✕</el-button
    >
    <span class="grow"></span>
    <el-select v-model="span" class="span" aria-label="Time shown on the strip">
      <el-option v-for="s in spans" :key="s.days" :value="s.days" :label="s.label" />
    </el-select>
  </section>
</template>

<style scoped>
.viewpoint {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  padding: 6px 24px;
  border-bottom: 1px solid var(--line);
  background: var(--chart);
}
.lead {
  color: var(--ink-2);
}
.page {
  width: 200px;
}
.moment {
  display: inline-flex;
  align-items: center;
  gap: 0;
}
.moment :deep(.el-date-editor) {
  width: 212px;
}
.moment .el-button {
  padding: 4px 8px;
}
.span {
  width: 104px;
}
.tongue {
  width: 100px;
}
.screen {
  width: 126px;
}
.grow {
  flex: 1;
}
@media (max-width: 700px) {
  .viewpoint {
    padding: 6px 12px;
  }
  .page {
    flex: 1;
  }
  .moment {
    flex-wrap: wrap;
  }
  .span {
    display: none;
  }
}
</style>
