package reader

import (
	"regexp"
	"slices"
	"strings"

	"ninecoins/internal/core/usage"
)

// thing is what price pages count, by the words that they use for it.
type thing struct {
	meter string // and the driver that it counts
	words string // alternatives, the longest first
	unit  string
	kind  usage.Kind
	also  string // why the words may mean something else
}

// things are what price pages bill and limit. What stands first goes before.
var things = []thing{
	{"ad_spend", `(?:ad|media|advertising) (?:spend|budget)`, "ad spend", usage.Flow, ""},
	{"social_accounts", `social (?:media )?(?:accounts?|channels?|profiles?)|connected accounts?|channels?`, "social account", usage.Stock, ""},
	{"crawled_pages", `crawled pages?|pages? crawled|pages? to crawl`, "page", usage.Flow, ""},
	{"ai_credits", `(?:ai|writing) credits?|credits?`, "credit", usage.Flow, ""},
	{"ad_clicks", `(?:ad |paid )?clicks?`, "click", usage.Flow, ""},
	{"newsletters", `newsletters?|campaigns?`, "letter", usage.Flow, ""},
	{"emails_sent", `e-?mails?(?: sends?)?|sends|mailings?|letters? sent`, "email", usage.Flow, ""},
	{"emails_sent", `messages?`, "email", usage.Flow, "messages are taken for emails"},
	{"clients", `client (?:workspaces?|accounts?)|clients?|brands?|client workspaces?|workspaces?`, "brand", usage.Stock, ""},
	{"seats", `users?|seats?|team ?members?|colleagues?|log-?ins?|editors?|people on (?:the|your) team`, "seat", usage.Stock, ""},
	{"contacts", `contacts?|subscribers?|addresses|recipients?|records?`, "contact", usage.Stock, ""},
	{"contacts", `people|profiles?|leads?`, "contact", usage.Stock, "people and profiles are taken for contacts"},
	{"tasks", `tasks?|operations?`, "task", usage.Flow, ""},
	{"runs", `runs?|executions?`, "run", usage.Flow, ""},
	{"workflows", `workflows?|automations?|flows?`, "workflow", usage.Stock, ""},
	{"keywords", `(?:tracked )?keywords?|search terms?|keyphrases?`, "keyword", usage.Stock, ""},
	{"sites", `(?:tracked )?(?:web ?sites?|sites?|domains?)`, "site", usage.Stock, ""},
	{"posts", `(?:scheduled )?posts?`, "post", usage.Flow, ""},
	{"bots", `(?:chat ?)?bots?`, "bot", usage.Stock, ""},
	{"conversations", `conversations?|chats?`, "conversation", usage.Flow, ""},
	{"storage", `gb(?: of)?(?: file)?(?: storage)?|storage`, "GB", usage.Stock, ""},
	{"products", `products?`, "product", usage.Stock, ""},
	{"orders", `orders?`, "order", usage.Flow, ""},
}

// counted is an expression for any of the things, and which of them matched a text.
var (
	counted = func() string {
		all := make([]string, len(things))
		for i, t := range things {
			all[i] = t.words
		}
		return `(?:` + strings.Join(all, "|") + `)`
	}()
	thingForms = func() (all []*regexp.Regexp) {
		for _, t := range things {
			all = append(all, regexp.MustCompile(`^(?:`+t.words+`)$`))
		}
		return all
	}()
	anyThing = regexp.MustCompile(`\b(` + counted + `)\b`)
)

// thingOf finds what a word counts.
func thingOf(word string) (thing, bool) {
	word = strings.TrimSpace(word)
	for i := range things {
		if thingForms[i].MatchString(word) {
			return things[i], true
		}
	}
	return thing{}, false
}

// thingIn finds the thing that a text names; the first of them.
func thingIn(text string) (thing, bool) {
	if w := anyThing.FindString(text); w != "" {
		return thingOf(w)
	}
	return thing{}, false
}

var (
	asks    = regexp.MustCompile(`\b(?:on request|talk to us|contact (?:us|sales)|ask us|get in touch|custom(?: pricing| price| quote)?|by quote|get a quote|let's talk|price on application)\b`)
	notPlan = regexp.MustCompile(`^(?:our )?(?:plans?|prices?|pricing|plans (?:and|&) pricing|add-?ons?|extras?|options?|faq|questions?|frequently asked.*|good to know|features?|what .*|compare.*|all plans.*|included.*|offers?|` +
		`most popular|popular|recommended|best value|monthly|yearly|annually|billed.*|save.*|new|sale|.* sale|home|docs|support|sign (?:up|in)|start.*free.*|try.*|buy.*|choose.*|get started|everything in.*|plan|package|tier|price|per month|more|from)$`)
	addOnHead = regexp.MustCompile(`^(?:optional )?(?:add-?ons?|extras?|optional extras?)\b`)
	includes  = regexp.MustCompile(`^(?:everything|all|all features|all of what is) (?:in|of|from) (?:the )?([^,;+:]+?)(?: plan)?(?:,? ?(?:and|plus|\+)|[,;:]|$)`)
)

// english and foreign are small words by which the language of a page is told.
var (
	english = strings.Fields("the and for per month year of with your up to in is are users contacts free billed each all plan unlimited price prices from a monthly yearly")
	foreign = strings.Fields("der die das und für pro monat jahr mit bis zu alle preise nutzer kontakte ist im ersten le la les et pour par mois an avec jusqu tous prix " +
		"utilisateurs el los las y por mes año con hasta todos precio de het een voor maand jaar met tot alle prijs gebruikers og til med måned brugere i för månad per il gli e al mese con fino prezzo")
)

// isForeign reports whether a page is in another language than these rules know: of
// at least eight small words that are told, more are foreign than English.
func isForeign(lines []Line) bool {
	home, away := 0, 0
	for _, l := range lines {
		for _, w := range strings.FieldsFunc(strings.ToLower(l.Text), func(r rune) bool { return r != '\'' && !isLetter(r) && r < 0x80 }) {
			if slices.Contains(english, w) {
				home++
			}
			if slices.Contains(foreign, w) {
				away++
			}
		}
	}
	return away >= 4 && away > home
}
