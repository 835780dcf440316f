package study

import "ninecoins/internal/core/work"

// late is what is worked out of an outcome only where it is looked at, once for all who look
// ([work.Shared]). Copies of an outcome share it.
type late struct {
	roads  work.Shared[*Roads]
	spread [Draws]work.Shared[*Spread]
	cases  work.Shared[[3]*Outcome]
	dear   work.Shared[[]Bargain]
	lines  work.Group[lineKey, *Along]
	fields work.Group[fieldKey, *Field]
}
