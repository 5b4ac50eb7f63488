// The inventory beside its evidence: which row is which thing that an inspection saw.
import { computed } from 'vue'
import type { ConsentItem, DetectedItem } from '../../api/client'
import { useConsent } from './consent'

/** The phases of an inspection, in their order. */
export const phases = [
  { phase: 'unanswered', name: 'Before an answer', during: 'Without an answer' },
  { phase: 'accepted', name: 'All accepted', during: 'All accepted' },
  { phase: 'refused', name: 'All refused', during: 'All refused' },
] as const
export type Phase = (typeof phases)[number]['phase']

/** A row of the inventory, by its place there, and what was seen of it. */
export interface InventoryRow {
  index: number
  item: ConsentItem
  thing?: DetectedItem
}

/** Where a thing was seen in a phase. */
export const seenIn = (t: DetectedItem | undefined, phase: Phase) => t?.seen.find((s) => s.phase === phase)

/** Two rows of one key are about the same thing. */
const keyOf = (i: ConsentItem) => `${i.kind} ${i.name} ${i.host ?? ''}`

export function useInventory() {
  const { room, setup, detail, save } = useConsent()
  const inventory = computed(() => setup.value.inventory ?? [])
  const keep = (list: ConsentItem[], done?: string) => save({ ...setup.value, inventory: list }, done)

  return {
    inventory,
    /** Found, and not in the inventory. */
    strangers: computed(() => (room.value?.things ?? []).filter((t) => t.item < 0 && !t.purpose)),
    /** The rows that hold a text, by purpose. */
    groups(text: string) {
      const wanted = text.toLowerCase()
      const rows = inventory.value
        .map((item, index): InventoryRow => ({ index, item, thing: room.value?.things.find((t) => t.item === index) }))
        .filter(({ item: i }) =>
          `${i.name} ${i.by ?? ''} ${i.kind} ${i.host ?? ''} ${Object.values(i.for ?? {}).join(' ')}`
            .toLowerCase()
            .includes(wanted),
        )
      const known = (room.value?.purposes ?? []).filter((p) => p.asked || p.id === 'necessary')
      return [{ id: '', name: 'For no purpose yet' }, ...known]
        .map(({ id, name }) => ({ id, name, rows: rows.filter((r) => (r.item.purpose ?? '') === id) }))
        .filter((g) => g.rows.length)
    },
    /** What a thing that was found says of itself, as a row to begin with. */
    begunWith(t: DetectedItem): ConsentItem {
      const address = t.seen[0]?.by ?? ''
      const by = URL.canParse(address) ? new URL(address).host : ''
      const own = detail.value!.site.origins?.some((o) => o.includes(by))
      return {
        kind: t.kind,
        name: t.name,
        host: t.host,
        by: t.host || (by && !own ? by : undefined),
        lasts: t.lasts || undefined,
      }
    },
    add: (item: ConsentItem) => keep([...inventory.value, item]),
    replace: (index: number, item: ConsentItem) => keep(inventory.value.map((i, at) => (at === index ? item : i))),
    remove: (index: number) =>
      keep(
        inventory.value.filter((_, i) => i !== index),
        'Removed.',
      ),
    /** Takes rows in: those that are there already in their place, the others at the end. */
    merge(items: ConsentItem[]) {
      const given = new Map(items.map((i) => [keyOf(i), i]))
      const there = new Set(inventory.value.map(keyOf))
      const added = items.filter((i) => !there.has(keyOf(i)))
      return keep(
        [...inventory.value.map((i) => given.get(keyOf(i)) ?? i), ...added],
        `${items.length === 1 ? 'One row' : `${items.length} rows`} read, ` +
          `${added.length === 1 ? 'one' : added.length || 'none'} of them new.`,
      )
    },
  }
}
