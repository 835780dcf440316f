package study

import (
	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
)

const percent = money.Whole / 100

func must(feature string) startNeed  { return startNeed{feature: feature, level: coverage.Must} }
func want(feature string) startNeed  { return startNeed{feature: feature, level: coverage.Want} }
func bonus(feature string) startNeed { return startNeed{feature: feature, level: coverage.Bonus} }

func (n startNeed) deep(depth int) startNeed       { n.depth = depth; return n }
func (n startNeed) atLeast(number int64) startNeed { n.number = number; return n }

func rated(name, note string, weight money.Share) startCriterion {
	return startCriterion{name, note, weight * percent, fit.Rated, 0}
}

// costing and covering are the criteria that are measured.
func costing(weight money.Share, worst int64) startCriterion {
	return startCriterion{"Cost over the horizon", "least cost scores nine", weight * percent, fit.Cost, worst}
}

func covering(weight money.Share) startCriterion {
	return startCriterion{"Coverage of our needs", "the weighted share of the needs on the plan taken", weight * percent, fit.Coverage, 0}
}

var (
	easeOfWork   = rated("Ease of daily work", "the same task, done by who will do it", 25)
	helpWeTrust  = rated("Help when it matters", "an answer by somebody who knows, within a day", 10)
	leavingAgain = rated("Leaving again", "what can be taken out, and how bound one is", 10)
)

var starts = []Start{
	{Key: "email", Name: "Letters to a growing list", About: "An email platform for a shop or a house with customers: campaigns, triggered letters, segments.",
		Question: "Which email platform carries our list as it grows, with letters that send themselves?",
		drivers:  []startDriver{{"contacts", 5_000, 2 * percent}, {"newsletters", 4, 0}, {"automated_emails", 2, 0}, {"seats", 2, 0}},
		needs: []startNeed{must("automation/event-triggers"), must("lists/segments"), must("letters/own-domain"), must("growth/forms"),
			want("automation/branches").deep(2), want("lists/own-fields"),
			want("automation/cart"), want("letters/subject-tests"), want("links/shop-orders"), want("reports/revenue"), want("lists/cleaning"),
			bonus("letters/reader-hour"), bonus("messages/text"), bonus("growth/referrals")},
		criteria: []startCriterion{costing(30, 12_000), covering(20), easeOfWork, rated("Likeness to us", "a letter built in it, beside the best of ours",
			10), helpWeTrust, rated("Arrival in inboxes", "seen in inboxes, from trials and reviews", 5)}},
	{Key: "newsletter", Name: "A newsletter that people read", About: "For who writes more than they sell: sign-up, growth, an archive, perhaps paid letters.",
		Question: "Where does our newsletter live, so that writing it is a pleasure and readers bring readers?",
		drivers:  []startDriver{{"contacts", 3_000, 4 * percent}, {"newsletters", 6, 0}, {"seats", 1, 0}},
		needs: []startNeed{must("letters/builder"), must("growth/forms"), must("letters/archive"), must("letters/own-domain"), want("growth/referrals"),
			want("growth/recommendations"), want("letters/subject-tests"),
			want("growth/landing-pages"), want("lists/tags"), want("letters/polls"), bonus("letters/paid"), bonus("growth/surveys"), bonus("reports/cohorts")},
		criteria: []startCriterion{costing(25, 8_000), rated("Pleasure of writing", "an issue written in it from first word to sending", 25), covering(15),
			rated("Help with growing", "what brings readers without our hand", 15), rated("Likeness to us", "", 10), leavingAgain}},
	{Key: "crm", Name: "Customers and deals in one place", About: "A CRM for people who sell to people: accounts, pipeline, quotes, on the road too.",
		Question: "Which CRM does our sales desk really use, every day, at a price that holds as seats grow?",
		drivers:  []startDriver{{"contacts", 2_000, percent}, {"seats", 4, 0}},
		needs: []startNeed{must("crm/accounts"), must("sales/pipeline"), must("crm/mail-sync"), must("crm/timeline"), must("team/seats").atLeast(4),
			want("crm/duplicates"), want("sales/quotes"), want("crm/mobile").deep(2),
			want("crm/tasks"), want("reports/dashboard"), want("links/trade-ledger"), want("sales/price-tiers"), bonus("crm/card-scan"),
			bonus("sales/territories"), bonus("crm/visits")},
		criteria: []startCriterion{costing(25, 15_000), easeOfWork, covering(20), rated("Work on the road", "a visit noted on a phone, without a network",
			10), helpWeTrust, leavingAgain}},
	{Key: "search", Name: "Being found", About: "Rank tracking, site checks and keywords for a site that lives by search.",
		Question: "Which search tools tell us what to do next, for the keywords and pages that we really have?",
		drivers:  []startDriver{{"keywords", 300, percent}, {"sites", 1, 0}, {"crawled_pages", 5_000, 0}, {"seats", 2, 0}},
		needs: []startNeed{must("search/rank-tracking").atLeast(300), must("site/audit").atLeast(5_000), want("search/keyword-ideas"),
			want("search/competitors").atLeast(3), want("search/backlinks"), want("search/local"),
			want("site/scheduled-audit"), want("reports/scheduled"), want("search/answers"), bonus("content/briefs"), bonus("search/clusters"),
			bonus("reports/white-label")},
		criteria: []startCriterion{costing(30, 9_000), rated("Truth of its numbers", "ranks and volumes beside what we know of our own", 25), covering(20),
			rated("Advice on what to do next", "a list that a colleague could work through", 15), leavingAgain}},
	{Key: "automation", Name: "Glue between tools", About: "Orders to letters, leads to the CRM, posts from a sheet: runs that nobody has to start.",
		Question: "What do we glue our tools together with, and what will its tasks cost as orders grow?",
		drivers:  []startDriver{{"runs", 2_000, 2 * percent}, {"steps_per_run", 3, 0}, {"workflows", 12, 0}, {"seats", 2, 0}},
		needs: []startNeed{must("automation/multi-step"), must("automation/filters"), must("links/webhooks"), must("automation/retries"),
			want("automation/workflows").atLeast(12), want("links/connectors"), want("automation/logs").atLeast(30),
			want("automation/code"), want("links/spreadsheets"), want("automation/schedules"), bonus("automation/templates"), bonus("team/roles"),
			bonus("team/audit-log")},
		criteria: []startCriterion{costing(35, 8_000), rated("Clarity to a colleague", "a run mended by who did not build it", 25), covering(15),
			rated("Care with what fails", "what happens to a run that fails", 15), leavingAgain}},
	{Key: "social", Name: "Posting where people are", About: "Planning and posting to social accounts, answering what comes back.",
		Question: "What plans our posts, for all accounts, without eating a day a week?",
		drivers:  []startDriver{{"clients", 1, 0}, {"accounts_per_client", 6, 0}, {"posts", 60, percent}, {"seats", 2, 0}},
		needs: []startNeed{must("social/scheduling"), must("social/channels").atLeast(6), must("social/calendar"), want("social/per-network"),
			want("social/short-video"), want("listening/inbox"), want("social/queue"),
			want("content/approval"), want("reports/scheduled"), want("social/carousel"), bonus("social/best-time"), bonus("social/bulk"),
			bonus("social/first-comment")},
		criteria: []startCriterion{costing(25, 6_000), rated("Time to plan a week", "the same week, planned in each", 30), covering(20),
			rated("Answers at hand", "what comes back, found and answered", 15), helpWeTrust}},
	{Key: "content", Name: "Help with writing", About: "Briefs, drafts and images made with help, billed by seats and by credits: what each text costs once the free part is used up.",
		Question: "Which writing help earns its price, for as many texts as we really publish, in our own voice?",
		drivers:  []startDriver{{"ai_credits", 2_000, 2 * percent}, {"posts", 40, 0}, {"seats", 3, 0}},
		needs: []startNeed{must("content/drafts"), must("content/brand-voice"), must("content/ai-credits").atLeast(2_000), want("content/briefs"),
			want("content/translation"), want("content/images"), want("content/approval"), want("content/library"), want("content/calendar"),
			bonus("content/editor-score"), bonus("search/keyword-ideas"), bonus("privacy/eu"), bonus("team/roles")},
		criteria: []startCriterion{costing(25, 6_000), rated("Likeness to us", "ten texts, set before people who know our own", 25), covering(15),
			rated("Work left to do", "minutes until a draft may go out", 20), rated("Truth of what it writes", "facts checked in ten drafts", 15)}},
	{Key: "conversation", Name: "Talking with visitors", About: "Chat, shared inbox and bots for a site whose visitors ask before they buy.",
		Question: "What answers our visitors, by people and by bots, at a price that holds in the busy weeks?",
		drivers:  []startDriver{{"conversations", 400, 2 * percent}, {"contacts", 1_500, percent}, {"bots", 1, 0}, {"seats", 3, 0}},
		needs: []startNeed{must("messages/live-chat"), must("messages/shared-inbox"), must("messages/hand-over"), want("messages/bots"),
			want("messages/bot-answers").deep(2), want("messages/chat-apps"), want("listening/saved-replies"),
			want("links/shop-orders"), want("messages/bot-languages"), want("privacy/eu"), bonus("messages/conversations").atLeast(400),
			bonus("crm/timeline"), bonus("growth/lead-ads")},
		criteria: []startCriterion{costing(30, 9_000), rated("Right answers", "twenty of our own questions, asked of each", 20), covering(15), easeOfWork,
			helpWeTrust}},
	{Key: "all-or-several", Name: "One tool for all, or several", About: "Letters, glue and posts: one platform that does it all, held against stacks of smaller ones.",
		Question: "Is one tool that does it all worth more than several small ones, in money and in work?",
		drivers: []startDriver{{"contacts", 5_000, 2 * percent}, {"newsletters", 4, 0}, {"automated_emails", 1, 0}, {"runs", 1_000, percent},
			{"steps_per_run", 3, 0}, {"clients", 1, 0},
			{"accounts_per_client", 4, 0}, {"posts", 40, 0}, {"seats", 3, 0}},
		needs: []startNeed{must("letters/builder"), must("automation/event-triggers"), must("social/scheduling"), must("automation/multi-step"),
			want("growth/forms"), want("social/channels").atLeast(4), want("links/webhooks"),
			want("crm/timeline"), want("reports/dashboard"), want("lists/one-person-one-count"), bonus("messages/text"), bonus("growth/landing-pages"),
			bonus("team/roles")},
		criteria: []startCriterion{costing(30, 15_000), covering(20), rated("One place to work", "how often one has to change the tool in a day", 20),
			rated("Quality of each part", "the worst part of it, not the best", 20), leavingAgain}},
	{Key: "agency", Name: "An agency with clients", About: "Work for several clients, kept apart, with reports under one's own name; what each client costs.",
		Question: "Which tools carry our clients, kept apart, and from how many clients on do they pay?",
		drivers: []startDriver{{"clients", 8, percent}, {"accounts_per_client", 5, 0}, {"posts", 240, percent}, {"keywords", 800, percent}, {"sites", 8,
			percent}, {"seats", 6, 0}},
		needs: []startNeed{must("team/clients").atLeast(8), must("team/roles"), must("social/scheduling"), must("reports/white-label"),
			want("social/client-approval"), want("search/rank-tracking").atLeast(800), want("site/sites").atLeast(8),
			want("reports/scheduled"), want("team/guests"), want("content/approval"), want("listening/inbox"), bonus("site/audit"), bonus("team/two-steps"),
			bonus("privacy/agreement")},
		criteria: []startCriterion{costing(30, 24_000), rated("What clients see", "a client's eye on a report and an approval", 15), covering(20),
			easeOfWork, helpWeTrust}},
}
