<script setup lang="ts">
// A countdown: what it counts, how it reads, what follows its end.
import { computed, inject } from 'vue'
import type { CountReading, Countdown, Window } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import DateTime from '../../../instruments/DateTime.vue'
import { findNames } from '../../../instruments/names'
import PeriodField from '../../../instruments/PeriodField.vue'
import { later, noonAfter } from '../../../instruments/time'
import RepeatEditor from './RepeatEditor.vue'
import TextField from '../../../instruments/TextField.vue'

const props = defineProps<{
  zone: string
  now: string
  reading?: CountReading
  notices: { id: string; title: string }[]
}>()
const countdown = defineModel<Countdown>({ required: true })
defineEmits<{ remove: [] }>()
const find = inject(findNames, undefined)

type Kind = Countdown['kind']
const kinds: { value: Kind; label: string }[] = [
  { value: 'to', label: 'to a moment' },
  { value: 'repeating', label: 'to the next of many moments' },
  { value: 'visitor', label: 'for each visitor, from when they meet it' },
  { value: 'since', label: 'up, since a moment' },
  { value: 'number', label: 'a number that changes' },
]
function set(part: Partial<Countdown>) {
  countdown.value = changed(countdown.value, part)
}
/** Another kind keeps what it shares with the last. */
function turnTo(kind: Kind) {
  const { at, clock, units, labels, frame, size, then, handTo, go } = countdown.value
  const base: Countdown = { kind, frame, size }
  const timed = { ...base, at: at || noonAfter(props.now), clock }
  const shown = { units, labels }
  const end = then === 'again' ? { go } : { then, handTo, go }
  set({
    // What the kind does not have is taken away.
    ...Object.fromEntries(Object.keys(countdown.value).map((k) => [k, undefined])),
    ...(kind === 'to'
      ? { ...timed, ...shown, ...end }
      : kind === 'repeating'
        ? { ...timed, ...shown, ...end, rule: 'FREQ=WEEKLY' }
        : kind === 'visitor'
          ? { ...base, ...shown, ...end, for: 'PT2H' }
          : kind === 'since'
            ? { ...timed, ...shown }
            : {
                ...base,
                at: at || noonAfter(props.now),
                clock: clock === 'visitor' ? undefined : clock,
                from: 0,
                to: 100,
                until: later(at || noonAfter(props.now), 7),
              }),
  })
}

const lengths = ['weeks', 'days', 'hours', 'minutes', 'seconds'] as const
type Unit = (typeof lengths)[number]
const units = computed(() => (countdown.value.units ?? lengths.slice(1)) as Unit[])
function run(first: Unit, last: Unit) {
  const [a, b] = [lengths.indexOf(first), lengths.indexOf(last)].sort()
  set({ units: lengths.slice(a, b! + 1) })
}

/** A number of each visitor's own, in place of the time that is left. */
const ownNumber = computed(() => countdown.value.kind === 'visitor' && countdown.value.to !== undefined)
const turnNumber = (to: string) =>
  set(
    to === 'number'
      ? { from: 20, to: 1, units: undefined, labels: undefined, then: undefined }
      : { from: undefined, to: undefined, then: undefined },
  )
const bySteps = computed(() => !!countdown.value.every)
function turnSteps(steps: boolean) {
  if (steps) set({ until: undefined, to: undefined, step: 1, every: 'PT1H' })
  else
    set({
      every: undefined,
      step: undefined,
      to: countdown.value.to ?? (countdown.value.from ?? 0) + 100,
      until: later(countdown.value.at!, 7),
    })
}
const endless = computed(() => countdown.value.kind === 'since' || (bySteps.value && countdown.value.to === undefined))
const numbered = computed(() => countdown.value.kind === 'number' || ownNumber.value)
const thens = computed(() => [
  { value: 'disappear', label: 'the notice disappears' },
  { value: 'say', label: 'it says something else' },
  { value: 'stay', label: numbered.value ? 'it stays at its last number' : 'it stays at zero' },
  ...(['visitor', 'number'].includes(countdown.value.kind) ? [{ value: 'again', label: 'it begins again' }] : []),
  { value: 'hand-over', label: 'another notice takes its place' },
])
const then = computed(() => countdown.value.then ?? (numbered.value ? 'stay' : 'disappear'))
function follow(value: string) {
  set({
    then: value as Countdown['then'],
    handTo: value === 'hand-over' ? (countdown.value.handTo ?? props.notices[0]?.id) : undefined,
  })
}
const moment = computed<Window>({
  get: () => ({
    from: countdown.value.at,
    rule: countdown.value.rule,
    except: countdown.value.except,
    also: countdown.value.also,
  }),
  set: (w) => set({ rule: w.rule || 'FREQ=DAILY', except: w.except, also: w.also }),
})
</script>

<template>
  <div class="countdown">
    <p v-if="reading" class="reads" role="status">
      Reads now: <b>{{ reading.says }}</b>
    </p>
    <div class="pair">
      <label
        >It counts
        <el-select :model-value="countdown.kind" aria-label="It counts, which kind" @change="turnTo">
          <el-option v-for="k in kinds" :key="k.value" :value="k.value" :label="k.label" />
        </el-select>
      </label>
      <label v-if="countdown.kind !== 'visitor'"
        >{{
          { to: 'The moment', repeating: 'The first moment', since: 'Since', number: 'It begins', visitor: '' }[
            countdown.kind
          ]
        }}
        <DateTime :model-value="countdown.at" label="The moment" @update:model-value="(v) => v && set({ at: v })" />
      </label>
      <label v-else
        >How long
        <PeriodField :model-value="countdown.for" label="How long" @update:model-value="(v) => set({ for: v })" />
      </label>
    </div>
    <div v-if="countdown.kind === 'visitor'" class="pair">
      <label
        >It shows
        <el-select :model-value="ownNumber ? 'number' : 'time'" aria-label="What it shows" @change="turnNumber">
          <el-option value="time" label="the time that is left" />
          <el-option value="number" label="a number that goes up or down" />
        </el-select>
      </label>
      <label v-if="ownNumber"
        >From, to
        <span class="run">
          <el-input-number
            :model-value="countdown.from ?? 0"
            :controls="false"
            aria-label="From number"
            @change="(n: number | undefined) => set({ from: n || undefined })"
          />
          to
          <el-input-number
            :model-value="countdown.to"
            :controls="false"
            aria-label="To number"
            @change="(n: number | undefined) => set({ to: n ?? 0 })"
          />
        </span>
      </label>
    </div>
    <p v-if="countdown.kind === 'visitor'" class="quiet small">
      Kept in the visitor’s own browser: the same on every page, and not won back by loading a page again.
    </p>
    <RepeatEditor v-if="countdown.kind === 'repeating'" v-model="moment" :n="1" />
    <template v-if="countdown.kind === 'number'">
      <div class="pair">
        <label
          >From
          <el-input-number
            :model-value="countdown.from ?? 0"
            :controls="false"
            aria-label="From number"
            @change="(n: number | undefined) => set({ from: n || undefined })"
          />
        </label>
        <label
          >To{{ bySteps ? ', if anywhere' : '' }}
          <el-input-number
            :model-value="countdown.to"
            :controls="false"
            aria-label="To number"
            @change="(n: number | undefined) => set({ to: n ?? undefined })"
          />
        </label>
      </div>
      <el-radio-group
        :model-value="bySteps ? 'steps' : 'period'"
        size="small"
        aria-label="How it changes"
        @change="(v?: string | number | boolean) => turnSteps(v === 'steps')"
      >
        <el-radio-button value="period">evenly, until a moment</el-radio-button>
        <el-radio-button value="steps">by steps</el-radio-button>
      </el-radio-group>
      <div class="pair">
        <label v-if="!bySteps"
          >Reached at
          <DateTime
            :model-value="countdown.until"
            label="Reached at"
            @update:model-value="(v) => v && set({ until: v })"
          />
        </label>
        <template v-else>
          <label
            >By
            <el-input-number
              :model-value="countdown.step"
              :controls="false"
              aria-label="Step"
              @change="(n: number | undefined) => n && set({ step: n })"
            />
          </label>
          <label
            >every
            <PeriodField :model-value="countdown.every" label="Every" @update:model-value="(v) => set({ every: v })" />
          </label>
        </template>
      </div>
    </template>
    <div v-else-if="!ownNumber" class="pair">
      <label
        >Shown in
        <span class="run">
          <el-select
            :model-value="units[0]"
            aria-label="Largest unit shown"
            @change="(u: Unit) => run(u, units[units.length - 1]!)"
          >
            <el-option v-for="u in lengths" :key="u" :value="u" :label="u" />
          </el-select>
          to
          <el-select
            :model-value="units[units.length - 1]"
            aria-label="Smallest unit shown"
            @change="(u: Unit) => run(units[0]!, u)"
          >
            <el-option v-for="u in lengths" :key="u" :value="u" :label="u" />
          </el-select>
        </span>
      </label>
      <label
        >Beside the figures
        <el-select
          :model-value="countdown.labels ?? 'full'"
          aria-label="Beside the figures"
          @change="(v: Countdown['labels']) => set({ labels: v })"
        >
          <el-option value="full" label="names of the units" />
          <el-option value="short" label="short names" />
          <el-option value="own" label="words of your own" />
          <el-option value="none" label="nothing, as on a clock" />
        </el-select>
      </label>
    </div>
    <div class="pair">
      <label
        >Set
        <el-select
          :model-value="countdown.frame ?? 'line'"
          aria-label="How the figures are set"
          @change="(v: Countdown['frame']) => set({ frame: v })"
        >
          <el-option value="line" label="in a line with the words" />
          <el-option value="open" label="one above the other, without a frame" />
          <el-option value="square" label="in square frames" />
          <el-option value="round" label="in round frames" />
        </el-select>
      </label>
      <label
        >Size
        <el-select
          :model-value="countdown.size ?? 'medium'"
          aria-label="Size of the figures"
          @change="(v: Countdown['size']) => set({ size: v })"
        >
          <el-option value="small" label="small" />
          <el-option value="medium" label="as the words" />
          <el-option value="large" label="large" />
        </el-select>
      </label>
      <label v-if="countdown.kind !== 'visitor'"
        >On the clock of
        <el-select
          :model-value="countdown.clock ?? 'site'"
          aria-label="Whose clock it counts on"
          @change="(v: string) => set({ clock: v === 'site' ? undefined : v })"
        >
          <el-option value="site" :label="`the site, ${zone}`" />
          <el-option v-if="countdown.kind !== 'number'" value="visitor" label="each visitor, wherever they are" />
          <el-option
            v-if="countdown.clock && countdown.clock !== 'visitor'"
            :value="countdown.clock"
            :label="countdown.clock"
          />
        </el-select>
      </label>
    </div>
    <div v-if="!endless" class="pair">
      <label
        >{{ countdown.kind === 'repeating' ? 'After the last of them' : 'At the end' }}
        <el-select :model-value="then" aria-label="What follows the end" @change="follow">
          <el-option v-for="t in thens" :key="t.value" :value="t.value" :label="t.label" />
        </el-select>
      </label>
      <label v-if="then === 'hand-over'"
        >Which one
        <el-select
          :model-value="countdown.handTo"
          aria-label="Which notice takes its place"
          filterable
          persistent
          :remote="!!find"
          :remote-method="find"
          @change="(v: string) => set({ handTo: v })"
        >
          <el-option v-for="n in notices" :key="n.id" :value="n.id" :label="n.title" />
        </el-select>
      </label>
      <label
        >And the page goes to, if anywhere
        <TextField
          :model-value="countdown.go ?? ''"
          aria-label="Where the page goes"
          placeholder="/offers"
          @change="(v: string) => set({ go: v.trim() || undefined })"
        />
      </label>
    </div>
    <p v-if="then === 'say' && !endless" class="quiet small">
      What it says then is written below its message, in each language.
    </p>
    <p v-if="countdown.go" class="quiet small">
      Only a page that is open when it runs out goes there; never from that page itself, never twice in a visit.
    </p>
    <div><el-button size="small" @click="$emit('remove')">Remove the countdown</el-button></div>
  </div>
</template>

<style scoped>
.countdown {
  display: grid;
  gap: 10px;
}
p {
  margin: 0;
}
.reads {
  font-variant-numeric: tabular-nums;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
}
label {
  display: grid;
  gap: 2px;
  align-content: start;
  color: var(--ink-2);
}
.run {
  display: flex;
  gap: 6px;
  align-items: center;
}
.pair :deep(:is(.el-date-editor, .el-input-number)) {
  width: 100%;
}
@media (max-width: 560px) {
  .pair {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
