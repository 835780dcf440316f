package formats

import (
	"time"

	ics "github.com/arran4/golang-ical"
)

// Date is a day of a calendar.
type Date struct {
	ID, Title, About string
	On               time.Time
}

// Calendar writes dates as iCalendar (RFC 5545): an event of a day for each, as of a day.
func Calendar(name string, dates []Date, asOf time.Time) []byte {
	cal := ics.NewCalendar()
	cal.SetProductId("-//Nine Coins//EN")
	cal.SetMethod(ics.MethodPublish)
	cal.SetName(name)
	for _, d := range dates {
		e := cal.AddEvent(d.ID + "@ninecoins.example")
		e.SetDtStampTime(asOf)
		e.SetAllDayStartAt(d.On)
		e.SetAllDayEndAt(d.On.AddDate(0, 0, 1))
		e.SetSummary(d.Title)
		e.SetDescription(d.About)
	}
	return []byte(cal.Serialize(ics.WithNewLineWindows))
}
