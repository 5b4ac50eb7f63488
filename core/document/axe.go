package document

import (
	_ "embed"
	"encoding/json"
)

// axeRules are what the rules of the accessibility check ask for, in each ready
// language, by rule: axe-core's own words and translations, written by
// internal/generate/axe.mjs.
//
//go:embed axe.json
var axeJSON []byte

var axeRules = func() (out map[string]map[string]string) {
	if err := json.Unmarshal(axeJSON, &out); err != nil {
		panic(err) // it is generated
	}
	return out
}()

// ruleIn says in a language what a rule asks for.
func ruleIn(f Failure, tag string) string {
	if words := axeRules[f.Rule][ReadyIn(tag)]; words != "" {
		return words
	}
	return f.Help
}
