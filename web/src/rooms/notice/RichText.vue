<script setup lang="ts">
// A message with bold, italic, links, lists and emoji.
import { TableKit } from '@tiptap/extension-table'
import StarterKit from '@tiptap/starter-kit'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { defineAsyncComponent, ref, watch } from 'vue'
import IconHeading from '~icons/tabler/h-2'
import IconBold from '~icons/tabler/bold'
import IconCountdown from '~icons/tabler/hourglass'
import IconItalic from '~icons/tabler/italic'
import IconLink from '~icons/tabler/link'
import IconList from '~icons/tabler/list'
import IconNumbers from '~icons/tabler/list-numbers'
import IconSmile from '~icons/tabler/mood-smile'
import IconFillIn from '~icons/tabler/address-book'
import IconPicture from '~icons/tabler/photo'
import type { Site } from '../../api/client'
import { pictureOf, pictures } from './pictures'

const ImageChoice = defineAsyncComponent(() => import('./look/ImageChoice.vue'))

/**
 * `countable`: a countdown can stand in it. `document`: headings and tables can. `pictured`: headings and pictures of
 * the site can, which is the one named.
 */
const props = defineProps<{
  label: string
  lang: string
  countable?: boolean
  document?: boolean
  pictured?: string
}>()
const emit = defineEmits<{ count: [] }>()
const text = defineModel<string>({ required: true })

const editor = useEditor({
  content: text.value,
  extensions: [
    StarterKit.configure({
      heading: props.document || props.pictured ? { levels: [2, 3] } : false,
      blockquote: false,
      code: false,
      codeBlock: false,
      horizontalRule: false,
      strike: false,
      underline: false,
      link: {
        openOnClick: false,
        protocols: ['mailto', 'tel', 'document'],
        HTMLAttributes: { target: null, rel: null },
      },
    }),
    ...(props.document ? [TableKit] : []),
    ...(props.pictured ? [pictures(`/i/${props.pictured}/`)] : []),
  ],
  editorProps: {
    attributes: { 'aria-label': props.label, role: 'textbox', 'aria-multiline': 'true', lang: props.lang },
  },
  onUpdate: ({ editor: e }) => (text.value = e.isEmpty ? '' : e.getHTML()),
})
watch(text, (t) => {
  const e = editor.value
  if (e && t !== (e.isEmpty ? '' : e.getHTML())) e.commands.setContent(t, { emitUpdate: false })
})
watch(
  () => props.lang,
  (lang) =>
    editor.value?.setOptions({
      editorProps: { attributes: { 'aria-label': props.label, role: 'textbox', 'aria-multiline': 'true', lang } },
    }),
)

/** What a site says once of itself, and texts leave a place for. */
const fillIns: Record<keyof NonNullable<Site['fillIns']>, string> = {
  name: 'Its name',
  telephone: 'Its telephone number',
  email: 'Its e-mail address',
  address: 'Its address',
  hours: 'Its opening hours',
}
/** What a site tells of its visitor; the words after the bar are for all others. */
const personal = {
  'person.name|you': 'What the site tells of the visitor, or words for all others',
  'event.order.product|it': 'What the site told with an event, or words for all others',
}
const emoji = [...'⛴🚢🌊⚠🌧❄☀🎉🎄📅⏰📣📍🚗🚲🐕✅❗💶🎁🙏👋ℹ']
const picking = ref(false)
const linking = ref(false)
const href = ref('')

function openLink() {
  href.value = editor.value?.getAttributes('link').href ?? ''
  linking.value = !linking.value
  picking.value = false
}
function setLink() {
  const chain = editor.value?.chain().focus().extendMarkRange('link')
  if (href.value.trim()) chain?.setLink({ href: href.value.trim() }).run()
  else chain?.unsetLink().run()
  linking.value = false
}
/** Where the countdown is to stand, once in a text. */
function count() {
  if (!text.value.includes('{countdown}')) insert('{countdown}')
  emit('count')
}
/** A picture is chosen, and then what it shows is said. */
const choosing = ref(false)
const chosen = ref('')
const alt = ref('')
function putPicture() {
  editor.value?.chain().focus().setImage(pictureOf(chosen.value, alt.value.trim())).run()
  choosing.value = false
  chosen.value = alt.value = ''
}
function insert(e: string) {
  editor.value?.chain().focus().insertContent(e).run()
  picking.value = false
}
</script>

<template>
  <div class="rich" :class="{ document }">
    <div v-if="editor" class="tools" role="toolbar" :aria-label="`Form of ${label.toLowerCase()}`">
      <button
        type="button"
        aria-label="Bold"
        title="Bold  Ctrl+B"
        :aria-pressed="editor.isActive('bold')"
        @click="editor.chain().focus().toggleBold().run()"
      >
        <IconBold />
      </button>
      <button
        type="button"
        aria-label="Italic"
        title="Italic  Ctrl+I"
        :aria-pressed="editor.isActive('italic')"
        @click="editor.chain().focus().toggleItalic().run()"
      >
        <IconItalic />
      </button>
      <button
        type="button"
        aria-label="Link"
        title="Link the selected words"
        :aria-pressed="editor.isActive('link')"
        :aria-expanded="linking"
        @click="openLink"
      >
        <IconLink />
      </button>
      <button
        v-if="document || pictured"
        type="button"
        aria-label="Heading"
        title="Heading"
        :aria-pressed="editor.isActive('heading')"
        @click="editor.chain().focus().toggleHeading({ level: 2 }).run()"
      >
        <IconHeading />
      </button>
      <button
        type="button"
        aria-label="List"
        title="List"
        :aria-pressed="editor.isActive('bulletList')"
        @click="editor.chain().focus().toggleBulletList().run()"
      >
        <IconList />
      </button>
      <button
        type="button"
        aria-label="Numbered list"
        title="Numbered list"
        :aria-pressed="editor.isActive('orderedList')"
        @click="editor.chain().focus().toggleOrderedList().run()"
      >
        <IconNumbers />
      </button>
      <button
        type="button"
        aria-label="Emoji"
        title="Emoji"
        :aria-expanded="picking"
        @click="((picking = !picking), (linking = false))"
      >
        <IconSmile />
      </button>
      <button
        v-if="pictured"
        type="button"
        aria-label="Picture"
        title="Picture"
        :aria-expanded="choosing"
        @click="choosing = !choosing"
      >
        <IconPicture />
      </button>
      <el-dropdown v-if="!document" trigger="click" @command="(key: string) => insert(`{${key}}`)">
        <button type="button" aria-label="What the site says of itself" title="Put in what Site, About says once">
          <IconFillIn />
        </button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="(says, key) in fillIns" :key="key" :command="key">{{ says }}</el-dropdown-item>
            <el-dropdown-item v-for="(says, place, at) in personal" :key="place" :command="place" :divided="at === 0">{{
              says
            }}</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <button v-if="countable" type="button" aria-label="Countdown" title="Put a countdown here" @click="count">
        <IconCountdown />
      </button>
    </div>
    <div v-if="picking" class="emoji">
      <button v-for="e in emoji" :key="e" type="button" @click="insert(e)">{{ e }}</button>
    </div>
    <ImageChoice v-if="choosing && pictured && !chosen" :site="pictured" @take="({ file }) => (chosen = file)" />
    <form v-if="choosing && chosen" class="linking" @submit.prevent="putPicture">
      <el-input
        v-model="alt"
        aria-label="What the picture shows"
        placeholder="What it shows, for those who do not see it"
        size="small"
        autofocus
      />
      <el-button native-type="submit" size="small">Put it in</el-button>
    </form>
    <form v-if="linking" class="linking" @submit.prevent="setLink" @keydown.esc.stop="linking = false">
      <el-input
        v-model="href"
        aria-label="Address of the link"
        placeholder="/status, https://… or document:privacy"
        size="small"
        autofocus
      />
      <el-button native-type="submit" size="small">{{ href.trim() ? 'Link the words' : 'Remove the link' }}</el-button>
    </form>
    <EditorContent :editor="editor" class="paper" />
  </div>
</template>

<style scoped>
.rich {
  border: 1px solid var(--line);
  border-radius: 3px;
}
.rich:focus-within {
  border-color: var(--sea);
}
.tools,
.emoji,
.linking {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  padding: 2px;
  border-bottom: 1px solid var(--line);
  background: var(--chart);
}
.linking {
  flex-wrap: nowrap;
  gap: 6px;
  padding: 6px;
}
.tools button,
.emoji button {
  display: grid;
  place-items: center;
  width: 30px;
  height: 28px;
  padding: 0;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font-size: 16px;
  cursor: pointer;
}
.tools button:hover,
.emoji button:hover {
  background: var(--line);
}
.tools button[aria-pressed='true'] {
  background: var(--sea);
  color: var(--on-sea);
}
.paper :deep(.tiptap) {
  min-height: 76px;
  max-height: 200px;
  overflow-y: auto;
  padding: 8px 10px;
  font-size: 16px;
  outline: none;
}
.document .paper :deep(.tiptap) {
  max-height: 420px;
  font-size: 15px;
}
.document .paper :deep(:is(h2, h3)) {
  margin: 4px 0;
}
.document .paper :deep(:is(td, th)) {
  padding: 2px 8px;
  border: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}
.paper :deep(img) {
  display: block;
  max-width: 100%;
  max-height: 120px;
  margin: 4px 0;
}
.paper :deep(.ProseMirror-selectednode) {
  outline: 2px solid var(--sea);
}
.paper :deep(p) {
  margin: 0 0 4px;
}
.paper :deep(ul),
.paper :deep(ol) {
  margin: 0;
  padding-inline-start: 24px;
}
</style>
