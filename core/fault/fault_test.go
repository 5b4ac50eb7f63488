package fault_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/fault"
)

func TestSentence(t *testing.T) {
	for clause, want := range map[string]string{
		"": "", "give a path": "Give a path.", "It is one.": "It is one.", "“Storm” is left out": "“Storm” is left out.",
		"äußere Zone fehlt": "Äußere Zone fehlt.",
	} {
		assert.Equal(t, want, fault.Sentence(clause))
	}
}
