<script setup lang="ts">
// What a block is made of: a sketch of its rows and columns, whose parts are
// dragged, or moved by Alt and an arrow; the part chosen is edited below its row.
import Sortable from 'sortablejs'
import { computed, nextTick, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import IconDown from '~icons/tabler/arrow-down'
import IconUp from '~icons/tabler/arrow-up'
import IconGrip from '~icons/tabler/grip-vertical'
import type { Notice, Part, PartWords, Row, SiteDetail, Wording } from '../../../api/client'
import PartEditor from './PartEditor.vue'
import * as block from './rows'

type Content = NonNullable<Notice['content']>

const props = defineProps<{ site: string; detail?: SiteDetail; lang: string; name: string; known: string[] }>()
const emit = defineEmits<{ count: [] }>()
const content = defineModel<Content>({ required: true })

const rows = computed(() => content.value.rows ?? [])
const wordings = computed(() => content.value.wordings ?? {})
const words = computed<NonNullable<Wording['parts']>>(() => wordings.value[props.lang]?.parts ?? {})
function put(next: Row[], said = wordings.value) {
  content.value = { ...content.value, rows: next, wordings: block.pruned(said, next) }
}

const chosen = ref('')
const part = computed(() => block.partsOf(rows.value).find((p) => p.id === chosen.value))
const chosenRow = computed(() => block.placeOf(rows.value, chosen.value)?.row)
const says = ref('')
const box = useTemplateRef<HTMLElement>('box')
const chip = (id: string) => box.value?.querySelector<HTMLElement>(`[data-part="${id}"]`)

/** Opens a part, as a press on it on the stage does. */
function choose(id: string) {
  chosen.value = id
  void nextTick(() => chip(id)?.scrollIntoView?.({ block: 'nearest' }))
}
defineExpose({ choose })

const mail = computed(() => {
  const said = props.detail?.site.documents?.map((d) => d.answers?.email).find(Boolean)
  const origin = props.detail?.site.origins?.[0]
  return said ?? `office@${origin ? new URL(origin).hostname : 'example.org'}`
})
function add(row: number, column: number, kind: block.Kind) {
  const made = block.begun(rows.value, kind, mail.value)
  const at = rows.value[row]!.columns[column]!.parts?.length ?? 0
  const first = block.firstWords(kind)
  const said = Object.keys(first).length ? block.say(wordings.value, props.lang, made.id, first) : wordings.value
  let next = block.put(rows.value, made, { row, column, at })
  // The first field brings the button that sends it.
  if (block.lacksSend(next)) next = block.put(next, block.begun(next, 'send', ''), { row, column, at: at + 1 })
  put(next, said)
  choose(made.id)
  if (kind === 'countdown') emit('count')
}
function addRow() {
  put([...rows.value, { columns: [{ parts: [] }] }])
}
function removeRow(row: number) {
  put(rows.value.filter((_, i) => i !== row))
}
function moveRow(row: number, by: number) {
  const next = [...rows.value]
  next.splice(row + by, 0, ...next.splice(row, 1))
  put(next)
}
function change(p: Part) {
  put(block.changed(rows.value, p))
}
function say(w: PartWords) {
  if (part.value) put(rows.value, block.say(wordings.value, props.lang, part.value.id, w))
}
function remove() {
  put(block.without(rows.value, chosen.value))
  chosen.value = ''
}

const ways: Record<string, block.Way> = { ArrowUp: 'up', ArrowDown: 'down', ArrowLeft: 'back', ArrowRight: 'on' }
function step(id: string, way: block.Way | undefined) {
  const to = way && block.stepped(rows.value, id, way)
  if (!to) return
  put(block.moved(rows.value, id, to))
  void nextTick(() => {
    sayMoved(id)
    chip(id)?.querySelector('button')?.focus()
  })
}
const sayMoved = (id: string) => (says.value = `Moved: ${whereIs(id)}.`)
function whereIs(id: string): string {
  const at = block.placeOf(rows.value, id)
  if (!at) return ''
  const columns = rows.value[at.row]!.columns
  const column = columns.length > 1 ? `, column ${at.column + 1} of ${columns.length}` : ''
  return (
    `row ${at.row + 1} of ${rows.value.length}${column}, place ${at.at + 1} of ` +
    `${columns[at.column]!.parts!.length}`
  )
}

// Dragging: Sortable moves elements, which are put back, and the rows change instead.
let sortables: Sortable[] = []
function makeSortable() {
  for (const s of sortables) s.destroy()
  sortables = [...(box.value?.querySelectorAll<HTMLElement>('[data-column]') ?? [])].map((list) =>
    Sortable.create(list, {
      group: 'parts',
      draggable: '.chip',
      animation: 120,
      // The same by mouse, finger and pen.
      forceFallback: true,
      fallbackTolerance: 4,
      onEnd: ({ item, from, to, oldIndex, oldDraggableIndex, newDraggableIndex }) => {
        from.insertBefore(item, from.children[oldIndex!] ?? null)
        const [row, column] = to.dataset.column!.split(',').map(Number)
        if (from === to && oldDraggableIndex === newDraggableIndex) return
        put(block.moved(rows.value, item.dataset.part!, { row: row!, column: column!, at: newDraggableIndex! }))
        void nextTick(() => sayMoved(item.dataset.part!))
      },
    }),
  )
}
const shape = computed(() => rows.value.map((r) => r.columns.length).join())
watch([shape, box], () => nextTick(makeSortable), { immediate: true })
onBeforeUnmount(() => sortables.forEach((s) => s.destroy()))
</script>

<template>
  <section ref="box" class="block" aria-label="What it is made of">
    <p v-if="!rows.length" class="quiet small">
      Only its message. Add a row for headings, pictures, links, contact lines, fields to fill in and the like, in one
      to four columns.
    </p>
    <div v-for="(r, i) in rows" :key="i" class="a-row" role="group" :aria-label="`Row ${i + 1}`">
      <div class="row-head small">
        <span class="quiet">Row {{ i + 1 }}</span>
        <el-radio-group
          :model-value="r.columns.length"
          size="small"
          :aria-label="`Columns of row ${i + 1}`"
          @change="(n) => put(block.withColumns(rows, i, Number(n)))"
        >
          <el-radio-button v-for="n in 4" :key="n" :value="n">{{ n }}</el-radio-button>
        </el-radio-group>
        <span class="quiet">{{ r.columns.length === 1 ? 'column' : 'columns' }}</span>
        <span class="grow"></span>
        <button
          v-if="i > 0"
          type="button"
          class="icon"
          :aria-label="`Row ${i + 1} up`"
          title="Up"
          @click="moveRow(i, -1)"
        >
          <IconUp />
        </button>
        <button
          v-if="i + 1 < rows.length"
          type="button"
          class="icon"
          :aria-label="`Row ${i + 1} down`"
          title="Down"
          @click="moveRow(i, 1)"
        >
          <IconDown />
        </button>
        <button
          type="button"
          class="icon"
          :aria-label="`Remove row ${i + 1}`"
          title="Remove the row"
          @click="removeRow(i)"
        >
          ✕
        </button>
      </div>
      <div
        class="columns"
        :style="{ gridTemplateColumns: r.columns.map((c) => `minmax(0, ${c.share ?? 1}fr)`).join(' ') }"
      >
        <div v-for="(c, j) in r.columns" :key="j" class="a-column">
          <ul class="plainlist" :data-column="`${i},${j}`">
            <li
              v-for="p in c.parts ?? []"
              :key="p.id"
              class="chip"
              :data-part="p.id"
              :class="{ chosen: p.id === chosen }"
              tabindex="-1"
            >
              <IconGrip class="grip" aria-hidden="true" />
              <button
                type="button"
                :aria-label="
                  `${block.kindName(p.kind)}` +
                  `${block.opening(p, words[p.id]) ? `, ${block.opening(p, words[p.id])}` : ''}`
                "
                :aria-description="`${whereIs(p.id)}. Alt and an arrow moves it.`"
                :aria-expanded="p.id === chosen"
                @click="choose(p.id === chosen ? '' : p.id)"
                @keydown.alt.up.prevent="step(p.id, 'up')"
                @keydown.alt.down.prevent="step(p.id, 'down')"
                @keydown.alt.left.prevent="step(p.id, ways.ArrowLeft)"
                @keydown.alt.right.prevent="step(p.id, ways.ArrowRight)"
              >
                <b>{{ block.kindName(p.kind) }}</b> <span class="quiet">{{ block.opening(p, words[p.id]) }}</span>
              </button>
            </li>
          </ul>
          <el-dropdown trigger="click" @command="(kind: block.Kind) => add(i, j, kind)">
            <button type="button" class="word small" :aria-label="`Add a part to row ${i + 1}, column ${j + 1}`">
              + Add
            </button>
            <template #dropdown>
              <el-dropdown-menu>
                <el-dropdown-item v-for="k in block.kinds" :key="k.value" :command="k.value"
                  ><span
                    ><b>{{ k.label }}</b> <span class="quiet small">{{ k.means }}</span></span
                  ></el-dropdown-item
                >
              </el-dropdown-menu>
            </template>
          </el-dropdown>
          <div v-if="r.columns.length > 1" class="of-column small quiet">
            <label
              >width
              <select
                :value="c.share ?? 1"
                :aria-label="`Width of column ${j + 1} in row ${i + 1}`"
                @change="
                  (e) =>
                    put(
                      rows.map((x, y) =>
                        y === i
                          ? {
                              columns: x.columns.map((z, w) =>
                                w === j ? { ...z, share: Number((e.target as HTMLSelectElement).value) || 1 } : z,
                              ),
                            }
                          : x,
                      ),
                    )
                "
              >
                <option v-for="n in 4" :key="n" :value="n">{{ n }}</option>
              </select></label
            >
            <span>on phones {{ block.stackOrder(r.columns).indexOf(j) + 1 }}.</span>
            <button
              v-if="block.stackOrder(r.columns).indexOf(j) > 0"
              type="button"
              class="icon"
              :aria-label="`Column ${j + 1} of row ${i + 1} earlier on phones`"
              title="Earlier on phones"
              @click="put(block.earlier(rows, i, j))"
            >
              <IconUp />
            </button>
          </div>
        </div>
      </div>
      <PartEditor
        v-if="part && chosenRow === i"
        :key="part.id + lang"
        :part="part"
        :words="words[part.id] ?? {}"
        :site="site"
        :detail="detail"
        :lang="lang"
        :name="name"
        :known="known"
        @part="change"
        @words="say"
        @remove="remove"
        @count="emit('count')"
        @close="chosen = ''"
      />
    </div>
    <el-button size="small" @click="addRow">Add a row</el-button>
    <span class="unseen" role="status">{{ says }}</span>
  </section>
</template>

<style scoped>
.block {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.block > p {
  margin: 0;
}
.a-row {
  width: 100%;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.row-head {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 3px 8px;
  background: var(--chart);
}
.grow {
  flex: 1;
}
.columns {
  display: grid;
}
.a-column {
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
  align-content: start;
  justify-items: start;
  padding: 6px;
}
.a-column + .a-column {
  border-inline-start: 1px dashed var(--line);
}
.a-column ul {
  display: grid;
  gap: 4px;
  width: 100%;
  min-height: 28px;
}
.chip {
  min-width: 0;
  display: flex;
  gap: 2px;
  align-items: center;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
}
.chip.chosen {
  border-color: var(--sea);
  box-shadow: inset 3px 0 var(--sea);
}
.chip.sortable-ghost {
  opacity: 0.4;
}
.grip {
  flex: none;
  color: var(--ink-2);
  cursor: grab;
}
.chip button {
  flex: 1;
  min-width: 0;
  min-height: 28px;
  padding: 2px 6px 2px 0;
  overflow: hidden;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px/1.3 var(--text);
  text-align: start;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.of-column {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
.of-column select {
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--sail);
  color: var(--ink);
}
.icon {
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
  padding: 0;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.icon:hover {
  color: var(--ink);
}
</style>
