package web

import (
	"net/http"

	"ninecoins/internal/doors"

	"github.com/gin-gonic/gin"
)

// route is one thing that the application answers to, and what that needs.
type route struct {
	method, path string
	need         doors.Need
	handle       gin.HandlerFunc
}

// routes lists all of them. One that does not tell its need is not served. The
// posts of a study need what the least of their edits needs; each kind of edit
// tells its own (store.NeedOf).
func (s *Server) routes() []route {
	all := []route{
		{http.MethodGet, "/healthz", doors.Anyone, s.health},
		{http.MethodGet, "/assets/:hash/*path", doors.Anyone, s.assets.serve},
		{http.MethodGet, "/favicon.ico", doors.Anyone, func(c *gin.Context) { c.Redirect(http.StatusMovedPermanently, s.assets.path("mark.svg")) }},

		{http.MethodGet, "/sign-in", doors.Anyone, s.signInPage},
		{http.MethodPost, "/sign-in", doors.Anyone, s.signIn},
		{http.MethodGet, "/forgot", doors.Anyone, s.forgotPage},
		{http.MethodPost, "/forgot", doors.Anyone, s.forgot},
		{http.MethodGet, "/new-password/:token", doors.Anyone, s.newPasswordPage},
		{http.MethodPost, "/new-password/:token", doors.Anyone, s.newPassword},
		{http.MethodGet, "/new-email/:token", doors.Anyone, s.newEmailPage},
		{http.MethodPost, "/new-email/:token", doors.Anyone, s.newEmail},
		{http.MethodGet, "/set-up/:token", doors.Anyone, s.setUpPage},
		{http.MethodPost, "/set-up/:token", doors.Anyone, s.setUp},
		{http.MethodGet, "/join/:token", doors.Anyone, s.joinPage},
		{http.MethodPost, "/join/:token", doors.Anyone, s.join},
		{http.MethodGet, "/read/:token", doors.Anyone, s.read},

		{http.MethodGet, "/", doors.SignedIn, s.desk},
		{http.MethodPost, "/", doors.ToEdit, s.deskEdit},
		{http.MethodPost, "/sign-out", doors.SignedIn, s.signOut},
		{http.MethodPost, "/sign-out/everywhere", doors.SignedIn, s.signOutEverywhere},
		{http.MethodGet, "/account", doors.SignedIn, s.accountPage},
		{http.MethodPost, "/account", doors.SignedIn, s.accountEdit},
		{http.MethodPost, "/workspaces", doors.SignedIn, s.workspaces},
		{http.MethodGet, "/shelf", doors.ToRead, s.shelf},
		{http.MethodPost, "/shelf", doors.ToEdit, s.shelfEdit},
		{http.MethodGet, "/shelf/news", doors.ToRead, s.newsPage},
		{http.MethodPost, "/shelf/news", doors.ToEdit, s.lookForNews},
		{http.MethodGet, "/shelf/read-again.ics", doors.ToRead, s.readAgainCalendar},
		{http.MethodGet, readAt, doors.ToEdit, s.readPage},
		{http.MethodPost, readAt, doors.ToEdit, s.readPrice},
		{http.MethodGet, "/shelf/:edition", doors.ToRead, s.edition},
		{http.MethodGet, "/shelf/platforms/:platform", doors.ToRead, s.platform},
		{http.MethodPost, "/shelf/platforms/:platform", doors.ToEdit, s.platformEdit},
		{http.MethodGet, "/shelf/platforms/:platform/draft", doors.ToRead, s.draftPage},
		{http.MethodPost, "/shelf/platforms/:platform/draft", doors.ToEdit, s.draftEdit},
		{http.MethodGet, "/shelf/platforms/:platform/draft/prices", doors.ToRead, s.draftPage},
		{http.MethodPost, "/shelf/platforms/:platform/draft/prices", doors.ToEdit, s.draftEdit},
		{http.MethodGet, "/shelf/platforms/:platform/compare", doors.ToRead, s.compare},
		{http.MethodPost, "/shelf/platforms/:platform/compare", doors.ToEdit, s.moveStudy},
		{http.MethodGet, "/shelf/platforms/:platform/prices.csv", doors.ToRead, s.pricesFile},
		{http.MethodGet, "/shelf/platforms/:platform/features.csv", doors.ToRead, s.gridFile},
		{http.MethodGet, "/features", doors.ToRead, s.featuresPage},
		{http.MethodPost, "/features", doors.ToEdit, s.featuresEdit},
		{http.MethodGet, "/bin", doors.ToRead, s.bin},
		{http.MethodPost, "/bin", doors.ToEdit, s.binEdit},
		{http.MethodGet, "/history", doors.ToRead, s.workspaceHistory},
		{http.MethodGet, "/files", doors.SignedIn, s.formatsPage},
		{http.MethodGet, "/files/:name", doors.SignedIn, s.formatFile},
		{http.MethodPost, "/files", doors.ToEdit, s.bringIn},
		{http.MethodGet, "/workspace", doors.ToRead, s.workspacePage},
		{http.MethodPost, "/workspace", doors.ToGovern, s.workspaceEdit},
		{http.MethodGet, "/workspace/export", doors.ToGovern, s.export},

		{http.MethodGet, "/studies/:study", doors.ToView, func(c *gin.Context) { c.Redirect(http.StatusSeeOther, "/studies/"+c.Param("study")+"/brief") }},
		{http.MethodGet, "/studies/:study/events", doors.ToView, s.events},
		{http.MethodGet, "/studies/:study/options/:option", doors.ToView, s.show(s.optionPage())},
		{http.MethodPost, "/studies/:study/options/:option", doors.ToRate, s.edited(s.optionPage())},
		{http.MethodGet, "/studies/:study/receipts/:option", doors.ToView, s.show(s.receiptPage())},
		{http.MethodPost, "/studies/:study/rates", doors.ToEdit, s.takeRates},
		{http.MethodGet, "/studies/:study/questions", doors.ToView, s.show(s.questionsPage())},
		{http.MethodPost, "/studies/:study/questions", doors.ToEdit, s.edited(s.questionsPage())},
		{http.MethodGet, "/studies/:study/questions.csv", doors.ToView, s.questionsFile},
		{http.MethodGet, "/studies/:study/differences", doors.ToView, s.show(s.differencesPage())},
		{http.MethodGet, "/studies/:study/costs/take/:file", doors.ToView, s.costsFile},
		{http.MethodGet, "/studies/:study/costs/chance/work", doors.ToView, s.workOn("chance")},
		{http.MethodGet, "/studies/:study/costs/leaving/work", doors.ToView, s.workOn("leaving")},
		{http.MethodGet, "/studies/:study/costs/bargain/work", doors.ToView, s.workOn("bargain")},
		{http.MethodGet, "/studies/:study/costs/doing/:option/todo.ics", doors.ToView, s.doingCalendar},
		{http.MethodGet, "/studies/:study/history", doors.ToRead, s.show(s.historyPage())},
		{http.MethodPost, "/studies/:study/history", doors.ToRate, s.edited(s.historyPage())},
		{http.MethodGet, "/studies/:study/links", doors.ToEdit, s.show(s.linksPage())},
		{http.MethodPost, "/studies/:study/links", doors.ToEdit, s.linksEdit},
	}
	for _, p := range s.coinPages() {
		all = append(all, route{http.MethodGet, "/studies/:study/" + p.key, doors.ToView, s.show(p)},
			route{http.MethodPost, "/studies/:study/" + p.key, doors.ToRate, s.edited(p)})
	}
	for _, p := range s.costPages() {
		all = append(all, route{http.MethodGet, "/studies/:study/" + p.path, doors.ToView, s.show(p.coinPage)},
			route{http.MethodPost, "/studies/:study/" + p.path, doors.ToRate, s.edited(p.coinPage)})
	}
	if s.demo != "" {
		all = append(all, route{http.MethodPost, "/demo", doors.Anyone, s.signInAsDemo}, route{http.MethodGet, "/mailbox", doors.ToGovern, s.mailbox})
	}
	return all
}
