<script setup lang="ts">
// Help: a short guide to the room one is in, and the keyboard commands.
import { computed, ref } from 'vue'
import { commands, keyOf, setKey, shortcutsOff, type Command } from '../../instruments/shortcuts'

const shown = defineModel<boolean>({ required: true })
const props = defineProps<{ room: string }>()

const guides: Record<string, { title: string; steps: string[] }> = {
  now: {
    title: 'Now & next',
    steps: [
      'Each row is a notice: its flag says its state, its sentence says where, for whom and when.',
      'Why? beside a notice lists every gate it has to pass, and the one it fails, on the page and at the moment ' +
        'you look from.',
      'The line under the rooms is where you look from: choose another page, moment or visitor, and ' +
        'everything follows.',
      'End…, Pause and Unpublish work at once. Pausing can be undone.',
    ],
  },
  notice: {
    title: 'A notice',
    steps: [
      'Write the words on the left; or press them on the stage and write there: it is the real page.',
      'Every underlined word of the sentence can be changed: press it.',
      'Below the stage lies its time. Drag a stretch to move it, an end to change it; the arrow keys do the same.',
      'Nobody sees a draft. Publish puts it out; what was out before is kept in the history.',
      'Languages shows all words side by side, and what is missing, old or unread.',
    ],
  },
  pages: {
    title: 'Pages',
    steps: [
      'The tree shows what each page carries at the moment you look from. Choose a page to see what it does not ' +
        'carry, and why.',
      'Choose a notice to work on, then press pages to take them in or leave them out. That goes into its draft.',
      'The table compares all pages and notices, and can be saved for a spreadsheet.',
    ],
  },
  consent: {
    title: 'Consent',
    steps: [
      'What do we set? lists every cookie, key, frame and request with what it is for. Inspect the site, and it ' +
        'says what was really set, before an answer, after accepting and after refusing.',
      'What do we ask? has the purposes and the notices that ask. What would not hold up in law is listed with ' +
        'the article it follows from.',
      'What was answered? counts and keeps the answers. The records are a chain: checking it proves that none ' +
        'was changed or dropped.',
      'What does each place want? is a table to start from, not legal advice. Your own rows go before it.',
    ],
  },
  library: {
    title: 'Library',
    steps: [
      'A starting point is a notice that is right as it comes. Use it, look at it, publish it.',
      'Save as starting point, in a notice’s More, keeps yours here.',
      'Page sets and audiences are changed in the notice that uses them; what nothing uses can be removed here.',
    ],
  },
  site: {
    title: 'Site',
    steps: [
      'Paste the two lines into the head of every page, or send them to whoever can.',
      'Read the pages, and Mast Flag knows which there are and where the lines are missing.',
      'The master switch takes everything off at once, and brings it back.',
      'Viewers look, editors write and publish, administrators set up sites and people.',
    ],
  },
}
const guide = computed(() => guides[props.room])
const shortcutsOn = computed({ get: () => !shortcutsOff.value, set: (on) => (shortcutsOff.value = !on) })

/** Where the key that goes to a room leads, by the letter that follows. */
const goes = [
  ['n', 'Now & next'],
  ['p', 'Pages'],
  ['c', 'Consent'],
  ['l', 'the Library'],
  ['s', 'Site'],
]
/** The command that is being given another key, and why a key was not taken. */
const changing = ref<Command>()
const wrong = ref('')
function take(name: Command, e: KeyboardEvent) {
  if (['Shift', 'Control', 'Alt', 'Meta', 'Tab'].includes(e.key)) return
  e.preventDefault()
  e.stopPropagation()
  if (e.key !== 'Escape') {
    wrong.value = setKey(name, e.key)
    if (wrong.value) return
  }
  wrong.value = ''
  changing.value = undefined
}
</script>

<template>
  <el-dialog v-model="shown" title="Help" width="min(94vw, 640px)">
    <section v-if="guide">
      <h2>{{ guide.title }}</h2>
      <ul>
        <li v-for="s in guide.steps" :key="s">{{ s }}</li>
      </ul>
    </section>
    <h2 id="keyboard">Keyboard</h2>
    <el-switch v-model="shortcutsOn" active-text="Single keys are commands" aria-label="Single keys are commands" />
    <p v-if="shortcutsOff" class="quiet small">
      Whoever speaks to their computer, or strikes keys by mistake, works better without them.
    </p>
    <p v-if="wrong" class="error small" role="alert">{{ wrong }}</p>
    <dl :class="{ off: shortcutsOff }">
      <template v-for="c in commands" :key="c.name">
        <dt>
          <input
            v-if="changing === c.name"
            :value="keyOf(c.name)"
            class="key"
            :aria-label="`Key for: ${c.label}. Press the new one, or Escape`"
            readonly
            autofocus
            @vue:mounted="(v: { el: HTMLElement }) => v.el.focus()"
            @keydown="take(c.name, $event)"
            @blur="changing = undefined"
          />
          <kbd v-else>{{ keyOf(c.name) }}</kbd>
        </dt>
        <dd>
          {{ c.label
          }}<span v-if="c.name === 'go'" class="quiet small"
            >:
            <template v-for="([k, where], i) in goes" :key="k"
              >{{ i ? ', ' : '' }}{{ k }} to {{ where }}</template
            ></span
          >
        </dd>
        <dd class="change">
          <el-button
            size="small"
            text
            :disabled="shortcutsOff"
            :aria-label="`Change the key for: ${c.label}`"
            @click="changing = c.name"
            >Change</el-button
          >
          <el-button
            v-if="keyOf(c.name) !== c.key"
            size="small"
            text
            :aria-label="`Give back ${c.key} to: ${c.label}`"
            @click="wrong = setKey(c.name, '')"
            >Back to {{ c.key }}</el-button
          >
        </dd>
      </template>
      <dt><kbd>Ctrl</kbd><kbd>Z</kbd></dt>
      <dd>Undo in a notice; with Shift, do it again</dd>
      <dd></dd>
    </dl>
    <p class="small">
      <a href="/licences.txt" target="_blank" rel="noopener">Licences of what ships with the program</a>
    </p>
  </el-dialog>
</template>

<style scoped>
ul {
  margin: 6px 0 16px;
  padding-inline-start: 18px;
}
li {
  margin: 4px 0;
}
dl {
  display: grid;
  grid-template-columns: 84px 1fr auto;
  align-items: center;
  gap: 6px 8px;
  margin: 8px 0 0;
}
dt {
  display: flex;
  gap: 4px;
  align-items: center;
}
dd {
  margin: 0;
}
.off {
  color: var(--ink-2);
}
.key {
  width: 3em;
  border: 2px solid var(--sea);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
  text-align: center;
}
.change {
  white-space: nowrap;
}
.change .el-button {
  margin: 0;
}
</style>
