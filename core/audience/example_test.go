package audience_test

import (
	"encoding/json"
	"fmt"

	"mastflag/core/audience"
)

func Example() {
	var tree audience.Node
	err := json.Unmarshal([]byte(`{"all": [
	 {"fact": "device.kind", "is": "eq", "value": "phone"},
	 {"fact": "view.scroll", "is": "gte", "value": 30}]}`), &tree)
	if err != nil {
		fmt.Println(err)
		return
	}
	names, _ := audience.NewNames(nil)
	a, faults := audience.Compile(tree, names)
	if len(faults) > 0 {
		fmt.Println(faults)
		return
	}
	fmt.Println("for", a.Phrase())

	// What the visit knows, fact by fact; how far the page was read nobody knows at load.
	table := audience.NewTable()
	table.Add(a)
	frame := table.NewFrame(func(k audience.Key, f audience.Fact) audience.Value {
		if k.Name == "device.kind" {
			return audience.TextValue("phone")
		}
		return audience.Value{}
	})
	frame.Reset()
	answer, remainder := a.Decide(frame)
	rest, _ := json.Marshal(remainder)
	fmt.Println(answer, string(rest))
	// Output:
	// for visitors who use a phone and who have read 30 % of the page
	// not yet {"fact":"view.scroll","is":"gte","value":30}
}
