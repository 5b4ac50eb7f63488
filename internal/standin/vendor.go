package standin

import "sync/atomic"

// A Vendor is the switch of a badly behaved firm's script on one site.
type Vendor struct {
	Site string // key
	On   *atomic.Bool
}
