package bundle

import (
	"bytes"
	"encoding/json"
)

// formatBefore is the version of the document before Format, which is read too. It
// has other names for four values: position was stay, and of a wording details was
// longer, afterEnd was after, source was of.
const formatBefore = "mastflag.bundle/1"

var (
	noticeNames  = map[string]string{"stay": "position"}
	wordingNames = map[string]string{"longer": "details", "after": "afterEnd", "of": "source"}
)

// upgraded returns a document as Format has it; one that is not of formatBefore, or
// that cannot be read or names a value twice, as it is.
func upgraded(raw []byte) []byte {
	if !bytes.Contains(raw, []byte(formatBefore)) || once(raw) != nil {
		return raw
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var doc map[string]any
	if d.Decode(&doc) != nil || d.More() || doc["format"] != formatBefore {
		return raw
	}
	doc["format"] = Format
	for _, n := range members(doc["notices"]) {
		upgradeNotice(n)
	}
	site, _ := doc["site"].(map[string]any)
	for _, w := range members(site["wordings"]) {
		upgradeWordings(w)
	}
	for _, p := range members(site["startingPoints"]) {
		n, _ := p["notice"].(map[string]any)
		upgradeNotice(n)
	}
	out, err := json.Marshal(doc)
	if err != nil {
		return raw
	}
	return out
}

func upgradeNotice(n map[string]any) {
	renameKeys(n, noticeNames)
	content, _ := n["content"].(map[string]any)
	upgradeWordings(content)
}

// upgradeWordings renames within the wordings that an object has by language.
func upgradeWordings(in map[string]any) {
	wordings, _ := in["wordings"].(map[string]any)
	for _, w := range wordings {
		w, _ := w.(map[string]any)
		renameKeys(w, wordingNames)
	}
}

func renameKeys(in map[string]any, names map[string]string) {
	for before, now := range names {
		v, there := in[before]
		if _, both := in[now]; there && !both {
			delete(in, before)
			in[now] = v
		}
	}
}

// members returns the objects of a list; none of anything else.
func members(list any) (out []map[string]any) {
	all, _ := list.([]any)
	for _, x := range all {
		if o, ok := x.(map[string]any); ok {
			out = append(out, o)
		}
	}
	return out
}
