package proportion

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The interval's ends against those printed for the score method without correction in
// R. G. Newcombe, Statistics in Medicine 17 (1998), table I (from memory).
func TestWilson(t *testing.T) {
	for _, c := range []struct {
		k, n      int
		low, high float64
	}{{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605}, {0, 20, 0, 0.1611}, {1, 29, 0.0061, 0.1718}} {
		got := Count{c.k, c.n}.Wilson()
		assert.InDelta(t, c.low, got.Low, 0.00005, c)
		assert.InDelta(t, c.high, got.High, 0.00005, c)
	}
	assert.Equal(t, Range{Low: 0, High: 1}, Count{}.Wilson())
	for n := 1; n < 40; n++ {
		for k := range n + 1 {
			i, j := Count{k, n}.Wilson(), Count{n - k, n}.Wilson()
			p := float64(k) / float64(n)
			assert.True(t, 0 <= i.Low && i.Low <= p && p <= i.High && i.High <= 1)
			assert.InDelta(t, i.Low, 1-j.High, 1e-12, "what is true of those who did is true of those who did not")
		}
	}
}

// Newcombe 1998, Table II, method 10, of the difference of the first less the second (from memory).
func TestNewcombe(t *testing.T) {
	for _, c := range []struct {
		a, b      Count
		low, high float64
	}{
		{Count{56, 70}, Count{48, 80}, 0.0524, 0.3339},
		{Count{9, 10}, Count{3, 10}, 0.1705, 0.8090},
		{Count{6, 7}, Count{2, 7}, 0.0582, 0.8062},
		{Count{5, 56}, Count{0, 29}, -0.0381, 0.1926},
		{Count{0, 10}, Count{0, 20}, -0.1611, 0.2775},
		{Count{0, 10}, Count{0, 10}, -0.2775, 0.2775},
		{Count{10, 10}, Count{0, 20}, 0.6791, 1},
		{Count{10, 10}, Count{0, 10}, 0.6075, 1},
	} {
		got := Newcombe(c.b, c.a)
		assert.InDelta(t, c.low, got.Low, 5e-5, "%v", c)
		assert.InDelta(t, c.high, got.High, 5e-5, "%v", c)
		assert.True(t, got.Low >= -1 && got.High <= 1)
		turned := Newcombe(c.a, c.b)
		assert.InDelta(t, -got.High, turned.Low, 1e-12, "the other way round")
	}
}

// NIST/SEMATECH e-Handbook §7.2.4.2, worked example: a share of defectives of 10 %, a change of 10
// points, 5 % and 10 % (from memory).
func TestSampleSize(t *testing.T) {
	assert.Equal(t, 102, sampleSize(1.645, math.Sqrt(0.1*0.9), 1.282, math.Sqrt(0.2*0.8), 0.1))
	for _, c := range []struct {
		base, difference float64
		groups           int
	}{{0, 0, 2}, {0.1, 0, 2}, {0.1, -0.2, 2}, {0.9, 0.2, 2}, {-0.1, 0.2, 2}, {0.1, 0.1, 1}} {
		_, ok := Needed(c.base, c.difference, c.groups)
		assert.False(t, ok, "%v", c)
	}
	p, ok := Needed(0.05, 0.01, 2)
	require.True(t, ok)
	assert.Greater(t, p.Daily, p.Once)
	bigger, _ := Needed(0.05, 0.02, 2)
	assert.Less(t, bigger.Daily, p.Daily)
	// Of three groups each is as large as of two, but for being surer: 97.5 of 100 for each comparison.
	three, _ := Needed(0.05, 0.01, 3)
	assert.InDelta(t, z, quantile(0.05), 1e-12)
	assert.InDelta(t, 2.2414, quantile(0.025), 1e-4, "tables of the normal distribution")
	wider := (2.2414 + zPower) / (z + zPower)
	assert.InEpsilon(t, float64(p.Once)*3/2*wider*wider, three.Once, 0.01)
	assert.Greater(t, three.Daily, p.Daily*3/2)
	// Fleiss's formula in figures, with the 97.5 % and the 80 % point of tables.
	each := math.Pow(1.959964*math.Sqrt(2*0.055*0.945)+0.841621*math.Sqrt(0.05*0.95+0.06*0.94), 2) / 0.0001
	assert.InDelta(t, 2*math.Ceil(each), p.Once, 2)
}

// How wide the sequence is, by the formula as the rules have it: it errs in 5 of 100, and is narrowest at
// 4,000 visitors.
func TestSequenceAsWritten(t *testing.T) {
	for _, c := range []struct {
		n, comparisons int
		alpha          float64
	}{{60, 1, 0.05}, {4000, 1, 0.05}, {1_000_000, 1, 0.05}, {4000, 4, 0.0125}} {
		rho := math.Sqrt((-2*math.Log(c.alpha) + math.Log(-2*math.Log(c.alpha)+1)) / 4000)
		tRho := float64(c.n) * rho * rho
		want := math.Sqrt(2 * (tRho + 1) / tRho * math.Log(math.Sqrt(tRho+1)/c.alpha))
		assert.InDelta(t, want, alwaysFactor(c.n, c.comparisons), 1e-12)
	}
}

// The sequence errs in at most 5 of 100 experiments without a difference that are looked at daily for 60
// days, where the interval of one look errs in many; and it finds what there is, later than one look would.
func TestAlwaysHolds(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 0))
	const experiments, days = 1200, 60
	for _, c := range []struct{ share, perDay, second float64 }{
		{0.5, 20, 0.5},
		{0.1, 50, 0.5},
		{0.05, 100, 0.1},
		{0.02, 200, 0.5},
		{0.01, 30, 0.9},
		{0.005, 1000, 0.1},
		{0.001, 300, 0.5},
		{0.001, 1000, 0.05},
		{0.999, 500, 0.05},
		{0.1, 200, 0.02},
		{0.95, 40, 0.5},
	} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			wrong, wrongOnce := 0, 0
			for range experiments {
				always, once := watched(random, c.share, c.share, c.second, c.perDay, days)
				wrong += min(always, 1)
				wrongOnce += min(once, 1)
			}
			// Four standard errors beyond 5 of 100 would be a fault in less than one run of 10,000.
			assert.Less(t, float64(wrong)/experiments, 0.05+4*math.Sqrt(0.05*0.95/experiments))
			t.Logf("always %.2f %%, the interval of one look %.1f %%", 100*float64(wrong)/experiments,
				100*float64(wrongOnce)/experiments)
		})
	}
}

// Of five groups without a difference, the four comparisons with the first together err as seldom as one would.
func TestAlwaysHoldsForSeveral(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 0))
	const experiments, days, groups = 800, 40, 5
	wrong, uncorrected := 0, 0
	for range experiments {
		var all [groups]Count
		erred, erredAlone := false, false
		for range days {
			for range 200 {
				g := &all[random.IntN(groups)]
				g.N++
				if random.Float64() < 0.1 {
					g.K++
				}
			}
			for _, g := range all[1:] {
				erred = erred || Always(all[0], g, groups-1).Excludes(0)
				erredAlone = erredAlone || Always(all[0], g, 1).Excludes(0)
			}
		}
		wrong += map[bool]int{true: 1}[erred]
		uncorrected += map[bool]int{true: 1}[erredAlone]
	}
	assert.Less(t, float64(wrong)/experiments, 0.05+4*math.Sqrt(0.05*0.95/experiments))
	one, four := Always(Count{100, 1000}, Count{130, 1000}, 1), Always(Count{100, 1000}, Count{130, 1000}, 4)
	assert.True(t, four.Low < one.Low && four.High > one.High, "%v within %v", one, four)
	t.Logf("always %.2f %%, each by itself %.2f %%", 100*float64(wrong)/experiments, 100*float64(uncorrected)/experiments)
}

// watched looks daily at an experiment with shares of a and b, in which a part of the visitors is in the
// second group; it returns the first day on which each interval excludes nought, 0 for never.
func watched(random *rand.Rand, a, b, second, perDay float64, days int) (always, once int) {
	var one, two Count
	for day := 1; day <= days; day++ {
		for range int(perDay) {
			group, share := &one, a
			if random.Float64() < second {
				group, share = &two, b
			}
			group.N++
			if random.Float64() < share {
				group.K++
			}
		}
		if always == 0 && Always(one, two, 1).Excludes(0) {
			always = day
		}
		if once == 0 && Newcombe(one, two).Excludes(0) {
			once = day
		}
	}
	return always, once
}

// As many visitors as are planned find a difference in 80 of 100 experiments that are looked at
// daily, and not in many more, wherever the shares lie.
func TestPlanned(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 0))
	const experiments, days = 400, 20
	for _, c := range []struct{ base, difference float64 }{
		{0, 0.05}, {0.05, -0.05}, {0.01, 0.02}, {0.1, 0.05}, {0.5, -0.1}, {0.95, 0.04}, {1, -0.05}, {0, 1}, {0.002, 0.01},
	} {
		plan, ok := Needed(c.base, c.difference, 2)
		require.True(t, ok)
		found := 0
		for range experiments {
			always, _ := watched(random, c.base, c.base+c.difference, 0.5, math.Ceil(float64(plan.Daily)/days), days)
			found += min(always, 1)
		}
		share := float64(found) / experiments
		t.Logf("%v planned %+v: found in %.0f %%", c, plan, 100*share)
		assert.Greater(t, share, 0.8-4*math.Sqrt(0.8*0.2/experiments), "%v", c)
		if plan.Daily > 100 {
			assert.Less(t, share, 0.97, "%v", c)
		}
	}
}

func TestAlwaysWithoutVisitors(t *testing.T) {
	for _, c := range [][2]Count{
		{{0, 0}, {0, 0}}, {{0, 50}, {0, 50}}, {{50, 50}, {50, 50}}, {{0, 9000}, {0, 1000}}, {{1000, 1000}, {30, 30}},
	} {
		once := Newcombe(c[0], c[1])
		i := Always(c[0], c[1], 1)
		assert.False(t, i.Excludes(0), "%v %v", c, i)
		assert.True(t, i.Low >= -1 && i.High <= 1)
		assert.True(t, i.Low <= once.Low && i.High >= once.High, "%v: %v beside %v", c, i, once)
	}
}

// How wide the sequence is follows from its variance alone where as many visitors were looked at: of
// each share the larger of its own and that of both groups, with two visitors more (rule E6).
func TestVarianceIsTheLarger(t *testing.T) {
	// alone is p(1-p) by the rule's text: one visitor more who reached the goal, and one who did not.
	alone := func(c Count) float64 {
		p := (float64(c.K) + 1) / (float64(c.N) + 2)
		return p - p*p
	}
	half := func(a, b Count) float64 { return b.Share() - a.Share() - Always(a, b, 1).Low }
	wide := func(a, b Count) float64 {
		both := Count{K: a.K + b.K, N: a.N + b.N}
		return math.Sqrt(max(alone(a), alone(both))/(float64(a.N)+2) + max(alone(b), alone(both))/(float64(b.N)+2))
	}
	even := [2]Count{{K: 500, N: 1000}, {K: 500, N: 1000}}
	for _, c := range [][2]Count{
		{{K: 10, N: 1000}, {K: 900, N: 1000}}, // that of both is larger than either
		{{K: 500, N: 1000}, {K: 40, N: 1000}}, // the first has the larger
		{{K: 3, N: 100}, {K: 950, N: 1900}},   // groups of unequal size
		{{K: 0, N: 1000}, {K: 1, N: 1000}},    // hardly anybody
	} {
		want := half(even[0], even[1]) * wide(c[0], c[1]) / wide(even[0], even[1])
		assert.InDelta(t, want, half(c[0], c[1]), 1e-9, "%v", c)
	}
}
