// Package doors holds the rules of who may do what, and the secrets that open
// doors: passwords and single-use tokens. It keeps nothing and reads no clock.
package doors

// Role is what a person is in a workspace. The zero value is no role.
type Role string

// The roles, from the one that may least.
const (
	Reader Role = "reader" // sees everything
	Rater  Role = "rater"  // may also rate, log trials and note findings
	Editor Role = "editor" // may also change prices, needs, weights and numbers
	Owner  Role = "owner"  // may also say who has which role
)

// Roles lists the roles from the one that may most.
var Roles = []Role{Owner, Editor, Rater, Reader}

// Need is what a route, or a kind of edit, asks of whoever comes. Each is met
// by those above it too. The zero value is no need that was told, and is met
// by nobody: a route that forgets to tell stays shut.
type Need int

// The needs, from the one that asks least.
const (
	Untold   Need = iota
	Anyone        // no account
	SignedIn      // an account, in whichever workspace
	ToView        // a reading link to the study, or a role in its workspace
	ToRead        // a role in the workspace
	ToRate        // rater and up
	ToEdit        // editor and up
	ToGovern      // owner
)

var reach = map[Role]Need{Reader: ToRead, Rater: ToRate, Editor: ToEdit, Owner: ToGovern}

// Valid reports whether r is one of the roles.
func (r Role) Valid() bool { return reach[r] != Untold }

// May reports whether somebody with this role meets a need within the
// workspace. No role meets only [Anyone].
func (r Role) May(n Need) bool {
	return n != Untold && (n == Anyone || n <= reach[r])
}

// Can says in words what a role may do.
func (r Role) Can() string {
	switch r {
	case Owner:
		return "may change everything, and says who has which role"
	case Editor:
		return "may change prices, needs, weights and numbers, and rate"
	case Rater:
		return "may rate, log trials and note findings"
	case Reader:
		return "may see everything and change nothing"
	}
	return "may do nothing here"
}

// Least names the lowest role that meets a need; "" where none is asked.
func Least(n Need) Role {
	for i := len(Roles) - 1; i >= 0; i-- {
		if n > ToView && Roles[i].May(n) {
			return Roles[i]
		}
	}
	return ""
}
