package main

import (
	"bytes"
	"fmt"
	"strings"

	"mastflag/core/bundle"
)

// setsFile is what the interface has to know of the tables of kinds, slots and levels.
func setsFile() []byte {
	var b bytes.Buffer
	b.WriteString("// What the interface has of the program’s tables. Written by `make generate`.\n")
	b.WriteString("import type { Notice } from './client'\n\n")
	b.WriteString("type Kind = Notice['kind']\ntype Slot = NonNullable<Notice['slot']>\n")
	b.WriteString("type Position = NonNullable<Notice['position']>\n\n")
	b.WriteString("/** Where notices of a kind stand if they do not say it themselves. */\n")
	b.WriteString("export const kinds: Record<Kind, { slot: Slot; position: Position }> = {\n")
	for _, r := range bundle.Kinds {
		fmt.Fprintf(&b, "  %s: { slot: '%s', position: '%s' },\n", key(r.Kind), r.Slot, r.Position)
	}
	b.WriteString("}\n\n")
	b.WriteString("/** Whether a slot is an edge of the window, across it. */\n")
	b.WriteString("export const slots: Record<Slot, { edge: boolean }> = {\n")
	for _, r := range bundle.SlotTable {
		fmt.Fprintf(&b, "  %s: { edge: %t },\n", key(r.Slot), r.Edge)
	}
	b.WriteString("}\n\n")
	b.WriteString("/** How much a notice matters. */\n")
	fmt.Fprintf(&b, "export const levelOf = (n: Pick<Notice, 'level'>) => n.level ?? '%s'\n", bundle.Notice{}.GetLevel())
	b.WriteString("/** Where a notice stands. */\n")
	b.WriteString("export const slotOf = (n: Pick<Notice, 'kind' | 'slot'>) => n.slot ?? kinds[n.kind].slot\n")
	b.WriteString("/** What a notice does when the page scrolls. */\n")
	b.WriteString("export const positionOf = (n: Pick<Notice, 'kind' | 'position'>) => " +
		"n.position ?? kinds[n.kind].position\n")
	return b.Bytes()
}

// key writes the name of a property, in quotes where it needs them.
func key[T ~string](name T) string {
	if strings.Contains(string(name), "-") {
		return "'" + string(name) + "'"
	}
	return string(name)
}
