// Package usage holds what grows: drivers, the formulas that derive one from
// others, and their paths over the months of a study.
package usage

import (
	"math"
	"slices"
)

// Kind tells a level from an amount a month.
type Kind string

// The kinds of driver.
const (
	Stock Kind = "stock" // a level: contacts, seats
	Flow  Kind = "flow"  // an amount a month: emails, tasks
)

// Driver is a number that usage is told in. A driver with a formula is
// derived from others; the rest are set by the study.
type Driver struct {
	Key, Name string
	Unit      string // of one: "contact", "email a month"
	Kind      Kind
	Formula   string // empty for a driver that the study sets
	About     string // one sentence for the reader
	Whole     bool   // comes in whole ones: a value of a month is rounded to the nearest
}

// Rounded is a value of a month as the driver comes: to the nearest whole where it comes in
// whole ones.
func (d Driver) Rounded(v float64) float64 {
	if d.Whole {
		return math.Round(v)
	}
	return v
}

// rounded returns values as the driver comes; those given stay as they are.
func (d Driver) rounded(values []float64) []float64 {
	if !d.Whole {
		return values
	}
	all := make([]float64, len(values))
	for i, v := range values {
		all[i] = d.Rounded(v)
	}
	return all
}

// Derived reports whether the driver follows from others.
func (d Driver) Derived() bool { return d.Formula != "" }

// Catalogue returns the standard drivers, in the order in which they are
// shown. A study sets those it needs; the others stand at 0.
func Catalogue() []Driver {
	return []Driver{
		{Key: "contacts", Name: "Contacts", Unit: "contact", Kind: Stock, About: "People on the list, each counted once."},
		{Key: "unsubscribed", Name: "Unsubscribed", Unit: "contact", Kind: Stock, About: "People who left but are still stored; some platforms bill them."},
		{Key: "list_overlap", Name: "List overlap", Unit: "share", Kind: Stock, About: "Share of people who stand on a second list: 0.1 is one in ten."},
		{Key: "newsletters", Name: "Letters a month", Unit: "letter a month", Kind: Flow, About: "Letters sent to the whole list each month."},
		{Key: "automated_emails", Name: "Automated emails per contact", Unit: "email a month per contact", Kind: Flow,
			About: "Triggered emails that a contact gets in a month, on average."},
		{Key: "client_emails", Name: "Sent for clients", Unit: "email a month", Kind: Flow,
			About: "Letters sent each month on behalf of clients, to lists of theirs."},
		{Key: "emails_sent", Name: "Emails sent", Unit: "email a month", Kind: Flow, Formula: "contacts * (newsletters + automated_emails) + client_emails",
			About: "Every contact gets each letter and the automated emails; letters for clients come on top."},
		{Key: "seats", Name: "Seats", Unit: "seat", Kind: Stock, Whole: true, About: "Colleagues who sign in."},
		{Key: "clients", Name: "Brands", Unit: "brand", Kind: Stock, Whole: true, About: "Clients or brands worked for."},
		{Key: "accounts_per_client", Name: "Social accounts per brand", Unit: "account", Kind: Stock, About: "Social accounts that each brand keeps."},
		{Key: "social_accounts", Name: "Social accounts", Unit: "account", Kind: Stock, Formula: "clients * accounts_per_client", About: "All brands' accounts."},
		{Key: "posts", Name: "Posts", Unit: "post a month", Kind: Flow, About: "Posts scheduled each month."},
		{Key: "keywords", Name: "Tracked keywords", Unit: "keyword", Kind: Stock, About: "Search terms whose rank is watched."},
		{Key: "sites", Name: "Tracked sites", Unit: "site", Kind: Stock, Whole: true, About: "Sites whose rank is watched."},
		{Key: "crawled_pages", Name: "Crawled pages", Unit: "page a month", Kind: Flow, About: "Pages read by site checks each month."},
		{Key: "runs", Name: "Automation runs", Unit: "run a month", Kind: Flow, About: "Times that workflows run each month."},
		{Key: "steps_per_run", Name: "Steps per run", Unit: "step", Kind: Stock, About: "Steps that a run takes, on average."},
		{Key: "tasks", Name: "Tasks", Unit: "task a month", Kind: Flow, Formula: "runs * steps_per_run", About: "Steps of all runs."},
		{Key: "workflows", Name: "Active workflows", Unit: "workflow", Kind: Stock, Whole: true, About: "Workflows switched on."},
		{Key: "conversations", Name: "Conversations", Unit: "conversation a month", Kind: Flow, About: "Chats held each month."},
		{Key: "bots", Name: "Bots", Unit: "bot", Kind: Stock, Whole: true, About: "Bots kept."},
		{Key: "ad_clicks", Name: "Ad clicks", Unit: "click a month", Kind: Flow, About: "Paid clicks each month."},
		{Key: "ad_spend", Name: "Ad spend", Unit: "money a month", Kind: Flow, About: "Money spent on ads each month."},
		{Key: "hourly_cost", Name: "Cost of an hour", Unit: "money", Kind: Stock, About: "What an hour of a colleague's work costs; for what you host yourself."},
		{Key: "setup_hours", Name: "Hours to set up", Unit: "hour", Kind: Stock, About: "Work to set up what you host yourself, once."},
		{Key: "upkeep_hours", Name: "Hours of upkeep", Unit: "hour a month", Kind: Flow, About: "Work each month on what you host yourself."},
		{Key: "storage", Name: "Storage", Unit: "GB", Kind: Stock, About: "Files stored."},
		{Key: "ai_credits", Name: "AI credits", Unit: "credit a month", Kind: Flow, About: "Credits used by writing aids each month."},
		{Key: "products", Name: "Products sold", Unit: "product", Kind: Stock, About: "Products on sale."},
		{Key: "orders", Name: "Orders", Unit: "order a month", Kind: Flow, About: "Orders taken each month."},
	}
}

// yielding are the standard drivers that came after studies could have drivers of
// their own: one of a study's own under the same key takes their place.
var yielding = []string{"hourly_cost", "setup_hours", "upkeep_hours", "client_emails"}

// Yields reports whether a standard driver gives its place to one of a study's own
// under the same key.
func Yields(key string) bool { return slices.Contains(yielding, key) }

// InCatalogue finds a standard driver by its key.
func InCatalogue(key string) (Driver, bool) {
	for _, d := range Catalogue() {
		if d.Key == key {
			return d, true
		}
	}
	return Driver{}, false
}
