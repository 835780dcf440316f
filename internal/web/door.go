package web

import (
	"errors"
	"fmt"
	"net/http"
	netmail "net/mail"
	"net/url"
	"strings"
	"time"
	"unicode"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// door is a page with one form: signing in, joining, choosing a password.
type door struct {
	Title, Say string
	Action     string
	Fields     []doorField
	Hidden     map[string]string
	Button     string
	Problem    string // about the whole form
	Links      []doorLink
	Demo       string // who may be looked around as, on the sign-in page in demo mode
	Mailbox    bool
}

type doorField struct {
	Name, Label, Type, Value, Auto string
	Hint, Problem                  string
}

type doorLink struct{ Text, To string }

// wrong tells a field what is wrong with it.
func (d *door) wrong(name, problem string) {
	for i := range d.Fields {
		if d.Fields[i].Name == name {
			d.Fields[i].Problem = problem
			return
		}
	}
	d.Problem = problem
}

// faulty reports whether something is wrong.
func (d *door) faulty() bool {
	for _, f := range d.Fields {
		if f.Problem != "" {
			return true
		}
	}
	return d.Problem != ""
}

func (s *Server) drawDoor(c *gin.Context, status int, d *door) {
	s.render(c, status, "door", page{Title: d.Title, Active: "door", Body: d})
}

// Fields that several doors have. What was typed stays, but for passwords.
func nameField(value string) doorField {
	return doorField{Name: "name", Label: "Your name", Type: "text", Value: value, Auto: "name", Hint: "as colleagues see it beside your ratings and changes"}
}

func emailField(value string) doorField {
	return doorField{Name: "email", Label: "Email", Type: "email", Value: value, Auto: "username"}
}

func newPasswordField() doorField {
	return doorField{Name: "password", Label: "New password", Type: "password", Auto: "new-password",
		Hint: fmt.Sprintf("at least %d characters; a few unrelated words do well", doors.LeastPassword)}
}

func oldPasswordField() doorField {
	return doorField{Name: "password", Label: "Password", Type: "password", Auto: "current-password"}
}

const mostEmail = 254 // RFC 5321, section 4.5.3.1.3, less the angle brackets

// judgeTitle folds the spaces of a name of a thing, and says what is wrong with
// it; "" where nothing is. what says what is to be typed.
func judgeTitle(title, what string) (folded, problem string) {
	return judged(what, title, doors.JudgeTitle)
}

// judgeName is [judgeTitle] for the name of a person.
func judgeName(name, what string) (folded, problem string) {
	return judged(what, name, doors.FoldName)
}

func judged(what, name string, judge func(string) (string, error)) (folded, problem string) {
	folded, err := judge(name)
	switch {
	case folded == "":
		return "", "Type " + what + "."
	case err != nil:
		return folded, fmt.Sprintf("%s will not do: %v.", quoted(folded), err)
	}
	return folded, ""
}

func judgeEmail(email string) string {
	at, err := netmail.ParseAddress(email)
	if err != nil || at.Address != email || len(email) > mostEmail || strings.ContainsFunc(email, unseen) {
		return quoted(email) + " is no email address. Type it like imke@example.com."
	}
	return ""
}

// unseen reports whether a character of an email would not be seen.
func unseen(r rune) bool {
	return unicode.IsControl(r) || unicode.IsSpace(r) || unicode.Is(unicode.Cf, r)
}

// judge looks at what a door was sent; the fields that the door has are
// checked.
func (d *door) judge(name, email, password string) {
	for _, f := range d.Fields {
		switch f.Name {
		case "name":
			if _, p := judgeName(name, "a name"); p != "" {
				d.wrong("name", p)
			}
		case "email":
			if p := judgeEmail(email); p != "" {
				d.wrong("email", p)
			}
		case "password":
			if err := doors.JudgePassword(password, name, email); err != nil && f.Auto == "new-password" {
				d.wrong("password", err.Error())
			}
		}
	}
}

// Tries at doors: of one account, and from one address on the network.
const (
	triesWithin     = 15 * time.Minute
	triesOfAccount  = 8
	triesOfAddress  = 40
	lettersWithin   = time.Hour
	lettersOfEmail  = 3  // of one kind
	lettersOfSender = 20 // from one address on the network, by who is not signed in
	lettersOfMember = 60 // of one account
	workspacesADay  = 20 // that one account makes
)

// letterLimits bound letters that an account has sent to an email.
func letterLimits(kind, email string, by store.Account) []store.Limit {
	return []store.Limit{{Key: kind + " to " + strings.ToLower(email), Most: lettersOfEmail, Within: lettersWithin},
		{Key: "letters of " + by.ID.String(), Most: lettersOfMember, Within: lettersWithin}}
}

// tooManyLetters says how long to wait before another letter is sent.
func tooManyLetters(wait time.Duration) string {
	return fmt.Sprintf("Too many letters, to this email or by you: at most %d an hour to one email and %d in all. Wait %s and try again.",
		lettersOfEmail, lettersOfMember, minutes(wait))
}

// minutes writes a time to wait, in started minutes.
func minutes(wait time.Duration) string {
	n := int(wait.Minutes()) + 1
	return fmt.Sprintf("%d %s", n, orElse(n == 1, "minute", "minutes"))
}

func addressLimit(c *gin.Context) store.Limit {
	return store.Limit{Key: "sign in from " + address(c), Most: triesOfAddress, Within: triesWithin}
}

func accountLimit(email string) store.Limit {
	return store.Limit{Key: "sign in as " + strings.ToLower(email), Most: triesOfAccount, Within: triesWithin}
}

// tooMany says how long to wait; the same words whether or not there is such
// an account.
func tooMany(wait time.Duration) string {
	return fmt.Sprintf("Too many tries, with this email or from this computer. Wait %s and try again.", minutes(wait))
}

// checked compares a password with an account's, within the limits; where it
// does not match, why says so in words.
func (s *Server) checked(c *gin.Context, email, password string) (a store.Account, why string, status int, err error) {
	wait, err := s.store.Try(c, accountLimit(email), addressLimit(c))
	if err != nil {
		return a, "", 0, err
	}
	if wait > 0 {
		return a, tooMany(wait), http.StatusTooManyRequests, nil
	}
	a, kept, err := s.store.AtDoor(c, email)
	if err != nil && !errors.Is(err, store.ErrMissing) {
		return a, "", 0, err
	}
	match, old, err := doors.CheckPassword(c, password, kept)
	if err != nil {
		return a, "", 0, err
	}
	if !match {
		return store.Account{}, "That email and password do not belong together. Check both and try again.", http.StatusUnprocessableEntity, nil
	}
	if err := s.store.Forgive(c, accountLimit(email)); err != nil {
		return a, "", 0, err
	}
	if err := s.store.TakeBack(c, addressLimit(c)); err != nil {
		return a, "", 0, err
	}
	if old {
		if hash, err := doors.HashPassword(c, password); err == nil {
			_ = s.store.Rehash(c, a.ID, kept, hash) // the old one still serves
		}
	}
	return a, "", 0, nil
}

// inside returns an address within the application; the Desk for any other.
func inside(next string) string {
	u, err := url.Parse(next)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(u.Path, "//") || strings.ContainsAny(next, "\\\r\n\t") {
		return "/"
	}
	return u.RequestURI()
}

// deadPass says why a link that opens once does not open.
func deadPass(err error) error {
	why := map[error]string{store.ErrUsed: "It was used before, and opens only once.", store.ErrEnded: "Its time is over.",
		store.ErrWithdrawn: "It was withdrawn.", store.ErrMissing: "Perhaps a part of the address was lost: copy it whole."}
	for cause, words := range why {
		if errors.Is(err, cause) {
			return &failure{status: http.StatusGone, What: "This link does not open anything.", Do: words + " Ask whoever sent it for a new one, or sign in."}
		}
	}
	return err
}
