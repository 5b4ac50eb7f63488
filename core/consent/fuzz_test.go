package consent_test

import (
	"bytes"
	"testing"
	"time"

	"mastflag/core/consent"
)

// Whatever a spreadsheet wrote is read or refused, row by row; what is right by
// its check is written, and read as the same.
func FuzzInventory(f *testing.F) {
	f.Add("kind,name,host,by,purpose,lasts,for en\ncookie,tw,,Tidewater,measurement,P1D,counts visits\n")
	f.Add("kind;name\r\ncookie;\"a;b\"\r\n")
	f.Add("name\n=1+1\n")
	f.Fuzz(func(t *testing.T, text string) {
		items, err := consent.ReadInventory(text)
		if err != nil {
			return
		}
		setup := consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}}, Inventory: items}
		if setup.Check() != nil {
			return
		}
		var out bytes.Buffer
		if err := consent.WriteInventory(&out, items, []string{"en"}); err != nil {
			t.Fatal(err)
		}
		again, err := consent.ReadInventory(out.String())
		if err != nil {
			t.Fatalf("what was written is not read: %v\n%s", err, out.String())
		}
		if len(again) != len(items) {
			t.Fatalf("%d items became %d", len(items), len(again))
		}
	})
}

// Whatever a response sets is read as RFC 6265 §5.2 has it, or is none.
func FuzzSetCookie(f *testing.F) {
	f.Add("a=b; Max-Age=86400; Domain=.x.example; Path=/")
	f.Add("=; expires=Fri, 04-Dec-26 12:00:00 GMT;;;")
	f.Add("n=1; max-age=999999999999999999999")
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, line string) {
		if c, ok := consent.ParseSetCookie(line, now); ok {
			c.Lasting(now)
		}
	})
}
