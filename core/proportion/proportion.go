// Package proportion says how sure one can be of a share of visitors, and of the difference of
// two shares. Shares are from 0 to 1, intervals at 95 %.
package proportion

import "math"

// z is the 97.5 % point of the standard normal distribution, zPower the 80 % point.
const (
	z      = 1.959963984540054
	zPower = 0.8416212335729143
)

// alpha is how often an interval may miss what it is about.
const alpha = 0.05

// A Range is where a share, or a difference, lies with a confidence of 95 %.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Excludes reports whether a value lies outside.
func (i Range) Excludes(v float64) bool { return v < i.Low || v > i.High }

// A Count is k of n: 0 <= K <= N.
type Count struct{ K, N int }

// Share returns k/n; 0 of nothing.
func (c Count) Share() float64 {
	if c.N == 0 {
		return 0
	}
	return float64(c.K) / float64(c.N)
}

// Wilson returns the score interval of a share (E. B. Wilson, JASA 22, 1927), without
// correction for continuity; of nothing, from 0 to 1.
func (c Count) Wilson() Range { return c.Among(c.N) }

// Among is Wilson of a share whose N came from fewer, so that they are not independent of each
// other: it is as wide as if each of these had counted once, which is the most that they can depend
// on each other (a design effect of N to n; L. Kish, Survey Sampling, 1965, §5.4, from memory).
func (c Count) Among(independent int) Range {
	if c.N == 0 || independent == 0 {
		return Range{0, 1}
	}
	p, n := c.Share(), float64(independent)
	mid := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	i := Range{math.Max(0, mid-half), math.Min(1, mid+half)}
	// At its ends the interval ends there, which floating point may miss.
	if c.K == 0 {
		i.Low = 0
	}
	if c.K == c.N {
		i.High = 1
	}
	return i
}

// Newcombe returns the hybrid score interval of the difference of two shares, that of b less
// that of a (R. G. Newcombe, Statistics in Medicine 17, 1998, pp. 873-890, method 10). It
// holds for one look, at a time that was fixed beforehand.
func Newcombe(a, b Count) Range {
	pa, pb, wa, wb := a.Share(), b.Share(), a.Wilson(), b.Wilson()
	return Range{
		pb - pa - math.Hypot(pb-wb.Low, wa.High-pa),
		pb - pa + math.Hypot(wb.High-pb, pa-wa.Low),
	}
}

// designSize is the number of visitors, of both groups together, at which a sequence is
// narrowest beside the interval of a fixed time. It holds at every other number too.
const designSize = 4000

// Always returns an interval of the difference of two shares, that of b less that of a, that holds
// at all times at once: whoever looks every day, and stops when they like, is misled in 5 of 100
// cases at most. Where several groups are compared with one, that is so of all the comparisons
// together: each may miss in 5 of 100, divided by their number (Bonferroni's inequality). It is the
// asymptotic confidence sequence of I. Waudby-Smith, D. Arbour, R. Sinha, E. H. Kennedy and A.
// Ramdas, Time-uniform central limit theory and asymptotic confidence sequences, Annals of
// Statistics 52 (2024), Theorem 2.2 (cited from memory), which is H. Robbins’ normal mixture
// (1970). The variance of each share is the larger of its own and of that of both groups together,
// each reckoned with one visitor more who reached the goal and one who did not (A. Agresti and B.
// Caffo, The American Statistician 54, 2000): so it is not too small where few or almost all have
// reached it. It is nowhere narrower than the interval of one look.
func Always(a, b Count, comparisons int) Range {
	both := Count{a.K + b.K, a.N + b.N}
	d := b.Share() - a.Share()
	half := alwaysFactor(both.N, comparisons) * math.Sqrt(variance(a, both)+variance(b, both))
	once := Newcombe(a, b)
	return Range{math.Max(-1, math.Min(once.Low, d-half)), math.Min(1, math.Max(once.High, d+half))}
}

// variance is that of the share of one group of both.
func variance(group, both Count) float64 {
	return math.Max(spread(group), spread(both)) / float64(group.N+2)
}

// spread is the variance of what one visitor does, reckoned with two visitors more.
func spread(c Count) float64 {
	p := float64(c.K+1) / float64(c.N+2)
	return p * (1 - p)
}

// alwaysFactor is how many standard errors a sequence is from its middle to its ends, at n
// visitors, one of so many comparisons: the boundary of Theorem 2.2, with rho chosen for
// designSize as the paper's equation for an optimal rho has it.
func alwaysFactor(n, comparisons int) float64 {
	alpha := alpha / float64(max(1, comparisons))
	rho2 := (-2*math.Log(alpha) + math.Log(-2*math.Log(alpha)+1)) / designSize
	t := math.Max(float64(n), 1) * rho2
	return math.Sqrt(2 * (t + 1) / t * math.Log(math.Sqrt(t+1)/alpha))
}

// A Plan is how many visitors, of all groups together, it takes to find a difference with a
// probability of 80 %.
type Plan struct {
	// Looked at once, at the end; and looked at every day, which may end sooner.
	Once  int `json:"once"`
	Daily int `json:"daily"`
}

// maxPlanned is beyond what is ever planned.
const maxPlanned = 1 << 40

// Needed returns how many visitors a difference needs: of equal groups, all compared with the first,
// where a share of base is expected in that and of base+difference in another. ok is false where there is no
// difference to find, or one of the shares is none.
//
// Looked at once, each group needs (z₁ √(2 p̄ q̄) + z₂ √(p₁ q₁ + p₂ q₂))² / d² (J. L. Fleiss,
// Statistical Methods for Rates and Proportions, §3.2). Looked at daily, it is as many as let the
// sequence of Always leave nought out also where the difference comes out so much smaller than it
// is that it does so in 20 of 100.
func Needed(base, difference float64, groups int) (p Plan, ok bool) {
	other := base + difference
	if difference == 0 || base < 0 || base > 1 || other < 0 || other > 1 || groups < 2 {
		return Plan{}, false
	}
	mean, d := (base+other)/2, math.Abs(difference)
	noise := base*(1-base) + other*(1-other)
	comparisons := groups - 1
	each := sampleSize(quantile(alpha/float64(comparisons)), math.Sqrt(2*mean*(1-mean)), zPower, math.Sqrt(noise), d)
	low, high := 1, maxPlanned
	for low < high { // what is found grows with the number
		n := (low + high) / 2
		if seenFrom(n, min(base, other), max(base, other), comparisons) {
			high = n
		} else {
			low = n + 1
		}
	}
	return Plan{each * groups, low * groups}, true
}

// seenFrom reports whether two groups of n visitors, of whom a share of less and of more reach the
// goal, show that they differ even where chance brings them together as far as in 20 of 100.
func seenFrom(n int, less, more float64, comparisons int) bool {
	ofLess, ofMore := less*(1-less), more*(1-more)
	nearer := 0.0
	if noise := ofLess + ofMore; noise > 0 {
		nearer = zPower / math.Sqrt(noise*float64(n))
	}
	count := func(share float64, round func(float64) float64) Count {
		return Count{int(math.Min(math.Max(round(share*float64(n)), 0), float64(n))), n}
	}
	a, b := count(less+nearer*ofLess, math.Ceil), count(more-nearer*ofMore, math.Floor)
	return Always(a, b, comparisons).Low > 0
}

// quantile is how many standard deviations a normal variable is away from its mean, to either
// side, with this probability: z for 5 of 100.
func quantile(probability float64) float64 { return math.Sqrt2 * math.Erfinv(1-probability) }

// sampleSize is how many it takes to find a difference d by a test: (zα σ₀ + zβ σ₁)² / d²,
// where zα and zβ are for the risks of a false find and of a miss, σ₀ and σ₁ the standard
// deviations without and with the difference (NIST/SEMATECH e-Handbook §7.2.4.2).
func sampleSize(zAlpha, sigma0, zBeta, sigma1, d float64) int {
	return int(math.Ceil(math.Pow((zAlpha*sigma0+zBeta*sigma1)/d, 2)))
}
