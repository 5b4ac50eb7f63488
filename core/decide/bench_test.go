package decide_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// big is a site of 5,000 pages and n bars: 60 % of them bound to a section,
// the rest on the whole site; 30 % live at noon.
func big(n int) bundle.Bundle {
	r := rand.New(rand.NewPCG(11, 12))
	b := site()
	b.Pages = nil
	for i := range 5000 {
		b.Pages = append(b.Pages, bundle.Page{Path: fmt.Sprintf("/s%d/p%d", i%100, i)})
	}
	for i := range n {
		x := bar(fmt.Sprintf("n%d", i), rank(r.IntN(100)))
		if r.IntN(10) < 6 {
			x.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: fmt.Sprintf("/s%d", r.IntN(100))}}}
		}
		from := schedule.LocalAt(noon, time.UTC) + schedule.Local(3600)
		if r.IntN(10) < 3 {
			from -= 7200
		}
		windows(schedule.Window{From: from.String(), Until: (from + 7*86400).String()})(&x)
		b.Notices = append(b.Notices, x)
	}
	return b
}

// BenchmarkDecide prints, beside the time of one decision, how many times
// longer the same takes by trying every notice one after the other.
func BenchmarkDecide(b *testing.B) {
	for _, n := range []int{100, 500, 2000} {
		b.Run(fmt.Sprintf("notices=%d", n), func(b *testing.B) {
			s := compile(b, big(n))
			visit := func(i int) decide.Visit {
				return decide.Visit{At: noon, URL: fmt.Sprintf("https://www.s.example/s%d/p%d", i%100, i%5000)}
			}
			visits := make([]decide.Visit, 1000)
			for i := range visits {
				visits[i] = visit(i * 7)
			}
			b.ReportAllocs()
			for i := 0; b.Loop(); i++ {
				s.Decide(visits[i%len(visits)])
			}
			indexed := float64(b.Elapsed().Nanoseconds()) / float64(b.N)

			// A page that is not listed has no entry in the index.
			unlisted := decide.Visit{At: noon, URL: "https://www.s.example/s1/other"}
			rounds := 2000
			began := time.Now()
			for range rounds {
				s.Decide(unlisted)
			}
			b.ReportMetric(float64(time.Since(began).Nanoseconds())/float64(rounds)/indexed, "×without-index")
		})
	}
}

func BenchmarkCompile(b *testing.B) {
	in := big(2000)
	in.Pages = in.Pages[:500]
	for b.Loop() {
		_, err := decide.Compile(in)
		require.NoError(b, err)
	}
}
