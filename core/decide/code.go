package decide

import (
	"fmt"
	"slices"
	"strings"

	"mastflag/core/consent"
)

// missingPurpose returns the first purpose of a notice's code that may not go ahead for the
// visitor, "" if all may (rules B7, K3). state is nil where nobody is asked.
func (n *notice) missingPurpose(state *consent.State) string {
	for _, p := range n.GetCode().Purposes {
		if state == nil || !slices.Contains(state.Granted, p) {
			return p
		}
	}
	return ""
}

// purposesStep is the gate of code that names purposes.
func (n *notice) purposesStep(state *consent.State) Step {
	lacks := n.missingPurpose(state)
	st := Step{Gate: GateAudience, Rule: "K3", Passed: n.purposesGate(state), Pointer: "/content/code/purposes"}
	switch {
	case state == nil:
		st.Why = fmt.Sprintf("It runs once %s is agreed to, and no consent notice is live that asks.", lacks)
	case lacks != "":
		st.Why = fmt.Sprintf("It runs once %s is agreed to, which it is not.", lacks)
	default:
		st.Why = "What it is for may go ahead: " + strings.Join(n.GetCode().Purposes, ", ") + "."
	}
	if state != nil {
		st.Saw = map[string]string{"granted": strings.Join(state.Granted, ", ")}
	}
	return st
}
