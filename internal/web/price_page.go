package web

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/reader"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// readBody is the page on which a price page is read: first what is pasted or brought,
// then what was read of it, beside the words that it was read from.
type readBody struct {
	Platform, Source string
	Problem          string
	Field            string
	Paste            string
	Say              template.HTML
	Read             bool
	Foreign          bool
	Lines            []readLine
	Plans            []readPlan
	List             []readClaim
	Left             []readLeft
	Packed           string
	Try              string
	May              bool
	Names            []string // of platforms on the shelf
}

// readLine is a line of the page, in pieces.
type readLine struct {
	Heading bool
	Pieces  []readPiece
}

// readPiece is a stretch of a line; what was read of it has a mark and the ids of claims.
type readPiece struct {
	Text, Mark, Claims, First string
}

type readPlan struct {
	Name   string
	Note   string
	Claims []readClaim
}

type readClaim struct {
	ID, Says, Value, Mark, Why string
}

type readLeft struct{ ID, Text, Line string }

// priceForm is what is sent to be read.
type priceForm struct {
	op, platform, source string
	page                 []byte // pasted or brought
	packed               []byte // of a page that was read before
	file                 bool
}

// readPage asks for a price page.
func (s *Server) readPage(c *gin.Context) {
	s.drawRead(c, http.StatusOK, &readBody{Platform: short(c.Query("platform"), 60)})
}

func short(text string, most int) string {
	r := []rune(strings.TrimSpace(text))
	return string(r[:min(len(r), most)])
}

func (s *Server) drawRead(c *gin.Context, status int, b *readBody) {
	b.May = callerOf(c).may(doors.ToEdit)
	if rows, err := s.store.Shelf(c, callerOf(c).workspace(), store.ShelfPage{Most: 200}); err == nil {
		for _, r := range rows {
			b.Names = append(b.Names, r.Name)
		}
	}
	s.render(c, status, "price_page", page{Title: "Read a price page", Active: "shelf", Limits: callerOf(c).limits(), Body: b})
}

// readPrice reads a price page, or makes a draft of one that was read.
func (s *Server) readPrice(c *gin.Context) {
	form, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	b := &readBody{Platform: form.platform, Source: form.source}
	var node reader.Node
	switch {
	case len(form.packed) > 0:
		node, err = formats.UnpackPage(form.packed)
	default:
		node, err = formats.ParsePage(form.page)
	}
	name := form.platform
	if err != nil {
		b.Field, b.Problem = "page", "It cannot be read: "+err.Error()+". Nothing was kept."
		if !form.file && len(form.page) < 64<<10 {
			b.Paste = string(form.page)
		}
		s.drawRead(c, http.StatusUnprocessableEntity, b)
		return
	}
	source := orElse(form.source != "", form.source, "price page, read by rules")
	r := reader.Page(node, pricelist.Platform{Name: name, Does: []string{}}, s.today(), source)
	if form.op == "draft" {
		if s.makeDraft(c, b, r) {
			return
		}
	}
	b.fill(r)
	packed, err := formats.PackPage(node)
	if err != nil {
		s.fail(c, err)
		return
	}
	b.Packed = string(packed)
	s.drawRead(c, orElse(b.Problem != "", http.StatusUnprocessableEntity, http.StatusOK), b)
}

// makeDraft makes a draft of what was read, and goes to it; else it says what is wrong.
func (s *Server) makeDraft(c *gin.Context, b *readBody, r *reader.Reading) (made bool) {
	if strings.TrimSpace(b.Platform) == "" {
		b.Field, b.Problem = "platform", "Whose prices are they? A draft needs the name of a platform."
		return false
	}
	key, err := s.store.DraftRead(c, s.editing(c, uuid.Nil), r.Edition, false)
	var refused *store.RefusedError
	switch {
	case errors.Is(err, store.ErrDraft):
		b.Field, b.Problem = "platform", "There is a draft of "+b.Platform+" already. Publish it or put it aside, then make this one."
	case errors.As(err, &refused):
		b.Field, b.Problem = "platform", capital(problemOf(refused.Err))+". Nothing was made."
	case err != nil:
		s.fail(c, err)
		return true
	default:
		c.Redirect(http.StatusSeeOther, "/shelf/platforms/"+key+"/draft/prices")
		return true
	}
	return false
}

// readForm reads what was sent, part by part, within bounds.
func readForm(c *gin.Context) (f priceForm, err error) {
	parts, err := c.Request.MultipartReader()
	if err != nil {
		return f, unreadable()
	}
	large := &failure{status: http.StatusRequestEntityTooLarge, What: "That page is too long.",
		Do: fmt.Sprintf("A price page may hold %d MB. Bring the part of it with the prices. Nothing was kept.", formats.LargestPage>>20)}
	for range mostParts {
		part, err := parts.NextPart()
		if err == io.EOF {
			return f, nil
		}
		var data []byte
		if err == nil {
			data, err = io.ReadAll(io.LimitReader(part, formats.LargestPage+1))
		}
		var tooLarge *http.MaxBytesError
		switch {
		case errors.As(err, &tooLarge) || len(data) > formats.LargestPage:
			return f, large
		case err != nil:
			return f, unreadable()
		}
		if name := part.FormName(); name != "file" && name != "page" && name != "html" && (!isText(string(data)) || name != "packed" && len(data) > 4000) {
			return f, unreadable()
		}
		switch part.FormName() {
		case "op":
			f.op = string(data)
		case "platform":
			f.platform = short(string(data), 60)
		case "source":
			f.source = short(string(data), 300)
		case "page":
			if len(f.page) == 0 {
				f.page = data
			}
		case "html": // of the clipboard, where the page was pasted with it
			if len(strings.TrimSpace(string(data))) > 0 {
				f.page = data
			}
		case "file":
			if len(data) > 0 {
				f.page, f.file = data, true
				if f.source == "" {
					f.source = short(part.FileName(), 120)
				}
			}
		case "packed":
			f.packed = data
		}
	}
	return f, nil
}

// fill shows what was read.
func (b *readBody) fill(r *reader.Reading) {
	b.Read, b.Foreign = true, r.Foreign
	read, guessed := r.Count(reader.Read), r.Count(reader.Guessed)
	b.Say = phrase(study.SayReading(len(r.Edition.Plans), read, guessed, len(r.Left), r.Foreign))
	at := map[int][]stretch{} // by line
	plans := map[string]*readPlan{}
	for i := range r.Edition.Plans {
		p := &r.Edition.Plans[i]
		one := &readPlan{Name: p.Name}
		var notes []string
		if p.Offered == pricelist.OnRequest {
			notes = append(notes, "on request")
		}
		if below, ok := r.Edition.Plan(p.Includes); ok {
			notes = append(notes, "all of "+below.Name+", and more")
		}
		for _, l := range p.Limits {
			if l.Unlimited {
				notes = append(notes, sayLimit(&r.Edition, l))
			}
		}
		one.Note = strings.Join(notes, "; ")
		plans[p.Key] = one
	}
	claims := slices.Clone(r.Claims)
	slices.SortStableFunc(claims, func(a, b reader.Claim) int { return claimRank(a.Path) - claimRank(b.Path) })
	drafted := pricelist.Draft{Edition: r.Edition}
	for i, cl := range claims {
		id := fmt.Sprintf("c%d", i+1)
		if spot, ok := pricelist.Drafts().Spot(drafted, cl.Path); ok {
			cl.Value = spot.Said
		}
		one := readClaim{ID: id, Says: sayClaim(&r.Edition, cl.Path), Value: cl.Value, Mark: string(cl.Mark), Why: cl.Why}
		if steps := cl.Path.Steps(); steps[0] == "plans" && plans[steps[1]] != nil {
			plans[steps[1]].Claims = append(plans[steps[1]].Claims, one)
		} else {
			b.List = append(b.List, one)
		}
		for _, span := range cl.Spans {
			at[span.Line] = append(at[span.Line], stretch{span.From, span.To, string(cl.Mark), id})
		}
	}
	for i := range r.Edition.Plans {
		b.Plans = append(b.Plans, *plans[r.Edition.Plans[i].Key])
	}
	for i, l := range r.Left {
		id := fmt.Sprintf("l%d", i+1)
		b.Left = append(b.Left, readLeft{id, l.Text, around(r.Lines[l.Line].Text, l.From, l.To)})
		at[l.Line] = append(at[l.Line], stretch{l.From, l.To, string(reader.Unknown), id})
	}
	for i, l := range r.Lines {
		b.Lines = append(b.Lines, readLine{Heading: l.Heading > 0, Pieces: cut(l.Text, at[i])})
	}
	b.Try = tryRead(&r.Edition)
}

// tryRead says what a list that was just read comes to at typical usage.
func tryRead(e *pricelist.Edition) string {
	whole := *e
	whole.Plans = slices.Clone(e.Plans)
	if len(whole.Plans) == 0 || len(append(whole.Inherit(), whole.Check()...)) > 0 {
		return ""
	}
	tried, err := study.Try(&whole, nil, nil)
	if err != nil {
		return ""
	}
	all, err := priced(&whole, tried)
	if err != nil {
		return ""
	}
	best := -1
	for i := range all {
		if all[i].Serves() && all[i].Period == 1 && (best < 0 || all[i].Monthly() < all[best].Monthly()) {
			best = i
		}
	}
	var at []string
	for _, d := range tried.Drivers {
		at = append(at, tried.Values[d.Key].Format()+" "+strings.ToLower(d.Name))
	}
	costs := func() string {
		return fmt.Sprintf("%s costs %s a month.", all[best].Plan.Name, e.Currency.Format(all[best].Monthly()))
	}
	switch {
	case best < 0 && len(at) == 0:
		return "No plan has a price by the month."
	case best < 0:
		return "No plan serves " + list(at) + "."
	case len(at) == 0: // what it costs hangs on no usage
		return costs()
	}
	return "For " + list(at) + ", " + costs()
}
