package projection

import (
	"context"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
)

// Policy says which plans and terms are taken.
type Policy string

// The policies.
const (
	Monthly Policy = "monthly" // terms of one month
	Yearly  Policy = "yearly"  // terms of twelve months
	Mix     Policy = "mix"     // whatever plans and terms cost least over the horizon
	Fixed   Policy = "fixed"   // one plan on one term
)

// Say ends a sentence that begins with "paid".
func (p Policy) Say() string {
	if p == Mix {
		return "by the cheapest mix"
	}
	return string(p)
}

// Candidate is what is projected.
type Candidate struct {
	Edition *pricelist.Edition
	// What is billed in each month, in the order of the meters, as [tariff.Read] gives
	// it; where that is nil, by name.
	Rows     [][]int64
	Readings []quote.Readings
	Musts    []string
	Customer quote.Customer
	Basis    quote.Basis
	Policy   Policy
	// With [Fixed], the keys of the plan and the term.
	Plan, Term string
	// Whether the option is left after the last month: what its terms still ask for is
	// due then.
	Leaves bool
	// Every plan on every term for this deal, where they were compiled before
	// ([Candidate.Compile]).
	Programs []*tariff.Program
	// Ends what is worked out of the candidate; nil: nothing does.
	Within context.Context
}

// ended is the error of the context that the candidate is worked out in.
func (c *Candidate) ended() error {
	if c.Within == nil {
		return nil
	}
	return c.Within.Err()
}

// Compile compiles every plan on every term for what is asked of the candidate.
// Errors are those of [tariff.Compile].
func (c *Candidate) Compile() (err error) {
	c.Programs, err = tariff.All(c.Edition, tariff.Deal{Musts: c.Musts, Customer: c.Customer, Basis: c.Basis, Within: c.Within})
	return err
}
