package web

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// studyFrame is what surrounds every page of a study: the facts in the head,
// the rail and the counter.
type studyFrame struct {
	ID, Title    string
	Horizon      string
	Money        string
	Pay, Case    string
	Coins        []coinView
	Piles        []pileView
	HorizonShort string
	Faults       []string // of this page, that stand at no field of it
	Undo         undoLine
}

type coinView struct {
	Number          int
	Key, Name, Fact string
	Pie             string // path of the filled part; empty when nothing or all is filled
	Empty, Full     bool
	Active          bool
	Percent         int
	Faults          int // that are mended there
}

// pileView is an option on the counter.
type pileView struct {
	Key, Name  string
	Face       int
	Now        bool
	Place      int
	Fit        string
	Coins      string // width of the clip that fills nine coins
	Range      string // when ratings are missing
	Cost, Plan string
	Out        string
	First      bool
	Known      bool
}

// Coins on the counter are circles of radius 5.5, one every 14 units.
const coinStep, coinWidth = 14.0, 11.0

func newFrame(id string, o *study.Outcome, active string) *studyFrame {
	s := o.Study
	f := &studyFrame{ID: id, Title: s.Title,
		Horizon:      s.Start.String() + " – " + s.Month(s.Horizon-1).String(),
		HorizonShort: fmt.Sprintf("%d-month cost", s.Horizon),
		Money:        s.Currency.Code(), Pay: s.Pay.Say(), Case: s.Case.Say()}
	for _, c := range o.Coins {
		f.Coins = append(f.Coins, newCoin(c, active))
	}
	for _, fault := range o.Faults {
		for i := range f.Coins {
			if f.Coins[i].Key == study.CoinOf(fault.At) {
				f.Coins[i].Faults++
			}
		}
	}
	for _, r := range o.Ranked() {
		f.Piles = append(f.Piles, newPile(s, r))
	}
	return f
}

func newCoin(c study.Coin, active string) coinView {
	return coinView{Number: c.Number, Key: c.Key, Name: c.Name, Fact: c.Fact, Pie: pie(c.Fill),
		Empty: c.Fill <= 0, Full: c.Fill >= 0.999, Active: c.Key == active, Percent: int(math.Round(c.Fill * 100))}
}

func newPile(s *study.Study, r *study.Result) pileView {
	st := r.Standing
	p := pileView{Key: r.Option.Key, Name: r.Option.Name, Face: r.Option.Face, Now: r.Option.Now, Place: st.Place, First: st.Place == 1,
		Known: st.Known > 0, Fit: st.Fit.String(), Cost: s.Currency.FormatShort(r.Schedule.Total)}
	coins := float64(st.Fit)
	if st.Known > 0 && !st.Complete() {
		p.Range, coins = st.String(), float64(st.Low) // what is certain is filled
	}
	full := math.Floor(coins + 1e-9)
	p.Coins = fmt.Sprintf("%.2f", full*coinStep+(coins-full)*coinWidth)
	if !r.In() {
		p.Out = "Out: " + strings.Join(st.Out, "; ")
	}
	if !r.Schedule.Serves() {
		p.Cost = "no cost"
	}
	if r.Today != nil {
		p.Plan = r.Takes() + ", " + r.Paid()
		if plan, paid, _ := r.Mostly(); plan != r.Takes() && r.Schedule.Serves() {
			p.Plan = "mostly " + plan + ", " + paid
		}
	}
	return p
}

// pie returns the path of the filled part of a coin of radius 17 about 0, 0,
// clockwise from the top.
func pie(fill float64) string {
	if fill <= 0 || fill >= 0.999 {
		return ""
	}
	angle := 2 * math.Pi * fill
	large := 0
	if fill > 0.5 {
		large = 1
	}
	return fmt.Sprintf("M0 0V-17A17 17 0 %d 1 %.2f %.2fZ", large, 17*math.Sin(angle), -17*math.Cos(angle))
}

// phrase writes a computed sentence with its strong parts.
func phrase(p study.Phrase) template.HTML {
	var b strings.Builder
	for _, part := range p {
		text := template.HTMLEscapeString(part.Text)
		if part.Strong {
			text = "<strong>" + text + "</strong>"
		}
		b.WriteString(text)
	}
	return template.HTML(b.String())
}

// has writes how a feature is had.
func has(h pricelist.Has) string {
	switch h {
	case pricelist.Unknown:
		return "not yet known"
	case pricelist.Bridge:
		return "through a bridge"
	case pricelist.AsAddOn:
		return "as an add-on"
	}
	return string(h)
}
