package survey

import (
	"context"
	"time"
)

// SetWait replaces what a surveyor does where it is asked to wait.
func (s *Surveyor) SetWait(wait func(ctx context.Context, d time.Duration) error) { s.wait = wait }

var CountPolicies = countPolicies
