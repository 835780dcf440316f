package web

import (
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/mail"
	"ninecoins/internal/store"
)

// The letters that are sent. Their links begin with the address that was told
// at the start, never with one that a request brought along.

func (s *Server) invitationLetter(by string, w store.Workspace, email, role, token string, ends time.Time) mail.Letter {
	return mail.Letter{To: email, Subject: by + " invites you to " + w.Name + " on Nine Coins", Text: fmt.Sprintf(`%s invites you to work on the platform comparisons of %s, as %s.

Open this link to join. It opens once, until %s:
%s

If you do not know what this is about, leave it: nothing happens unless the link is opened.
`, by, w.Name, a(role), ends.Format("2 January 2006"), s.address+"/join/"+token)}
}

func (s *Server) newPasswordLetter(a store.Account, token string) mail.Letter {
	return mail.Letter{To: a.Email, Subject: "A new password for Nine Coins", Text: fmt.Sprintf(`Somebody, probably you, asked for a new password for this email.

Open this link to choose one. It opens once, within the hour:
%s

If it was not you, leave it: the old password stays.
`, s.address+"/new-password/"+token)}
}

func (s *Server) newEmailLetter(email, token string) mail.Letter {
	return mail.Letter{To: email, Subject: "Confirm your email for Nine Coins", Text: fmt.Sprintf(`Somebody, probably you, wants to sign in to Nine Coins with this email from now on.

Open this link to confirm it. It opens once, within a day:
%s

If it was not you, leave it: nothing changes unless the link is opened.
`, s.address+"/new-email/"+token)}
}

func (s *Server) emailAskedLetter(a store.Account, email string) mail.Letter {
	return mail.Letter{To: a.Email, Subject: "Another email for your Nine Coins account", Text: fmt.Sprintf(`Somebody, probably you, asked that your account be signed in to with %s from now on. It changes when the letter that went there is answered, within a day.

If it was not you, sign in and change your password: that shuts the link.
%s
`, email, s.address+"/account")}
}

func (s *Server) emailChangedLetter(a store.Account, old string) mail.Letter {
	return mail.Letter{To: old, Subject: "Your email for Nine Coins was changed", Text: fmt.Sprintf(`Your account is signed in to with %s from now on, and no longer with this email.

If it was not you, tell an owner of your workspace at once: they can take that account's seat away.
`, a.Email)}
}

func newLetterView(l store.LetterRow, address string) letterView {
	v := letterView{To: l.To, Subject: l.Subject, Sent: l.SentAt.Format("2 Jan 2006, 15:04")}
	for _, line := range strings.Split(strings.TrimSpace(l.Text), "\n") {
		one := letterLine{Text: line}
		if rest, ok := strings.CutPrefix(line, address+"/"); ok {
			one.Link = "/" + rest
		}
		v.Lines = append(v.Lines, one)
	}
	return v
}
