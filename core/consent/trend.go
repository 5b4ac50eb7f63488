package consent

import "math"

// An Interval is the range in which a proportion lies with a probability of
// 95 %, and what was counted.
type Interval struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// z is the 97.5 % point of the standard normal distribution.
const z = 1.959963984540054

// Wilson returns the 95 % score interval of a proportion, k of n (E. B. Wilson,
// JASA 22, 1927), without correction for continuity; of nothing, from 0 to 1.
func Wilson(k, n int) Interval {
	if n == 0 {
		return Interval{0, 1}
	}
	p, N := float64(k)/float64(n), float64(n)
	mid := (p + z*z/(2*N)) / (1 + z*z/N)
	half := z / (1 + z*z/N) * math.Sqrt(p*(1-p)/N+z*z/(4*N*N))
	i := Interval{math.Max(0, mid-half), math.Min(1, mid+half)}
	// At its ends the interval ends there, which reckoning in floating point may miss.
	if k == 0 {
		i.Low = 0
	}
	if k == n {
		i.High = 1
	}
	return i
}
