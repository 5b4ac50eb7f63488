<script setup lang="ts">
// How often a notice was seen each day, as columns, and what was done, as lines; above them when
// visitors could notice that something was changed, below them the strip of time, with when the notice
// of that title is live. Loaded when it is looked at.
import { usePreferredDark } from '@vueuse/core'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { NoticeResults } from '../../api/client'
import TimeRow from '../../instruments/TimeRow.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { figure, happened } from './figures'

use([BarChart, LineChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

const props = defineProps<{
  result: Pick<NoticeResults, 'from' | 'until' | 'strip' | 'days' | 'all' | 'deeds' | 'says'>
  title?: string
}>()
const { view } = useViewpoint()
const strip = computed(
  () => view.value && { ...view.value, from: props.result.strip.from, until: props.result.strip.until },
)
const dark = usePreferredDark()

/** Every day from the first to the last that is looked at, also those on which nothing was counted. */
const days = computed(() => {
  const out: string[] = []
  const last = new Date(`${props.result.until}T12:00Z`)
  for (const day = new Date(`${props.result.from}T12:00Z`); day <= last; day.setUTCDate(day.getUTCDate() + 1))
    out.push(day.toISOString().slice(0, 10))
  return out
})
const short = (day: string) =>
  new Date(`${day}T12:00Z`).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })

const option = computed(() => {
  const style = getComputedStyle(document.documentElement)
  // Asked for anew where the system turns dark or light.
  const token = (name: string) => (void dark.value, style.getPropertyValue(name).trim())
  const byDay = new Map(props.result.days.map((d) => [d.key, d]))
  const lines = happened([props.result.all]).filter((a) => a.act !== 'closed')
  const colours = [token('--live'), token('--wait'), token('--ink'), token('--ink-2')]
  const axis = { axisLine: { lineStyle: { color: token('--line') } }, axisLabel: { color: token('--ink-2') } }
  return {
    animation: false,
    textStyle: { fontFamily: getComputedStyle(document.body).fontFamily },
    // The strip of time below it has its days, and as much room at its sides.
    grid: { left: 48, right: 48, top: 30, bottom: 8 },
    legend: { top: 0, right: 0, textStyle: { color: token('--ink') }, itemWidth: 14, itemHeight: 8 },
    tooltip: {
      trigger: 'axis',
      backgroundColor: token('--sail'),
      borderColor: token('--line'),
      textStyle: { color: token('--ink') },
      valueFormatter: (v: unknown) => figure(Number(v)),
    },
    xAxis: {
      type: 'category',
      data: days.value.map(short),
      axisTick: { show: false },
      axisLine: axis.axisLine,
      axisLabel: { show: false },
    },
    yAxis: [
      { type: 'value', minInterval: 1, splitLine: { lineStyle: { color: token('--line') } }, ...axis },
      { type: 'value', minInterval: 1, splitLine: { show: false }, ...axis },
    ],
    series: [
      {
        name: 'seen',
        type: 'bar',
        data: days.value.map((d) => byDay.get(d)?.seen ?? 0),
        itemStyle: { color: token('--sea') },
        barCategoryGap: '25%',
        markLine: {
          symbol: 'none',
          label: { show: false },
          lineStyle: { color: token('--ink-2'), type: 'dashed' },
          data: props.result.deeds.map((d) => ({ xAxis: short(d.day) })),
        },
      },
      ...lines.map((a, i) => ({
        name: `${a.says} (right)`,
        type: 'line',
        yAxisIndex: 1,
        symbolSize: 5,
        data: days.value.map((d) => byDay.get(d)?.[a.act] ?? 0),
        itemStyle: { color: colours[i % colours.length] },
        lineStyle: { width: 2 },
      })),
    ],
  }
})
</script>

<template>
  <div>
    <VChart
      class="chart"
      :option="option"
      autoresize
      role="img"
      :aria-label="`Day by day: ${result.says} The table has all figures.`"
    />
    <div v-if="strip" class="strip">
      <TimeScale :view="strip" />
      <TimeRow v-if="title" :view="strip" :intervals="result.strip.intervals" out :name="title" />
    </div>
  </div>
</template>

<style scoped>
.chart {
  height: 200px;
}
/* Its days lie below the columns of the chart, which has as much room at its sides. */
.strip {
  margin: 0 48px;
}
</style>
