package xliff_test

import (
	"os"
	"strings"
	"testing"

	"mastflag/core/xliff"
)

// Whatever comes back from a translator is read or refused; what is read can be
// written, and read again.
func FuzzRead(f *testing.F) {
	sample, err := os.ReadFile("testdata/sample.xlf")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(string(sample))
	f.Add(`<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="de"><file id="a"/>` +
		`</xliff>`)
	f.Fuzz(func(t *testing.T, text string) {
		d, err := xliff.Read(strings.NewReader(text))
		if err != nil {
			return
		}
		var b strings.Builder
		if err := xliff.Write(&b, d); err != nil {
			return // a text that XML cannot hold
		}
		if _, err := xliff.Read(strings.NewReader(b.String())); err != nil {
			t.Fatalf("what was written is not read: %v\n%s", err, b.String())
		}
	})
}
