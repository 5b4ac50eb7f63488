<script setup lang="ts">
// The inventory: its rows, what was found beside them, and rows from a file and into one.
import { computed, ref } from 'vue'
import { api, type ConsentItem, type DetectedItem } from '../../api/client'
import { saveBlob } from '../../instruments/file'
import FileChoice from '../../instruments/FileChoice.vue'
import { mayManage } from '../../instruments/me'
import { useConsent } from './consent'
import { useInventory } from './inventory'
import InventoryTable from './InventoryTable.vue'
import ItemEditor from './ItemEditor.vue'
import StrangerList from './StrangerList.vue'

const { room, site, busy, attempt } = useConsent()
const { inventory, strangers, groups, begunWith, add, replace, remove, merge } = useInventory()

const find = ref('')
const shown = computed(() => groups(find.value))
/** Which row is open: its place in the inventory. */
const editing = ref<number>()
/** The row that is being added. */
const fresh = ref<ConsentItem>()

function begin(thing?: DetectedItem) {
  editing.value = undefined
  fresh.value = thing ? begunWith(thing) : { kind: 'cookie', name: '' }
}
async function keepFresh(item: ConsentItem) {
  if (await add(item)) fresh.value = undefined
}
async function keep(index: number, item: ConsentItem) {
  if (await replace(index, item)) editing.value = undefined
}
async function drop(index: number) {
  if (await remove(index)) editing.value = undefined
}
async function readFile([chosen]: File[]) {
  if (!chosen) return
  let items: ConsentItem[] = []
  const read = await attempt('csv', async () => {
    items = (await api.readInventory(site.value, await chosen.text())).items
  })
  if (read) await merge(items)
}
const saveFile = () =>
  attempt('csv', async () =>
    saveBlob(`${site.value}-inventory.csv`, await api.file(`/api/sites/${site.value}/consent/inventory.csv`)),
  )
</script>

<template>
  <section aria-labelledby="inventory">
    <div class="head">
      <h2 id="inventory">The inventory</h2>
      <el-input
        v-if="inventory.length > 5"
        v-model="find"
        class="find"
        placeholder="Find a row"
        aria-label="Find a row"
        clearable
        data-find
      />
      <span v-if="mayManage" class="acts">
        <el-button size="small" @click="begin()">Add a row</el-button>
        <FileChoice words="Read rows from CSV" accept=".csv,text/csv" :busy="busy === 'csv'" @files="readFile" />
        <button v-if="inventory.length" class="word" @click="saveFile">Save as CSV</button>
      </span>
    </div>
    <ItemEditor v-if="fresh" :item="fresh" fresh @save="keepFresh" @close="fresh = undefined" />
    <StrangerList
      v-if="strangers.length"
      :things="strangers"
      :elsewhere="room!.elsewhere"
      @place="begin"
      @take="(row) => add(row.item)"
    />
    <p v-if="!inventory.length && !strangers.length" class="quiet empty">
      Nothing is listed yet. Inspect the site, and what it sets lies here to be placed; or add rows by hand or from a
      CSV file.
    </p>
    <InventoryTable v-if="shown.length" v-model="editing" :groups="shown" @save="keep" @remove="drop" />
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  min-height: 34px;
}
h2 {
  margin-bottom: 4px;
}
.find {
  width: 180px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin-inline-start: auto;
}
.empty {
  max-width: 60ch;
}
</style>
